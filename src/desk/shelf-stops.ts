import type { Shelf } from "../follow/index.ts";
import type { Suspensions } from "../model/index.ts";
import type { DeskOptions } from "./options.ts";

/** How often the stops of the shelf are looked at while somebody has the desk open, in milliseconds. */
const lookEvery = 3_000;

const none: Suspensions = new Map();

/** What is stopped at the shelf to which a desk publishes. While that does not answer, what it said last stays. */
export class ShelfStopsView {
  readonly #shelf: Shelf;
  readonly #keys: DeskOptions<never>["keys"];
  readonly #listeners = new Set<() => void>();
  #timer: NodeJS.Timeout | undefined;
  #looking: Promise<void> | undefined;
  #lookedAt = Number.NEGATIVE_INFINITY;
  #number = 0;
  #suspended: Suspensions = none;

  constructor(shelf: Shelf, keys: DeskOptions<never>["keys"]) {
    this.#shelf = shelf;
    this.#keys = keys;
  }

  /** The number of the list; 0 where there is none. */
  get number(): number {
    return this.#number;
  }

  get suspended(): Suspensions {
    return this.#suspended;
  }

  /** Looks now, unless that was done just before. */
  async look(): Promise<void> {
    if (performance.now() - this.#lookedAt < lookEvery) return this.#looking;
    await this.refresh();
  }

  /** Looks now, after a change of one's own. */
  refresh(): Promise<void> {
    this.#lookedAt = performance.now();
    this.#looking = this.#lookOnce();
    return this.#looking;
  }

  async #lookOnce(): Promise<void> {
    const found = await this.#shelf.stops(this.#keys).catch(() => undefined);
    if (!found || found.number <= this.#number) return;
    this.#number = found.number;
    this.#suspended = found.suspended;
    for (const listener of [...this.#listeners]) listener();
  }

  listen(listener: () => void): () => void {
    this.#listeners.add(listener);
    this.#timer ??= setInterval(() => void this.look(), lookEvery).unref();
    return () => {
      this.#listeners.delete(listener);
      if (this.#listeners.size > 0) return;
      clearInterval(this.#timer);
      this.#timer = undefined;
    };
  }

  close(): void {
    clearInterval(this.#timer);
  }
}
