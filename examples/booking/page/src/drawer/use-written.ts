import { useState } from "preact/hooks";

/**
 * A field that shows what the service says until somebody writes in it: what is written outlives the answers that arrive
 * meanwhile.
 */
export function useWritten(said: string) {
  const [written, write] = useState<string>();
  return {
    text: written ?? said,
    write,
    /** Waits until it is done; then shows what the service says again, unless more has been written by then. */
    async until(done: Promise<void>): Promise<void> {
      await done;
      write((since) => (since === written ? undefined : since));
    },
  };
}
