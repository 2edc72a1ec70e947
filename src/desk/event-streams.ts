import type { SSEStreamingApi } from "hono/streaming";
import type { StandingEvent } from "./protocol.ts";

/** How many pages may listen at once; each holds a connection open. */
const maxStreams = 200;
const heartbeat = 15_000;

/** The open pages, and what each is told. */
export class EventStreams {
  readonly #ends = new Set<() => void>();
  #closed = false;

  get isFull(): boolean {
    return this.#closed || this.#ends.size >= maxStreams;
  }

  /**
   * Tells a page of everything that changes until it leaves, or the desk is closed.
   *
   * @param now what there is to tell
   * @param listen calls back at every change
   */
  async tell(
    stream: SSEStreamingApi,
    now: () => Promise<StandingEvent>,
    listen: (told: () => void) => () => void,
  ): Promise<void> {
    const write = async () => stream.writeSSE({ event: "standing", data: JSON.stringify(await now()) });
    const silence = listen(() => void write().catch(() => {}));
    const beat = setInterval(() => void stream.write(": still here\n\n"), heartbeat);
    beat.unref();
    let end: () => void = () => {};
    const left = new Promise<void>((resolve) => {
      end = resolve;
    });
    this.#ends.add(end);
    stream.onAbort(end);
    if (this.#closed || stream.aborted) end();
    try {
      await write();
      await left;
    } finally {
      this.#ends.delete(end);
      clearInterval(beat);
      silence();
    }
  }

  close(): void {
    this.#closed = true;
    for (const end of this.#ends) end();
    this.#ends.clear();
  }
}
