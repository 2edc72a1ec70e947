/** A clock that fails must not make a verdict fail: the system's stands in, and somebody is told once. */
export function safeClock(clock: (() => number) | undefined, report: (message: string) => void): () => number {
  if (!clock) return Date.now;
  let told = false;
  return () => {
    try {
      const now = clock();
      if (Number.isFinite(now)) return now;
    } catch {
      // Reported below, like a clock that gives no number.
    }
    if (!told) report("The clock gave no number of milliseconds; the system's clock stands in.");
    told = true;
    return Date.now();
  };
}
