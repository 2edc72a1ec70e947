import type { Listener } from "../../src/http/change-hub.ts";

/** A listener that takes everything at once, and is asked for nothing else. */
export function listener(send: (text: string) => void): Listener<undefined> {
  return {
    send,
    waiting: () => 0,
    end() {},
    drop() {},
    again: () => Promise.reject(new Error("nobody asks again so soon")),
    failed() {},
    isLast: () => false,
    known: undefined,
    address: undefined,
  };
}
