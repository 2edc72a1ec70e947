import type { ShelfOptions } from "../../flags/index.ts";
import {
  type Edition,
  editionList,
  type Place,
  ShelfFault,
  type ShelfStops,
  stopsList,
  within,
} from "../../shelf/index.ts";
import { type FollowedSet, type FoundList, NewestList, type Seen } from "./newest-list.ts";

/** How long a shelf may take to show its lists, in milliseconds. */
const lookTime = 10_000;

/** A reason that is made once: one with a stack for each look would cost more than the look. */
const over = new ShelfFault("The look is over.");

/** What a look finds of both lists: neither waits for the other. */
export interface BothFound {
  readonly stops: Promise<FoundList<ShelfStops>>;
  readonly edition: Promise<FoundList<Edition>>;
}

/** What is remembered of both lists of a shelf. */
export interface SeenLists {
  readonly set: string | undefined;
  readonly edition: Seen;
  readonly stops: Seen;
}

/** The two lists of a shelf: its newest edition, and what is stopped. */
export class ShelfLists {
  readonly #place: Place;
  readonly set: FollowedSet;
  readonly edition: NewestList<Edition>;
  readonly stops: NewestList<ShelfStops>;

  constructor(place: Place, keys: ShelfOptions["keys"], seen: SeenLists) {
    this.#place = place;
    const lag = place.isCached ?? false;
    this.set = { name: place.set ?? seen.set };
    this.edition = new NewestList(editionList, keys, this.set, seen.edition, { beTwin: false, lag });
    this.stops = new NewestList(stopsList, keys, this.set, seen.stops, { beTwin: true, lag });
  }

  /** @param calledOff ends it at once */
  look(calledOff: AbortSignal): BothFound {
    const { called } = this.#place;
    const ended = new AbortController();
    const signal = AbortSignal.any([ended.signal, calledOff]);
    const looked = this.#place.newest({ stops: this.stops.mark, edition: this.edition.mark }, signal);
    const inTime = <T>(looking: Promise<T>) => within(lookTime, called, calledOff, () => looking);
    const both = {
      stops: this.stops.look(inTime(looked.stops)),
      edition: this.edition.look(inTime(looked.edition)),
    };
    // What still hangs when both have been given up is nobody's.
    void Promise.allSettled([both.stops, both.edition]).then(() => ended.abort(over));
    return both;
  }
}
