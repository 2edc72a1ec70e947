/** A clock that stands still until it is set or advanced. */
export interface TestClock {
  /** The time, in epoch milliseconds: what `followFlags` and `flagsFrom` take as `clock`. */
  (): number;
  /** Puts the clock to an instant: a `Date`, ISO 8601, or epoch milliseconds. */
  set(instant: Date | string | number): void;
  /**
   * @param milliseconds how far to go forward, or back if negative: `1_000` is a second
   * @throws {TypeError} for what is not a finite number
   */
  advance(milliseconds: number): void;
}

/**
 * @example
 * const clock = testClock("2026-12-01T08:59:59Z");
 * const flags = flagsFrom(definitions, { clock });
 * clock.advance(1_000);
 */
export function testClock(start: Date | string | number): TestClock {
  let now = epochOf(start);
  const clock = () => now;
  return Object.assign(clock, {
    set: (instant: Date | string | number) => {
      now = epochOf(instant);
    },
    advance: (milliseconds: number) => {
      if (typeof milliseconds !== "number" || !Number.isFinite(milliseconds)) {
        throw new TypeError(`advance takes milliseconds, such as 60_000 for a minute, not ${String(milliseconds)}`);
      }
      now += milliseconds;
    },
  });
}

function epochOf(instant: Date | string | number): number {
  const epoch = new Date(instant).getTime();
  if (Number.isNaN(epoch))
    throw new TypeError(
      `${String(instant)} is not an instant; write "2026-12-01T09:00Z", a Date or epoch milliseconds`,
    );
  return epoch;
}
