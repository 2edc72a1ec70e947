import { joinedStops, type Suspensions } from "../../model/index.ts";
import type { Edition, ReadList, ShelfStops } from "../../shelf/index.ts";

/**
 * What is stopped by the lists of a shelf that were seen. Of two lists with one number both count; one by a key whose time is
 * over adds stops and ends none. A missing list ends nothing.
 */
export class CurrentStops {
  #suspended: Suspensions = new Map();
  #number = 0;
  /** Whether an earlier process has seen a list. */
  #isRecorded = false;

  get suspended(): Suspensions {
    return this.#suspended;
  }

  /** The number of the list that was seen last; 0 before the first. */
  get number(): number {
    return this.#number;
  }

  take({ list, isExpired }: Pick<ReadList<ShelfStops>, "list" | "isExpired">): void {
    const isTwin = list.number === this.#number;
    this.#number = list.number;
    this.#suspended = isTwin || isExpired ? joinedStops(this.#suspended, list.suspended) : list.suspended;
  }

  /** Takes what was kept of a list. */
  remember(list: Pick<ReadList<ShelfStops>, "list" | "isExpired">): void {
    this.take(list);
    this.#isRecorded = true;
  }

  /**
   * An edition names the stops that stood when it was published: who has no record of any, and is shown fewer, waits.
   *
   * @returns why it is not taken yet
   */
  whyNotYet({ number, stops }: Pick<Edition, "number" | "stops">): string | undefined {
    if (this.#isRecorded || this.#number >= stops) return undefined;
    const shown = this.#number === 0 ? "no list of stops" : `list ${this.#number}`;
    return `Edition ${number} was published when list ${stops} of the stops stood, and the shelf shows ${shown}: not yet.`;
  }
}
