import { callingOff, type Edition, IncompleteFault, payloadOf } from "../../shelf/index.ts";
import type { EditionReader, ReadEdition } from "./edition-reader.ts";

/** What the lane hands what it has read to. */
export interface EditionTaker {
  /** Puts what was read into force, or refuses it. */
  take(read: ReadEdition): Promise<void>;
  /** It cannot be had at the moment. */
  failed(error: unknown): void;
}

/**
 * Fetches the newest edition beside everything else: lists, and the stops above all, do not wait for its files. A fetch is
 * called off by a newer edition that was verified, but never twice in a row, so that one of them arrives.
 */
export class EditionLane {
  readonly #reader: EditionReader;
  readonly #taker: EditionTaker;
  readonly #closing: AbortSignal;
  #wanted: Edition | undefined;
  #fetching: AbortController | undefined;
  #working: Promise<void> | undefined;
  #wasCalledOff = false;
  /** Looks in a row that found an edition which was not all there. */
  incomplete = 0;

  constructor(reader: EditionReader, taker: EditionTaker, closing: AbortSignal) {
    this.#reader = reader;
    this.#taker = taker;
    this.#closing = closing;
  }

  /** Whether everything that is wanted has been taken or refused. */
  get isIdle(): boolean {
    return this.#wanted === undefined;
  }

  /** A newer edition. */
  want(edition: Edition): void {
    this.#wanted = edition;
    if (this.#fetching && !this.#wasCalledOff) {
      this.#wasCalledOff = true;
      this.#fetching.abort();
    }
    this.goOn();
  }

  /** Tries once more for what could not be had. */
  goOn(): void {
    if (this.#working || !this.#wanted || this.#closing.aborted) return;
    const edition = this.#wanted;
    this.#working = this.#takeOnce(edition).finally(() => {
      this.#working = undefined;
      if (this.#wanted && this.#wanted !== edition) this.goOn();
    });
  }

  /** Settles when nothing is under way. */
  async settled(): Promise<void> {
    while (this.#working) await this.#working;
  }

  async #takeOnce(edition: Edition): Promise<void> {
    const fetching = callingOff();
    this.#fetching = fetching;
    try {
      const read = await this.#reader.read(edition, AbortSignal.any([fetching.signal, this.#closing]));
      this.#fetching = undefined;
      this.#wasCalledOff = false;
      await this.#taker.take(read);
      this.incomplete = 0;
      if (this.#wanted && payloadOf(this.#wanted) === payloadOf(edition)) this.#wanted = undefined;
    } catch (error) {
      this.#fetching = undefined;
      if (this.#closing.aborted || fetching.signal.aborted) return;
      this.incomplete = error instanceof IncompleteFault ? this.incomplete + 1 : 0;
      this.#taker.failed(error);
    }
  }
}
