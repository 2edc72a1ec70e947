import { joinedStops, type Suspensions } from "../../model/index.ts";
import type { ReadList, ShelfStops } from "../../shelf/index.ts";

/**
 * What is stopped by the lists of a shelf that were seen. Of two lists with one number both count; one by a key whose time is
 * over adds stops and ends none. A missing list ends nothing.
 */
export class StandingStops {
  #suspended: Suspensions = new Map();
  #number = 0;

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
}
