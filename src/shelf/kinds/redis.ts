import { endless } from "../deadline.ts";
import type { EditionFile } from "../edition.ts";
import { ShelfFault } from "../faults.ts";
import { type Follower, type Noted, readFollower } from "../follower.ts";
import { mustBeInterval } from "../interval.ts";
import { claimedIn, cut, defaultSet, longestList, setName } from "../list-text.ts";
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
import type { RedisClient } from "./redis-client.ts";
import { RedisConnection } from "./redis-connection.ts";

// Redis:
//
//   iudex:{SET}:edition            the newest edition's list; it changes last
//   iudex:{SET}:edition:<number>   every edition's list
//   iudex:{SET}:stops              what is stopped
//   iudex:{SET}:stops:<number>     every list of stops
//   iudex:{SET}:file:<sha256>      the files, each once
//   iudex:{SET}:files              when each of them was used last by a publisher, in seconds
//   iudex:{SET}:follower:<id>      notes of the followers, which expire
//   iudex:{SET}:news               the channel on which a new list is told
//
// The braces keep the keys of a set together in a cluster.

const defaultEvery = 10_000;

/** How a shelf in Redis is found and followed. */
export interface RedisShelfOptions {
  /** The name of the definition set: letters, digits, `-`, `_`, `.`; “flags” by default. */
  readonly set?: string | undefined;
  /** Milliseconds between two looks for what was not told; ten seconds by default. */
  readonly every?: number | undefined;
  /** What the shelf is called in messages; the engine and the set by default. */
  readonly called?: string | undefined;
}

export function redisPlace(client: RedisClient, options: RedisShelfOptions = {}): Place {
  const { set = defaultSet, every = defaultEvery, called = `Redis, set ${set}` } = options;
  mustBeInterval(every);
  if (!setName.test(set))
    throw new TypeError(`“${cut(set)}” is not a name of a set: letters, digits, -, _ and . are expected.`);
  const redis = new Redis(client, `iudex:{${set}}:`, called);
  return {
    called,
    set,
    every,
    newest: (marks, signal) => bothFrom(redis.both(signal), marks),
    list: (name, number, signal) => redis.text(`${name}:${number}`, signal),
    bytes: (file, signal) => redis.bytes(file, signal),
    hear: (heard) => redis.hear(heard),
    presence: redis,
    publishing: redis,
  };
}

/** Answers as bytes, in the ways of node-redis 4 and of those after it ("$" is the bulk string of RESP). */
const asBytes = { returnBuffers: true, typeMapping: { ["$".charCodeAt(0)]: Buffer } };

/** Bytes that are asked for at once, so that nobody waits for a large file. */
const pieceBytes = 262_144;

/** Puts the list, if the newest is still the one that was looked at; tells of it. */
const putList = `
local standing = redis.call("GET", KEYS[1])
if (standing or "") ~= ARGV[1] then return 0 end
redis.call("SET", KEYS[2], ARGV[2])
redis.call("SET", KEYS[1], ARGV[2])
redis.call("PUBLISH", ARGV[3], ARGV[4])
return 1`;

/** Touches files that are there, and gives the places of the others. */
const touchFiles = `
local now = redis.call("TIME")[1]
local missing = {}
for i = 2, #KEYS do
  local digest, size = ARGV[2 * i - 3], tonumber(ARGV[2 * i - 2])
  if redis.call("EXISTS", KEYS[i]) == 1 and redis.call("STRLEN", KEYS[i]) == size then
    redis.call("ZADD", KEYS[1], now, digest)
  else
    missing[#missing + 1] = i - 2
  end
end
return missing`;

/** Removes a file that was not used since; it may have been in the meantime. */
const removeFile = `
local used = redis.call("ZSCORE", KEYS[1], ARGV[1])
if not used or tonumber(used) > tonumber(ARGV[2]) then return 0 end
redis.call("ZREM", KEYS[1], ARGV[1])
return redis.call("DEL", KEYS[2])`;

/** Files that one script looks at. */
const filesAtOnce = 500;

type Texts = { readonly [N in ListName]: string | undefined };

class Redis implements PresencePlace, PublishingPlace, FilePlace {
  readonly #connection: RedisConnection;
  readonly #prefix: string;
  readonly #called: string;
  /** One look at a time: what hangs is not asked again and again. */
  #looking: Promise<Texts> | undefined;

  constructor(client: RedisClient, prefix: string, called: string) {
    this.#connection = new RedisConnection(client, called);
    this.#prefix = prefix;
    this.#called = called;
  }

  /** Sent together, the stops first: one round trip. */
  both(signal: AbortSignal): Promise<Texts> {
    this.#looking ??= Promise.all([this.text("stops", signal), this.text("edition", signal)])
      .then(([stops, edition]) => ({ stops, edition }))
      .finally(() => {
        this.#looking = undefined;
      });
    return this.#looking;
  }

  /** A little more than a list may have, so that a longer one is known by its length. */
  async text(name: string, signal: AbortSignal): Promise<string | undefined> {
    const bytes = await this.#bytes(["GETRANGE", this.#key(name), "0", String(longestList)], signal);
    return bytes === undefined || bytes.length === 0 ? undefined : bytes.toString("utf8");
  }

  async *bytes({ sha256, bytes }: EditionFile, signal: AbortSignal): AsyncGenerator<Uint8Array> {
    const key = this.#key(`file:${sha256}`);
    for (let from = 0; from < bytes; from += pieceBytes) {
      signal.throwIfAborted();
      const piece = await this.#bytes(["GETRANGE", key, String(from), String(from + pieceBytes - 1)], signal);
      if (!piece || piece.length === 0) throw new ShelfFault(`${this.#called} does not hold the file ${sha256}.`);
      yield piece;
    }
  }

  hear(heard: Heard): Hearing {
    return this.#connection.hear(this.#key("news"), heard);
  }

  async note(follower: Follower): Promise<void> {
    const key = this.#key(`follower:${follower.id}`);
    await this.#send(["SET", key, JSON.stringify(follower), "PX", String(noteRunsOut)]);
  }

  async leave(id: string): Promise<void> {
    await this.#send(["DEL", this.#key(`follower:${id}`)]);
  }

  async followers(): Promise<readonly Noted[]> {
    const notes: Noted[] = [];
    let cursor = "0";
    do {
      const words = ["SCAN", cursor, "MATCH", this.#key("follower:*"), "COUNT", "500"];
      const [next, keys] = (await this.#send(words)) as [string, string[]];
      cursor = String(next);
      if (keys.length > 0) notes.push(...(await this.#notesAt(keys)));
    } while (cursor !== "0");
    // A key may be scanned twice.
    return [...new Map(notes.map((note) => [note.id, note])).values()];
  }

  /** When each was written is known by how long it still stays. */
  async #notesAt(keys: readonly string[]): Promise<Noted[]> {
    const [texts, ...left] = (await Promise.all([
      this.#send(["MGET", ...keys]),
      ...keys.map((key) => this.#send(["PTTL", key])),
    ])) as [(string | null)[], ...number[]];
    return texts.flatMap((text, i) => {
      const follower = text === null ? undefined : readFollower(text);
      return follower ? [{ ...follower, silent: Math.max(0, noteRunsOut - Number(left[i])) }] : [];
    });
  }

  async put(list: NewList, files: readonly NewFile[], base: number | undefined): Promise<boolean> {
    const { name, number, text } = list;
    const standing = (await this.text(name, endless())) ?? "";
    if (claimedIn(standing).number !== base) return false;
    const keys = [this.#key(name), this.#key(`${name}:${number}`)];
    const words = [standing, text, this.#key("news"), `${name} ${number}`];
    const claim = async () => Number(await this.#send(["EVAL", putList, "2", ...keys, ...words])) === 1;
    return putWith(this, files, claim);
  }

  async missing(files: readonly NewFile[]): Promise<readonly NewFile[]> {
    const missing: NewFile[] = [];
    for (let from = 0; from < files.length; from += filesAtOnce) {
      const some = files.slice(from, from + filesAtOnce);
      const keys = [this.#key("files"), ...some.map(({ sha256 }) => this.#key(`file:${sha256}`))];
      const words = some.flatMap(({ sha256, bytes }) => [sha256, String(bytes)]);
      const found = await this.#send(["EVAL", touchFiles, String(keys.length), ...keys, ...words]);
      for (const at of found as number[]) missing.push(some[Number(at)]!);
    }
    return missing;
  }

  async forget(named: ReadonlySet<string>): Promise<number> {
    const [seconds] = (await this.#send(["TIME"])) as [string];
    const limit = String(Number(seconds) - unusedFor / 1_000);
    const unused = (await this.#send(["ZRANGEBYSCORE", this.#key("files"), "-inf", limit])) as string[];
    let removed = 0;
    for (const sha256 of unused) {
      if (named.has(sha256)) continue;
      const keys = [this.#key("files"), this.#key(`file:${sha256}`)];
      removed += Number(await this.#send(["EVAL", removeFile, "2", ...keys, sha256, limit]));
    }
    return removed;
  }

  /** Appended in pieces under another name, then renamed: it is there whole or not at all. */
  async putFile(file: NewFile): Promise<void> {
    const key = this.#key(`file:${file.sha256}`);
    const aside = this.#key(`writing:${crypto.randomUUID()}`);
    const bytes = Buffer.from(await file.read());
    await this.#send(["SET", aside, bytes.subarray(0, pieceBytes), "PX", "600000"]);
    for (let from = pieceBytes; from < bytes.length; from += pieceBytes)
      await this.#send(["APPEND", aside, bytes.subarray(from, from + pieceBytes)]);
    await this.#send(["PERSIST", aside]);
    await this.#send(["RENAME", aside, key]);
    await this.missing([file]);
  }

  #key(name: string): string {
    return this.#prefix + name;
  }

  async #bytes(words: readonly string[], signal: AbortSignal): Promise<Buffer | undefined> {
    const answer = await this.#connection.send(words, signal, asBytes);
    return answer === null || answer === undefined ? undefined : Buffer.from(answer as Buffer);
  }

  #send(words: readonly (string | Buffer)[]): Promise<unknown> {
    return this.#connection.send(words, endless());
  }
}
