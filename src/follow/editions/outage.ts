import type { Feeding } from "../../flags/index.ts";

/** Milliseconds without a word of the shelf after which a problem is told. */
const defaultStaleAfter = 300_000;

/** What a timer can hold, in milliseconds. */
const longestTimer = 2 ** 31;

/** Messages of one outage that are told; the others say the same in other words. */
const maxTold = 5;

/** Tells of a shelf that fails, once each, and of one that has been silent for long. */
export class Outage {
  readonly #called: string;
  readonly #staleAfter: number;
  readonly #feeding: Feeding;
  /** What was told of it. */
  readonly #told = new Set<string>();
  #timer: NodeJS.Timeout | undefined;
  #isClosed = false;

  /** @param told what was told at the start */
  constructor(called: string, staleAfter: number | undefined, feeding: Feeding, told: string | undefined) {
    this.#called = called;
    this.#staleAfter = staleAfter ?? defaultStaleAfter;
    this.#feeding = feeding;
    if (told !== undefined) this.#told.add(told);
  }

  /** Says once of an outage what there is to say. */
  tell(message: string): void {
    if (this.#isClosed || this.#told.has(message) || this.#told.size >= maxTold) return;
    this.#told.add(message);
    this.#feeding.report(message);
  }

  /** What fails from now on is told anew. */
  over(): void {
    this.#told.clear();
  }

  /** The shelf has just said something; if it does not for long, that is told. */
  expectWord(): void {
    clearTimeout(this.#timer);
    if (this.#isClosed || this.#staleAfter >= longestTimer) return;
    this.#timer = setTimeout(() => {
      const { origin } = this.#feeding.store.state;
      const edition = origin.kind === "shelf" ? ` Edition ${origin.edition} goes on.` : "";
      const message = `${this.#called} has confirmed nothing for ${this.#staleAfter / 1_000} seconds.${edition}`;
      this.#feeding.report(message);
      this.#feeding.unsound([{ message }]);
    }, this.#staleAfter).unref();
  }

  close(): void {
    this.#isClosed = true;
    clearTimeout(this.#timer);
  }
}
