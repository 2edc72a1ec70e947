import { endless } from "../deadline.ts";
import type { EditionFile } from "../edition.ts";
import { ShelfFault } from "../faults.ts";
import { type Follower, type Noted, readFollower } from "../follower.ts";
import { mustBeInterval } from "../interval.ts";
import { cut, defaultSet, longestList, setName } from "../list-text.ts";
import {
  bothFrom,
  type FilePlace,
  type Heard,
  type Hearing,
  type ListName,
  type NewFile,
  type NewList,
  noteRunsOut,
  type Place,
  type PresencePlace,
  type PublishingPlace,
  putWith,
  unusedFor,
} from "../place.ts";
import { type Ask, PostgresConnections } from "./postgres-connections.ts";
import type { PostgresPool } from "./postgres-pool.ts";

// PostgreSQL: four tables, made by `prepare`, so that rights can be given apart, and the channel “iudex”, on which the set
// of a new list is told.

const defaultEvery = 10_000;

const tables = `
create table if not exists iudex_editions (
  set_name text not null,
  number bigint not null,
  list text not null,
  stored timestamptz not null default now(),
  primary key (set_name, number)
);
create table if not exists iudex_stops (
  set_name text not null,
  number bigint not null,
  list text not null,
  stored timestamptz not null default now(),
  primary key (set_name, number)
);
create table if not exists iudex_files (
  set_name text not null,
  sha256 text not null,
  content bytea not null,
  used timestamptz not null default now(),
  primary key (set_name, sha256)
);
alter table iudex_files alter column content set storage external;
create table if not exists iudex_followers (
  set_name text not null,
  id text not null,
  note text not null,
  runs_out timestamptz not null,
  primary key (set_name, id)
);`;

const channel = "iudex";

const tableOf: { readonly [N in ListName]: string } = { edition: "iudex_editions", stops: "iudex_stops" };

/** How a shelf in PostgreSQL is found and followed. */
export interface PostgresShelfOptions {
  /** The name of the definition set; “flags” by default. */
  readonly set?: string | undefined;
  /** Milliseconds between two looks for what was not told; ten seconds by default. */
  readonly every?: number | undefined;
  /** What the shelf is called in messages; the engine and the set by default. */
  readonly called?: string | undefined;
}

export function postgresPlace(pool: PostgresPool, options: PostgresShelfOptions = {}): Place {
  const { set = defaultSet, every = defaultEvery, called = `PostgreSQL, set ${set}` } = options;
  mustBeInterval(every);
  if (!setName.test(set))
    throw new TypeError(`“${cut(set)}” is not a name of a set: letters, digits, -, _ and . are expected.`);
  const postgres = new Postgres(pool, set, called);
  return {
    called,
    set,
    every,
    newest: (marks, signal) => bothFrom(postgres.both(signal), marks),
    list: (name, number, signal) => postgres.list(name, number, signal),
    bytes: (file, signal) => postgres.bytes(file, signal),
    hear: (heard) => postgres.hear(heard),
    presence: postgres,
    publishing: postgres,
  };
}

/** Bytes that are asked for at once, so that nobody waits for a large file. */
const pieceBytes = 262_144;

type Texts = { readonly [N in ListName]: string | undefined };

class Postgres implements PresencePlace, PublishingPlace, FilePlace {
  readonly #connections: PostgresConnections;
  readonly #set: string;
  readonly #called: string;

  constructor(pool: PostgresPool, set: string, called: string) {
    this.#connections = new PostgresConnections(pool, called);
    this.#set = set;
    this.#called = called;
  }

  /** By one query. A little more than a list may have is asked for, so that a longer one is known by its length. */
  async both(signal: AbortSignal): Promise<Texts> {
    const newest = (name: ListName) =>
      `(select left(list, ${longestList + 1}) from ${tableOf[name]} where set_name = $1 order by number desc limit 1) as ${name}`;
    const [row] = await this.#rows(signal, `select ${newest("stops")}, ${newest("edition")}`, [this.#set]);
    const text = (name: ListName) => (typeof row?.[name] === "string" ? row[name] : undefined);
    return { stops: text("stops"), edition: text("edition") };
  }

  async list(name: ListName, number: number, signal: AbortSignal): Promise<string | undefined> {
    const query = `select left(list, ${longestList + 1}) as list from ${tableOf[name]} where set_name = $1 and number = $2`;
    const [row] = await this.#rows(signal, query, [this.#set, number]);
    return row && String(row["list"]);
  }

  async *bytes({ sha256, bytes }: EditionFile, signal: AbortSignal): AsyncGenerator<Uint8Array> {
    const query =
      "select substring(content from $2::int for $3::int) as piece from iudex_files where set_name = $4 and sha256 = $1";
    for (let from = 0; from < bytes; from += pieceBytes) {
      const [row] = await this.#rows(signal, query, [sha256, from + 1, pieceBytes, this.#set]);
      const piece = row?.["piece"];
      if (!(piece instanceof Uint8Array) || piece.length === 0)
        throw new ShelfFault(`${this.#called} does not hold the file ${sha256}.`);
      yield piece;
    }
  }

  hear(heard: Heard): Hearing {
    return this.#connections.hear(channel, (payload) => payload.split(" ")[0] === this.#set, heard);
  }

  async note(follower: Follower): Promise<void> {
    await this.#rows(
      endless(),
      `insert into iudex_followers (set_name, id, note, runs_out)
       values ($1, $2, $3, now() + $4 * interval '1 millisecond')
       on conflict (set_name, id) do update set note = excluded.note, runs_out = excluded.runs_out`,
      [this.#set, follower.id, JSON.stringify(follower), noteRunsOut],
    );
  }

  async leave(id: string): Promise<void> {
    const query = "delete from iudex_followers where set_name = $1 and (id = $2 or runs_out < now())";
    await this.#rows(endless(), query, [this.#set, id]);
  }

  async followers(): Promise<readonly Noted[]> {
    const query = `
      select note, extract(epoch from runs_out - now()) * 1000 as left
      from iudex_followers where set_name = $1 and runs_out >= now()`;
    const rows = await this.#rows(endless(), query, [this.#set]);
    return rows.flatMap((row) => {
      const follower = readFollower(String(row["note"]));
      return follower ? [{ ...follower, silent: Math.max(0, noteRunsOut - Number(row["left"])) }] : [];
    });
  }

  async prepare(): Promise<void> {
    await this.#rows(endless(), tables);
  }

  /**
   * Each by itself, without a transaction in which a publisher could fall asleep. Of two at once one is told by the number
   * that it cannot have.
   */
  async put(list: NewList, files: readonly NewFile[], base: number | undefined): Promise<boolean> {
    const table = tableOf[list.name];
    const put = `
      with put as (
        insert into ${table} (set_name, number, list)
        select $1, $2::bigint, $3
        where (select max(number) from ${table} where set_name = $1) is not distinct from $4::bigint
        on conflict do nothing
        returning number
      )
      select pg_notify('${channel}', $1 || ' ${list.name} ' || number) from put`;
    const words = [this.#set, list.number, list.text, base ?? null];
    const claim = async () => (await this.#rows(endless(), put, words)).length > 0;
    return putWith(this, files, claim);
  }

  async missing(files: readonly NewFile[]): Promise<readonly NewFile[]> {
    if (files.length === 0) return [];
    const touch =
      "update iudex_files set used = now() where set_name = $1 and sha256 = any($2::text[]) returning sha256";
    const rows = await this.#rows(endless(), touch, [this.#set, files.map(({ sha256 }) => sha256)]);
    const there = new Set(rows.map((row) => row["sha256"]));
    return files.filter(({ sha256 }) => !there.has(sha256));
  }

  async forget(named: ReadonlySet<string>): Promise<number> {
    const remove = `
      delete from iudex_files where set_name = $1 and sha256 <> all($2::text[])
      and used < now() - $3 * interval '1 millisecond' returning sha256`;
    return (await this.#rows(endless(), remove, [this.#set, [...named], unusedFor])).length;
  }

  async putFile(file: NewFile): Promise<void> {
    const insert =
      "insert into iudex_files (set_name, sha256, content) values ($1, $2, $3) on conflict (set_name, sha256) do nothing";
    await this.#rows(endless(), insert, [this.#set, file.sha256, Buffer.from(await file.read())]);
  }

  #rows(signal: AbortSignal, text: string, values: unknown[] = []): ReturnType<Ask> {
    return this.#connections.using(signal, (ask) => ask(text, values));
  }
}
