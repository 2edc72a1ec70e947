import type { ShelfOptions } from "../../flags/index.ts";
import {
  claimedIn,
  EditionFault,
  furthestStep,
  keysOf,
  type ListKind,
  type Looked,
  type ReadList,
  readList,
} from "../../shelf/index.ts";

/** What was seen of a list: nothing older is taken after it. */
export interface Seen {
  readonly number: number;
  /** Of the key that had signed it: with that key it is forgotten. */
  readonly kid: string | undefined;
  /** What it said, if that is known. */
  readonly payload: string | undefined;
}

export const unseen: Seen = { number: 0, kid: undefined, payload: undefined };

/** For so long a cache may show the list before the one that was seen; milliseconds. */
const lagTime = 60_000;

/** What a look at one list of a shelf finds. */
export type FoundList<T> = (
  | { readonly kind: "empty" }
  /** It is the one that was found last. */
  | { readonly kind: "same" }
  /** It is the one before, from a cache that lags: not yet. */
  | { readonly kind: "behind" }
  | ({
      readonly kind: "list";
      /** As it was signed. */
      readonly text: string;
    } & ReadList<T>)
  /** It is not to be taken: unsigned, older than what was seen, of another set. */
  | { readonly kind: "refused"; readonly number: number | undefined; readonly why: string }
) & {
  /** How long the shelf asks not to be looked at, in milliseconds. */
  readonly wait?: number | undefined;
};

/** The set that is followed: the first list that is seen decides where nobody says it. */
export interface FollowedSet {
  name: string | undefined;
}

/** What a list may do. */
export interface Leave {
  /** Two with one number may both count. */
  readonly beTwin: boolean;
  /** The one before may be shown for a while, by a cache. */
  readonly lag: boolean;
}

/** One of the two lists of a shelf, as it is followed: verified, and never an older one than was seen. */
export class NewestList<T extends { readonly set: string; readonly number: number }> {
  readonly #kind: ListKind<T>;
  readonly #keys: ShelfOptions["keys"];
  readonly #set: FollowedSet;
  readonly #may: Leave;
  #seen: Seen;
  #seenAt = Number.NEGATIVE_INFINITY;
  /** What the list said that was found last. */
  #found: string | undefined;
  /** By which it is known again. */
  mark: string | undefined;

  constructor(kind: ListKind<T>, keys: ShelfOptions["keys"], set: FollowedSet, seen: Seen, may: Leave) {
    this.#kind = kind;
    this.#keys = keys;
    this.#set = set;
    this.#seen = seen;
    this.#may = may;
  }

  /** The highest that was seen and verified. */
  get seen(): Seen {
    return this.#seen;
  }

  /** @throws {ShelfFault} where the shelf does not answer, or the keys cannot be had */
  async look(looking: Promise<Looked>): Promise<FoundList<T>> {
    let looked: Looked | undefined;
    try {
      looked = await looking;
      const { wait } = looked;
      if (looked.kind === "same") this.mark = looked.mark ?? this.mark;
      return looked.kind === "list"
        ? { ...(await this.#read(looked.text, looked.mark)), wait }
        : { kind: looked.kind, wait };
    } catch (error) {
      if (!(error instanceof EditionFault)) throw error;
      const number = looked?.kind === "list" ? claimedIn(looked.text).number : undefined;
      return { kind: "refused", number, why: error.message, wait: looked?.wait };
    }
  }

  async #read(text: string, mark: string): Promise<FoundList<T>> {
    const read = await readList(this.#kind, text, this.#keys);
    const { list, kid } = read;
    await this.#forgetWithKey();
    const payload = this.#kind.write(list);
    const { number } = this.#seen;
    this.#set.name ??= list.set;
    if (list.set !== this.#set.name)
      throw new EditionFault(`it is of the set “${list.set}”, and “${this.#set.name}” is followed`);
    if (this.#may.lag && list.number === number - 1 && performance.now() - this.#seenAt < lagTime)
      return { kind: "behind" };
    if (list.number < number) throw new EditionFault(`its number is below ${number}, which has been seen already`);
    if (number > 0 && list.number > number + furthestStep)
      throw new EditionFault(`its number is more than ${furthestStep.toLocaleString("en")} above ${number}`);
    const isTwin = list.number === number && this.#seen.payload !== undefined && payload !== this.#seen.payload;
    if (isTwin && !this.#may.beTwin) throw new EditionFault("its number has been seen already, on another edition");
    this.mark = mark;
    if (list.number > number) this.#seenAt = performance.now();
    if (!isTwin) this.#seen = { number: list.number, kid, payload };
    if (payload === this.#found) return { kind: "same" };
    this.#found = payload;
    return { kind: "list", text, ...read };
  }

  /** A key that was withdrawn cannot keep those out who have the others. */
  async #forgetWithKey(): Promise<void> {
    const { kid } = this.#seen;
    if (kid === undefined || this.#keys === undefined) return;
    const { keys } = await keysOf(this.#keys);
    if (!keys.some((key) => key.kid === kid)) this.#seen = unseen;
  }
}
