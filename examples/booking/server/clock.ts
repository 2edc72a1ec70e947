/** When the story of the example is told: noon on the islands. */
export const storyTime: number = Date.parse("2026-12-02T12:00:00Z");

const zone = "Atlantic/Faroe";

/** The time of the service. It ticks, and a developer can move it. */
export class Clock {
  readonly #start: number;
  #moved: number;

  /** @param startsAt the time that it shows now, in epoch milliseconds; the real time if left out */
  constructor(startsAt: number | undefined) {
    this.#start = startsAt === undefined ? 0 : startsAt - Date.now();
    this.#moved = this.#start;
  }

  /** Epoch milliseconds; handed around on its own. */
  readonly now = (): number => Date.now() + this.#moved;

  /** True while a developer has moved it. */
  get isMoved(): boolean {
    return this.#moved !== this.#start;
  }

  /** True if it does not show the real time. */
  get isMadeUp(): boolean {
    return this.#moved !== 0;
  }

  /** @param epoch undefined: back to what it would show now if it had never been moved */
  moveTo(epoch: number | undefined): void {
    this.#moved = epoch === undefined ? this.#start : epoch - Date.now();
  }

  /** The harbours' own date: `2026-12-02`. */
  today(): string {
    return new Intl.DateTimeFormat("sv-SE", { timeZone: zone }).format(this.now());
  }

  /** For people: `2 December 2026 at 12:00, Atlantic/Faroe`. */
  inWords(): string {
    const format = new Intl.DateTimeFormat("en-GB", { timeZone: zone, dateStyle: "long", timeStyle: "short" });
    return `${format.format(this.now())}, ${zone}`;
  }
}
