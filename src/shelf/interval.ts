/** How often a shelf may be looked at, in milliseconds. */
const least = 200;
const most = 86_400_000;

/** @throws {RangeError} for a time between two looks that cannot be meant */
export function mustBeInterval(every: number): void {
  if (typeof every === "number" && every >= least && every <= most) return;
  const found = typeof every === "number" ? String(every) : typeof every;
  throw new RangeError(`“every” of a shelf: expected milliseconds from ${least} to ${most}, found ${found}.`);
}
