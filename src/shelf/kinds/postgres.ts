import { endless } from "../deadline.ts";
import { defaultSet, type Edition, type EditionFile, setName } from "../edition.ts";
import { reasonOf, ShelfFault } from "../faults.ts";
import type { Heard, Hearing, Looked, NewFile, Place, PublishingPlace, RollCallPlace } from "../place.ts";
import { type Follower, readFollower } from "../roll-call.ts";

// PostgreSQL: three tables, made by `prepare`, and the channel “iudex”, on which the set and number of a new edition are
// told when its transaction ends.

const defaultEvery = 10_000;

const tables = `
create table if not exists iudex_editions (
  set_name text not null,
  number bigint not null,
  list text not null,
  stored timestamptz not null default now(),
  primary key (set_name, number)
);
create table if not exists iudex_files (
  sha256 text primary key,
  content bytea not null
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

/** What of a pool of pg is used. */
export interface PostgresPool {
  /** A client of the pool. */
  connect(): Promise<PostgresClient>;
  /** Hears of lost connections. */
  on(event: "error", listener: () => void): unknown;
}

/** What of a client of pg is used. */
export interface PostgresClient {
  /** Sends one query. */
  query(text: string, values?: unknown[]): Promise<{ readonly rows: readonly unknown[] }>;
  /** Hears of "notification" and "error". */
  on(event: string, listener: (...words: unknown[]) => void): unknown;
  /** Hears no more. */
  removeListener(event: string, listener: (...words: unknown[]) => void): unknown;
  /** Gives it back to the pool, or ends its connection. */
  release(destroy?: boolean): void;
}

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
  if (!setName.test(set))
    throw new TypeError(`“${set}” is no name of a set: letters, digits, -, _ and . are expected.`);
  const postgres = new Postgres(pool, set, called);
  return {
    called,
    set,
    every,
    newest: (mark, signal) => postgres.newest(mark, signal),
    list: (number, signal) => postgres.list(number, signal),
    bytes: (file, signal) => postgres.bytes(file, signal),
    hear: (heard) => postgres.hear(heard),
    rollCall: postgres,
    publishing: postgres,
  };
}

/** Bytes that are asked for at once, so that nobody waits for a large file. */
const pieceBytes = 262_144;

/** Milliseconds after which a lost connection for news is made again. */
const againAfter = 500;

class Postgres implements RollCallPlace, PublishingPlace {
  readonly #pool: PostgresPool;
  readonly #set: string;
  readonly #called: string;
  /** A connection that nobody waits for any more: of a server that hangs no second one is asked for. */
  #abandoned: Promise<void> | undefined;

  constructor(pool: PostgresPool, set: string, called: string) {
    this.#pool = pool;
    this.#set = set;
    this.#called = called;
    // An idle client that loses its connection is the pool's to replace; unheard, it would end the process.
    pool.on("error", () => {});
  }

  async newest(mark: string | undefined, signal: AbortSignal): Promise<Looked> {
    const query = "select list from iudex_editions where set_name = $1 order by number desc limit 1";
    const [row] = await this.#rows(signal, query, [this.#set]);
    if (!row) return { kind: "empty" };
    const text = String(row["list"]);
    return text === mark ? { kind: "same" } : { kind: "list", text, mark: text };
  }

  async list(number: number, signal: AbortSignal): Promise<string | undefined> {
    const query = "select list from iudex_editions where set_name = $1 and number = $2";
    const [row] = await this.#rows(signal, query, [this.#set, number]);
    return row && String(row["list"]);
  }

  async *bytes({ sha256, bytes }: EditionFile, signal: AbortSignal): AsyncGenerator<Uint8Array> {
    const query = "select substring(content from $2::int for $3::int) as piece from iudex_files where sha256 = $1";
    for (let from = 0; from < bytes; from += pieceBytes) {
      const [row] = await this.#rows(signal, query, [sha256, from + 1, pieceBytes]);
      const piece = row?.["piece"];
      if (!(piece instanceof Uint8Array) || piece.length === 0)
        throw new ShelfFault(`${this.#called} does not hold the file ${sha256}.`);
      yield piece;
    }
  }

  /** Keeps one connection of the pool for hearing of news; a lost one is made again. */
  hear(heard: Heard): Hearing {
    let client: PostgresClient | undefined;
    let isClosed = false;
    let timer: NodeJS.Timeout | undefined;
    const lost = (which: PostgresClient | undefined, error: unknown) => {
      if (which !== client || isClosed) return;
      client = undefined;
      which?.release(true);
      heard.failed(`${this.#called} tells no news: ${wordsOf(error)}.`);
      timer = setTimeout(() => void begin(), againAfter).unref();
    };
    const begin = async () => {
      try {
        const fresh = await this.#pool.connect();
        if (isClosed) return fresh.release(true);
        client = fresh;
        fresh.on("error", (error) => lost(fresh, error));
        fresh.on("notification", (message) => {
          const { payload } = message as { readonly payload?: string };
          if (payload?.split(" ")[0] === this.#set) heard.changed();
        });
        await fresh.query(`listen ${channel}`);
        // Whatever was told while nobody listened is looked for.
        heard.changed();
      } catch (error) {
        lost(client, error);
      }
    };
    void begin();
    return {
      close: async () => {
        isClosed = true;
        clearTimeout(timer);
        client?.release(true);
      },
    };
  }

  async note(follower: Follower, runsOut: number): Promise<void> {
    await this.#rows(
      endless(),
      `insert into iudex_followers (set_name, id, note, runs_out)
       values ($1, $2, $3, now() + $4 * interval '1 millisecond')
       on conflict (set_name, id) do update set note = excluded.note, runs_out = excluded.runs_out`,
      [this.#set, follower.id, JSON.stringify(follower), runsOut],
    );
  }

  async leave(id: string): Promise<void> {
    const query = "delete from iudex_followers where set_name = $1 and (id = $2 or runs_out < now())";
    await this.#rows(endless(), query, [this.#set, id]);
  }

  async followers(): Promise<readonly Follower[]> {
    const query = "select note from iudex_followers where set_name = $1 and runs_out >= now()";
    const rows = await this.#rows(endless(), query, [this.#set]);
    return rows.flatMap((row) => readFollower(String(row["note"])) ?? []);
  }

  async prepare(): Promise<void> {
    await this.#using(endless(), async (client) => void (await client.query(tables)));
  }

  /** All in one transaction; of two at once one is told by the number that it cannot have. */
  publish(edition: Edition, list: string, files: readonly NewFile[], base: number | undefined): Promise<boolean> {
    return this.#using(endless(), async (client) => {
      await client.query("begin");
      try {
        await client.query("select pg_advisory_xact_lock(hashtext('iudex ' || $1))", [this.#set]);
        const newest = "select max(number) as number from iudex_editions where set_name = $1";
        const [row] = (await client.query(newest, [this.#set])).rows as { number: string | null }[];
        if ((row?.number == null ? undefined : Number(row.number)) !== base) {
          await client.query("rollback");
          return false;
        }
        for (const file of files) await putFile(client, file);
        const insert = "insert into iudex_editions (set_name, number, list) values ($1, $2, $3)";
        await client.query(insert, [this.#set, edition.number, list]);
        await client.query("select pg_notify($1, $2)", [channel, `${this.#set} ${edition.number}`]);
        await client.query("commit");
        return true;
      } catch (error) {
        await client.query("rollback").catch(() => {});
        throw error;
      }
    });
  }

  async #rows(signal: AbortSignal, text: string, values: unknown[]): Promise<readonly Record<string, unknown>[]> {
    const { rows } = await this.#using(signal, (client) => client.query(text, values));
    return rows as readonly Record<string, unknown>[];
  }

  /** A client for a piece of work; one that is given up on while it is asked is thrown away. */
  async #using<T>(signal: AbortSignal, work: (client: PostgresClient) => Promise<T>): Promise<T> {
    const client = await this.#client(signal);
    let isReleased = false;
    const release = (destroy: boolean) => {
      if (!isReleased) client.release(destroy);
      isReleased = true;
    };
    const giveUp = () => release(true);
    signal.addEventListener("abort", giveUp, { once: true });
    client.on("error", giveUp);
    try {
      return await work(client);
    } catch (error) {
      throw new ShelfFault(`${this.#called} cannot be used: ${wordsOf(error)}.`, { cause: error });
    } finally {
      signal.removeEventListener("abort", giveUp);
      client.removeListener("error", giveUp);
      release(false);
    }
  }

  async #client(signal: AbortSignal): Promise<PostgresClient> {
    await this.#abandoned;
    const connecting = this.#pool.connect();
    const giveUp = () => {
      this.#abandoned = connecting.then((client) => client.release()).catch(() => {});
      void this.#abandoned.then(() => {
        this.#abandoned = undefined;
      });
    };
    signal.addEventListener("abort", giveUp, { once: true });
    try {
      return await connecting;
    } catch (error) {
      throw new ShelfFault(`${this.#called} cannot be reached: ${wordsOf(error)}.`, { cause: error });
    } finally {
      signal.removeEventListener("abort", giveUp);
    }
  }
}

async function putFile(client: PostgresClient, file: NewFile): Promise<void> {
  const known = await client.query("select 1 from iudex_files where sha256 = $1", [file.sha256]);
  if (known.rows.length > 0) return;
  const insert = "insert into iudex_files (sha256, content) values ($1, $2) on conflict (sha256) do nothing";
  await client.query(insert, [file.sha256, Buffer.from(await file.read())]);
}

/** What to do where the tables are not there, or not ours. */
function wordsOf(error: unknown): string {
  const { code } = error as { code?: string };
  if (code === "42P01") return "its tables are missing; make them with iudex publish --prepare";
  if (code === "42501") return `${reasonOf(error)} (this role may not do that)`;
  return reasonOf(error);
}
