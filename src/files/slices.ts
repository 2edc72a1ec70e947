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

/** What is waited for, but no longer than until a signal: then it is nobody's any more. */
export function untilAborted<T>(work: Promise<T>, signal: AbortSignal | undefined): Promise<T> {
  if (!signal) return work;
  return new Promise((resolve, reject) => {
    const off = () => reject(signal.reason as Error);
    if (signal.aborted) off();
    signal.addEventListener("abort", off, { once: true });
    work.then(resolve, reject).finally(() => signal.removeEventListener("abort", off));
  });
}
