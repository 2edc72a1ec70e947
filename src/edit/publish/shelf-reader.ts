import { type Files, type Loaded, ToolError } from "../../files/index.ts";
import type { ShelfOptions } from "../../flags/index.ts";
import {
  CurrentStops,
  EditionReader,
  FileStore,
  type FoundList,
  type ReadEdition,
  ShelfLists,
  unseen,
} from "../../follow/index.ts";
import type { Suspensions } from "../../model/index.ts";
import {
  claimedIn,
  type Edition,
  EditionFault,
  endless,
  type ListName,
  type Place,
  type ReadList,
  readEdition,
  readList,
  type ShelfStops,
  stopsList,
} from "../../shelf/index.ts";
import { FilesAtHand } from "./files-at-hand.ts";

export interface CurrentEdition {
  readonly edition: Edition;
  readonly loaded: Loaded;
}

/** What stands on a shelf when somebody is about to publish. */
export interface Found {
  /** The newest edition; undefined where there is none, or it is not to be trusted. */
  readonly current: Edition | undefined;
  /** Why it is not to be trusted. */
  readonly fault: string | undefined;
  readonly stops: FoundStops;
  /** The numbers of both lists, trusted or not; undefined where there is none. */
  readonly base: { readonly [N in ListName]: number | undefined };
  /** Whether either list bears a signature. */
  readonly isSigned: boolean;
}

/** What is stopped at a shelf. */
export interface FoundStops {
  readonly set: string | undefined;
  /** 0 where there is no list. */
  readonly number: number;
  readonly suspended: Suspensions;
  /** Why the list that stands is not to be trusted. */
  readonly fault: string | undefined;
}

/** Reads what a shelf holds, for those who publish. */
export class ShelfReader {
  readonly #place: Place;
  readonly #keys: ShelfOptions["keys"];
  /** Nobody calls it off; a signal of its own, since each piece of work listens to it. */
  readonly #never = endless();
  readonly #store = new FileStore(undefined);
  readonly #atHand = new FilesAtHand(this.#store);
  readonly #reader: EditionReader;

  constructor(place: Place, keys: ShelfOptions["keys"]) {
    this.#place = place;
    this.#keys = keys;
    this.#reader = new EditionReader(place, this.#atHand);
  }

  /** @throws {ShelfFault} where the shelf does not answer */
  async newest(): Promise<Found> {
    const texts: { [N in ListName]?: string } = {};
    const noted: Place = { ...this.#place, newest: (marks, signal) => this.#noting(texts, marks, signal) };
    const lists = new ShelfLists(noted, this.#keys, { set: undefined, edition: unseen, stops: unseen });
    const both = lists.look(this.#never);
    const [edition, stops] = await Promise.all([both.edition, both.stops]);
    const claimed = (name: ListName) => claimedIn(texts[name] ?? "");
    return {
      current: edition.kind === "list" ? edition.list : undefined,
      fault: edition.kind === "refused" ? edition.why : undefined,
      stops: await this.#stopsOf(stops),
      base: { edition: claimed("edition").number, stops: claimed("stops").number },
      isSigned: claimed("edition").isSigned || claimed("stops").isSigned,
    };
  }

  #noting(texts: { [N in ListName]?: string }, ...words: Parameters<Place["newest"]>): ReturnType<Place["newest"]> {
    const looked = this.#place.newest(...words);
    const noted = async (name: ListName) => {
      const look = await looked[name];
      if (look.kind === "list") texts[name] = look.text;
      return look;
    };
    return { stops: noted("stops"), edition: noted("edition") };
  }

  async #stopsOf(found: FoundList<ShelfStops>): Promise<FoundStops> {
    const current = new CurrentStops();
    if (found.kind === "list") for (const each of await this.#countedWith(found)) current.take(each);
    return {
      set: found.kind === "list" ? found.list.set : undefined,
      number: current.number,
      suspended: current.suspended,
      fault: found.kind === "refused" ? found.why : undefined,
    };
  }

  /** The newest list, behind those of which it ends nothing: its key may have added to them when its time was over. */
  async #countedWith(newest: ReadList<ShelfStops>): Promise<ReadList<ShelfStops>[]> {
    const lists = [newest];
    while (lists[0]!.isExpired && lists[0]!.list.number > 1) {
      const text = await this.#place.list("stops", lists[0]!.list.number - 1, this.#never);
      const earlier = text && (await readList(stopsList, text, this.#keys).catch(() => undefined));
      if (!earlier) break;
      lists.unshift(earlier);
    }
    return lists;
  }

  /** An earlier edition with its files. @throws {ToolError} where it does not stand, or is not to be trusted */
  async earlier(number: number): Promise<ReadEdition> {
    return this.read(await this.edition(number));
  }

  /** What an earlier edition lists. @throws {ToolError} where it does not stand, or is not to be trusted */
  async edition(number: number): Promise<Edition> {
    const text = await this.#place.list("edition", number, this.#never);
    if (text === undefined)
      throw new ToolError(`${this.#place.called} holds no edition ${number}.`, "iudex shelf lists those that stand");
    try {
      return await readEdition(text, this.#keys);
    } catch (error) {
      if (!(error instanceof EditionFault)) throw error;
      throw new ToolError(`Edition ${number} is not to be trusted: ${error.message}.`);
    }
  }

  /**
   * Fetches and reads an edition of which the list is known and verified.
   *
   * @param own files that the publisher has, with their digests as stamps
   */
  read(edition: Edition, own?: Files): Promise<ReadEdition> {
    if (own) this.#atHand.has(own);
    return this.#reader.read(edition, this.#never);
  }

  async close(): Promise<void> {
    this.#reader.close();
    await this.#store.close();
  }
}
