import type { IdLookup } from "../../ids/index.ts";

/** An id of which it is not known yet whether a list holds it. */
export interface OpenId {
  readonly list: LongList;
  readonly id: string;
}

/**
 * The ids of a list that is too long to be sent. Whether it holds an id is true, false or not known: what has been asked of the
 * desk is known, and of the rest a judgement supposes one thing after the other.
 */
export class LongList implements IdLookup {
  readonly size: number;
  readonly known = new Map<string, boolean>();
  readonly supposed = new Map<string, boolean>();
  /** Hears of the ids that are asked for and not known. */
  readonly #notKnown: (open: OpenId) => void;

  constructor(size: number, notKnown: (open: OpenId) => void) {
    this.size = size;
    this.#notKnown = notKnown;
  }

  has(id: string): boolean {
    const known = this.known.get(id) ?? this.supposed.get(id);
    if (known === undefined) this.#notKnown({ list: this, id });
    return known ?? false;
  }

  few(): undefined {
    return undefined;
  }
}

/**
 * What something comes to, as far as it is known: one answer, or what it is where a list holds an id and where it does not.
 * Where too much is open neither is worked out.
 */
export type Supposed<T> = { readonly answer: T } | Open<T>;

interface Open<T> {
  readonly open: OpenId;
  readonly either?: { readonly ifListed: Supposed<T>; readonly ifNot: Supposed<T> };
}

/** How many ids that are not known are gone into; a person is on few long lists. */
const deepest = 4;

/**
 * Works something out under everything that may be so. Only what the answer depends on is left open.
 *
 * @param work judges; it is run once more for each id that it asks for and that is not known
 * @param firstOpen the first such id of the run before; clears it
 */
export function suppose<T>(
  work: () => T,
  firstOpen: () => OpenId | undefined,
  isSame: (one: T, other: T) => boolean,
  depth = 0,
): Supposed<T> {
  const answer = work();
  const open = firstOpen();
  if (open === undefined) return { answer };
  if (depth === deepest) return { open };
  const { supposed } = open.list;
  supposed.set(open.id, true);
  const ifListed = suppose(work, firstOpen, isSame, depth + 1);
  supposed.set(open.id, false);
  const ifNot = suppose(work, firstOpen, isSame, depth + 1);
  supposed.delete(open.id);
  const isCertain = "answer" in ifListed && "answer" in ifNot && isSame(ifListed.answer, ifNot.answer);
  return isCertain ? ifListed : { open, either: { ifListed, ifNot } };
}

/** All that something may come to; undefined where that is not worked out. */
export function answersIn<T>(supposed: Supposed<T>): readonly T[] | undefined {
  if ("answer" in supposed) return [supposed.answer];
  const listed = supposed.either && answersIn(supposed.either.ifListed);
  const others = supposed.either && answersIn(supposed.either.ifNot);
  return listed && others && [...listed, ...others];
}
