import { claimedNumber, defaultSet, type Edition, type EditionFile, setName } from "../edition.ts";
import { reasonOf, ShelfFault } from "../faults.ts";
import type { Heard, Hearing, Looked, NewFile, Place, PublishingPlace, RollCallPlace } from "../place.ts";
import { type Follower, readFollower } from "../roll-call.ts";

// Redis:
//
//   iudex:{SET}:edition            the newest list; it changes last
//   iudex:{SET}:edition:<number>   every list
//   iudex:{SET}:file:<sha256>      the files, each once
//   iudex:{SET}:follower:<id>      notes of the roll-call, which expire
//   iudex:{SET}:news               the channel on which the number of a new edition is told
//
// The braces keep the keys of a set together in a cluster.

const defaultEvery = 10_000;

/** What of node-redis is used; any client with these methods will do. */
export interface RedisClient {
  /** Sends one command as it stands. */
  sendCommand(words: readonly (string | Buffer)[], options?: object): Promise<unknown>;
  /** Another connection with the same settings, not connected yet. */
  duplicate(): RedisSubscriber;
  /** Hears of lost connections. */
  on(event: "error", listener: () => void): unknown;
}

/** A connection of its own for hearing of news. */
export interface RedisSubscriber {
  /** Hears of "ready" and "error". */
  on(event: string, listener: (...words: unknown[]) => void): unknown;
  /** Connects, and again by itself when the connection is lost. */
  connect(): Promise<unknown>;
  /** Hears what is told on a channel. */
  subscribe(channel: string, listener: (message: string) => void): Promise<unknown>;
  /** Ends the connection at once. */
  destroy(): unknown;
}

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
  if (!setName.test(set))
    throw new TypeError(`“${set}” is no name of a set: letters, digits, -, _ and . are expected.`);
  const redis = new Redis(client, `iudex:{${set}}:`, called);
  return {
    called,
    set,
    every,
    newest: (mark) => redis.newest(mark),
    list: (number) => redis.text(`edition:${number}`),
    bytes: (file, signal) => redis.bytes(file, signal),
    hear: (heard) => redis.hear(heard),
    rollCall: redis,
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

class Redis implements RollCallPlace, PublishingPlace {
  readonly #client: RedisClient;
  readonly #prefix: string;
  readonly #called: string;
  /** One look at a time: what hangs is not asked again and again. */
  #looking: Promise<Buffer | undefined> | undefined;

  constructor(client: RedisClient, prefix: string, called: string) {
    this.#client = client;
    this.#prefix = prefix;
    this.#called = called;
    // The client connects again by itself; unheard, a lost connection would end the process.
    client.on("error", () => {});
  }

  async newest(mark: string | undefined): Promise<Looked> {
    this.#looking ??= this.#bytes(["GET", this.#key("edition")]).finally(() => {
      this.#looking = undefined;
    });
    const text = (await this.#looking)?.toString("utf8");
    if (text === undefined) return { kind: "empty" };
    return text === mark ? { kind: "same" } : { kind: "list", text, mark: text };
  }

  async text(name: string): Promise<string | undefined> {
    return (await this.#bytes(["GET", this.#key(name)]))?.toString("utf8");
  }

  async *bytes({ sha256, bytes }: EditionFile, signal: AbortSignal): AsyncGenerator<Uint8Array> {
    const key = this.#key(`file:${sha256}`);
    for (let from = 0; from < bytes; from += pieceBytes) {
      signal.throwIfAborted();
      const piece = await this.#bytes(["GETRANGE", key, String(from), String(from + pieceBytes - 1)]);
      if (!piece || piece.length === 0) throw new ShelfFault(`${this.#called} does not hold the file ${sha256}.`);
      yield piece;
    }
  }

  hear(heard: Heard): Hearing {
    const connection = this.#client.duplicate();
    let isClosed = false;
    connection.on("error", (error) => {
      if (!isClosed) heard.failed(`${this.#called} tells no news: ${reasonOf(error)}.`);
    });
    // Whatever was told while nobody was connected is looked for.
    connection.on("ready", () => heard.changed());
    const start = async () => {
      await connection.connect();
      await connection.subscribe(this.#key("news"), () => heard.changed());
      heard.changed();
    };
    start().catch((error: unknown) => {
      if (!isClosed) heard.failed(`${this.#called} tells no news: ${reasonOf(error)}.`);
    });
    return {
      close: async () => {
        isClosed = true;
        connection.destroy();
      },
    };
  }

  async note(follower: Follower, runsOut: number): Promise<void> {
    await this.#send(["SET", this.#key(`follower:${follower.id}`), JSON.stringify(follower), "PX", String(runsOut)]);
  }

  async leave(id: string): Promise<void> {
    await this.#send(["DEL", this.#key(`follower:${id}`)]);
  }

  async followers(): Promise<readonly Follower[]> {
    const notes: Follower[] = [];
    let cursor = "0";
    do {
      const words = ["SCAN", cursor, "MATCH", this.#key("follower:*"), "COUNT", "500"];
      const [next, keys] = (await this.#send(words)) as [string, string[]];
      cursor = String(next);
      const texts = keys.length === 0 ? [] : ((await this.#send(["MGET", ...keys])) as (string | null)[]);
      for (const text of texts) notes.push(...(text === null ? [] : [readFollower(text) ?? []].flat()));
    } while (cursor !== "0");
    // A key may be scanned twice.
    return [...new Map(notes.map((note) => [note.id, note])).values()];
  }

  async publish(edition: Edition, list: string, files: readonly NewFile[], base: number | undefined): Promise<boolean> {
    const standing = (await this.text("edition")) ?? "";
    if (claimedNumber(standing) !== base) return false;
    for (const file of files) await this.#putFile(file);
    const keys = [this.#key("edition"), this.#key(`edition:${edition.number}`)];
    const words = [standing, list, this.#key("news"), String(edition.number)];
    return Number(await this.#send(["EVAL", putList, "2", ...keys, ...words])) === 1;
  }

  /** Appended in pieces under another name, then renamed: it is there whole or not at all. */
  async #putFile(file: NewFile): Promise<void> {
    const key = this.#key(`file:${file.sha256}`);
    if (Number(await this.#send(["STRLEN", key])) === file.bytes && (await this.#send(["EXISTS", key])) === 1) return;
    const aside = this.#key(`writing:${crypto.randomUUID()}`);
    const bytes = Buffer.from(await file.read());
    await this.#send(["SET", aside, bytes.subarray(0, pieceBytes), "PX", "600000"]);
    for (let from = pieceBytes; from < bytes.length; from += pieceBytes)
      await this.#send(["APPEND", aside, bytes.subarray(from, from + pieceBytes)]);
    await this.#send(["PERSIST", aside]);
    await this.#send(["RENAME", aside, key]);
  }

  #key(name: string): string {
    return this.#prefix + name;
  }

  async #bytes(words: readonly string[]): Promise<Buffer | undefined> {
    const answer = await this.#send(words, asBytes);
    return answer === null || answer === undefined ? undefined : Buffer.from(answer as Buffer);
  }

  async #send(words: readonly (string | Buffer)[], options?: object): Promise<unknown> {
    try {
      return await this.#client.sendCommand(words, options);
    } catch (error) {
      throw new ShelfFault(`${this.#called} cannot be used: ${reasonOf(error)}.`, { cause: error });
    }
  }
}
