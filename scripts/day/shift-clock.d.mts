/** Moves the clock of everything that runs here by so many milliseconds. It ticks as before. */
export function shiftClock(by: number): void;
