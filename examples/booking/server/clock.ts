/** The time of the service. A developer can move it; it goes on ticking from there. */
export class Clock {
  #moved = 0;

  /** Epoch milliseconds; handed around on its own. */
  readonly now = (): number => Date.now() + this.#moved;

  /** Milliseconds by which it has been moved. */
  get moved(): number {
    return this.#moved;
  }

  moveTo(epoch: number | undefined): void {
    this.#moved = epoch === undefined ? 0 : epoch - Date.now();
  }

  /** The harbours' own date: `2026-12-02`. */
  today(): string {
    return new Intl.DateTimeFormat("sv-SE", { timeZone: "Atlantic/Faroe" }).format(this.now());
  }
}
