/** How long refusals are counted before they are told of again, in milliseconds. */
const interval = 60_000;

/** Tells of refused passes at once and then at most once a minute, with a count: a stranger can send any number. */
export class RefusedPasses {
  readonly #report: (message: string) => void;
  #timer: NodeJS.Timeout | undefined;
  #count = 0;
  #last = "";

  constructor(report: (message: string) => void) {
    this.#report = report;
  }

  tell(reason: string): void {
    if (this.#timer) {
      this.#count++;
      this.#last = reason;
      return;
    }
    this.#report(`A pass was refused: ${reason}.`);
    this.#wait();
  }

  /** Nothing more is told. */
  close(): void {
    clearTimeout(this.#timer);
  }

  #wait(): void {
    this.#timer = setTimeout(() => this.#tellCount(), interval);
    this.#timer.unref();
  }

  #tellCount(): void {
    this.#timer = undefined;
    if (this.#count === 0) return;
    const passes = this.#count === 1 ? "One more pass was" : `${this.#count} more passes were`;
    this.#report(`${passes} refused within a minute, the last one because ${this.#last}.`);
    this.#count = 0;
    this.#wait();
  }
}
