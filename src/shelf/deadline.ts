import { setMaxListeners } from "node:events";
import { ShelfFault, SilentFault } from "./faults.ts";

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
  const ended = new Promise<never>((_, reject) => {
    own.signal.addEventListener("abort", () => reject(own.signal.reason), { once: true });
  });
  const late = () => own.abort(new SilentFault(`${what} has not answered for ${milliseconds / 1_000} seconds.`));
  const timer = setTimeout(late, milliseconds);
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

/** What calls off the work of a follower or a publisher: many pieces at once listen to it. */
export function callingOff(): AbortController {
  const controller = new AbortController();
  setMaxListeners(0, controller.signal);
  return controller;
}

/** The signal of work that nobody calls off. */
export function endless(): AbortSignal {
  return callingOff().signal;
}
