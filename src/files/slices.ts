/** The longest that work goes on before others get their turn, in milliseconds. */
const longestSlice = 3;

/** Steps between looks at the clock. */
const stepsBetween = 2;

/** Does work that pauses by `yield`, a slice at a time, so that the event loop never waits long for it, and a signal ends it. */
export async function inSlices<T>(work: Generator<unknown, T, undefined>, signal?: AbortSignal): Promise<T> {
  for (;;) {
    signal?.throwIfAborted();
    const end = performance.now() + longestSlice;
    do {
      for (let i = 0; i < stepsBetween; i++) {
        const step = work.next();
        if (step.done) return step.value;
      }
    } while (performance.now() < end);
    await nextTurn();
  }
}

function nextTurn(): Promise<void> {
  return new Promise((resolve) => setImmediate(resolve));
}
