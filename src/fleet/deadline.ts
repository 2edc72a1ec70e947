import { ShelfFault } from "./faults.ts";

/**
 * Work that is given up after a time, or when it is called off. Where it listens to the signal it ends; where it cannot,
 * what comes of it later is nobody's any more.
 *
 * @param milliseconds how long it may take
 */
export async function within<T>(
  milliseconds: number,
  what: string,
  calledOff: AbortSignal,
  work: (signal: AbortSignal) => Promise<T>,
): Promise<T> {
  const own = new AbortController();
  const late = new ShelfFault(`${what} has not answered for ${milliseconds / 1_000} seconds.`);
  const ended = new Promise<never>((_, reject) => {
    own.signal.addEventListener("abort", () => reject(own.signal.reason), { once: true });
  });
  const timer = setTimeout(() => own.abort(late), milliseconds);
  const off = () => own.abort(new ShelfFault("It was called off."));
  calledOff.addEventListener("abort", off, { once: true });
  if (calledOff.aborted) off();
  try {
    return await Promise.race([work(own.signal), ended]);
  } finally {
    clearTimeout(timer);
    calledOff.removeEventListener("abort", off);
  }
}
