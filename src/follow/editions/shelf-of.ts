import { type Followable, type Opened, open, type ShelfOptions } from "../../flags/index.ts";
import {
  type Edition,
  EditionFault,
  endless,
  type FolderShelfOptions,
  folderPlace,
  type ListName,
  type Noted,
  type Place,
  type PostgresPool,
  type PostgresShelfOptions,
  postgresPlace,
  type RedisClient,
  type RedisShelfOptions,
  readEdition,
  readList,
  redisPlace,
  ShelfFault,
  type ShelfStops,
  stopsList,
  type WebShelfOptions,
  webPlace,
  within,
} from "../../shelf/index.ts";
import { openShelf } from "./open-shelf.ts";

/** How long a shelf may take for one answer, in milliseconds. */
const answerTime = 30_000;

/** The place of a shelf, for those inside who publish to it. */
export const placeOf: unique symbol = Symbol("iudex.place");

/**
 * A place where editions stand: made by `folderShelf`, `webShelf`, `redisShelf` or `postgresShelf`, and followed by
 * `followFlags`.
 */
export class Shelf implements Followable {
  /** @internal */
  readonly [placeOf]: Place;

  private constructor(place: Place) {
    this[placeOf] = place;
  }

  /** @internal */
  static at(place: Place): Shelf {
    return new Shelf(place);
  }

  /** What it is called in messages; without passwords. */
  get called(): string {
    return this[placeOf].called;
  }

  /** @internal */
  [open](options: ShelfOptions<unknown>): Promise<Opened> {
    return openShelf(this[placeOf], options);
  }

  /**
   * The editions, newest first, as far back as they stand.
   *
   * @throws {ShelfFault} where the shelf does not answer
   * @throws {EditionFault} for one that cannot be read or verified
   *
   * @example for await (const { number, by, note } of shelf.editions({ most: 5 })) console.log(number, by, note);
   */
  async *editions({ most = 20, keys }: EditionsOptions = {}): AsyncGenerator<Edition> {
    const newest = await this.newest(keys);
    if (!newest) return;
    yield newest;
    for (let number = newest.number - 1; number > Math.max(0, newest.number - most); number--) {
      const edition = await this.edition(number, keys);
      if (edition) yield edition;
    }
  }

  /** The newest edition; undefined where there is none. @throws as `editions` does */
  async newest(keys?: ShelfOptions["keys"]): Promise<Edition | undefined> {
    const text = await this.#newest("edition");
    return text === undefined ? undefined : readEdition(text, keys);
  }

  /** What is stopped at the shelf; undefined where nothing ever was. @throws as `editions` does */
  async stops(keys?: ShelfOptions["keys"]): Promise<ShelfStops | undefined> {
    const text = await this.#newest("stops");
    return text === undefined ? undefined : (await readList(stopsList, text, keys)).list;
  }

  async #newest(name: ListName): Promise<string | undefined> {
    const place = this[placeOf];
    const looked = await within(answerTime, place.called, endless(), (signal) => {
      const both = place.newest({ stops: undefined, edition: undefined }, signal);
      // The other one is not asked about.
      both[name === "stops" ? "edition" : "stops"].catch(() => {});
      return both[name];
    });
    return looked.kind === "list" ? looked.text : undefined;
  }

  /** An edition by its number; undefined where it does not stand. @throws as `editions` does */
  async edition(number: number, keys?: ShelfOptions["keys"]): Promise<Edition | undefined> {
    const place = this[placeOf];
    const text = await within(answerTime, place.called, endless(), (signal) => place.list("edition", number, signal));
    if (text === undefined) return undefined;
    const edition = await readEdition(text, keys);
    if (edition.number === number) return edition;
    throw new EditionFault(`edition ${edition.number} stands in the place of edition ${number}`);
  }

  /**
   * Who follows the shelf, as far as they have noted themselves; undefined for shelves that cannot be written to.
   *
   * @throws {ShelfFault} where the shelf does not answer
   */
  async followers(): Promise<readonly Noted[] | undefined> {
    const { presence, called } = this[placeOf];
    if (!presence) return undefined;
    const followers = await within(answerTime, called, endless(), () => presence.followers());
    return [...followers].sort((a, b) => compare(a.name, b.name) || compare(a.host, b.host) || a.process - b.process);
  }

  /** Forgets processes that will not come back. @throws {ShelfFault} where the shelf does not answer */
  async forget(followers: readonly Pick<Noted, "id">[]): Promise<void> {
    for (const { id } of followers) await this[placeOf].presence?.leave(id);
  }

  /** Makes what has to be there before the first edition: the tables of PostgreSQL, the folder. */
  async prepare(): Promise<void> {
    const { publishing, called } = this[placeOf];
    if (!publishing) throw new ShelfFault(`${called} can only be read.`);
    await publishing.prepare?.();
  }
}

/** Which editions are read, and how they are verified. */
export interface EditionsOptions {
  /** How many; 20 by default. */
  readonly most?: number | undefined;
  /** The keys by which each is verified; nothing is without. */
  readonly keys?: ShelfOptions["keys"];
}

function compare(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

/**
 * A shelf in a folder: a mounted volume, a synchronised directory, or what a web server serves.
 *
 * @param options.every milliseconds between two looks where the file system tells nothing; one second by default
 *
 * @example const flags = await followFlags(folderShelf("/mnt/flags"), { environment: "production" });
 */
export function folderShelf(directory: string, options: FolderShelfOptions = {}): Shelf {
  return Shelf.at(folderPlace(directory, options));
}

/**
 * A shelf on any web server or object store, with any cache in front of it: asked by conditional requests (RFC 9110).
 *
 * @throws {TypeError} for an address with a password, or one of plain http to another machine
 *
 * @example webShelf("https://config.ternhaven.example/flags/", { every: 10_000, headers: { Authorization: token } })
 */
export function webShelf(address: string | URL, options: WebShelfOptions = {}): Shelf {
  return Shelf.at(webPlace(address, options));
}

/**
 * A shelf in Redis, by a client of node-redis that the program has made and connected; news comes over a connection
 * duplicated from it.
 *
 * @example
 * const redis = await createClient({ url: "redis://localhost" }).connect();
 * const flags = await followFlags(redisShelf(redis, { set: "ternhaven" }), { environment: "production" });
 */
export function redisShelf(client: RedisClient, options: RedisShelfOptions = {}): Shelf {
  return Shelf.at(redisPlace(client, options));
}

/**
 * A shelf in PostgreSQL, by a pool of pg that the program has made; one of its connections is kept for hearing of news.
 *
 * @example
 * const pool = new pg.Pool({ connectionString: "postgres://localhost/config", connectionTimeoutMillis: 5_000 });
 * const flags = await followFlags(postgresShelf(pool, { set: "ternhaven" }), { environment: "production" });
 */
export function postgresShelf(pool: PostgresPool, options: PostgresShelfOptions = {}): Shelf {
  return Shelf.at(postgresPlace(pool, options));
}
