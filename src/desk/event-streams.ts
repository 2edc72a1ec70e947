import type { SSEStreamingApi } from "hono/streaming";
import { DeskFault } from "./desk-fault.ts";
import type { CurrentEvent } from "./protocol.ts";

/** How many pages may listen at once, and how many of one person; each holds a connection open. */
const maxStreams = 200;
const maxOwn = 20;
const heartbeat = 15_000;

/** Rights are asked again at each event, and at every second heartbeat. */
const beatsBetween = 2;

/** Who listens, and to what. */
export interface Listening {
  readonly person: string;
  /** What there is to tell. */
  now(): Promise<CurrentEvent>;
  /** Calls back at every change. */
  listen(told: () => void): () => void;
  mayLook(): Promise<boolean>;
}

/** The open pages, and what each is told. */
export class EventStreams {
  readonly #ends = new Map<() => void, string>();
  #closed = false;

  /** @throws {DeskFault} where no page more may listen, or no page more of this person */
  mustHaveRoom(person: string): void {
    if (this.#closed || this.#ends.size >= maxStreams)
      throw new DeskFault(503, "Too many pages are open.", "close some of them");
    const own = [...this.#ends.values()].filter((name) => name === person).length;
    if (own >= maxOwn) throw new DeskFault(429, `You have ${own} pages of this desk open.`, "close some of them");
  }

  /** Tells a page of everything that changes until it leaves, its visitor may not look any more, or the desk is closed. */
  async tell(stream: SSEStreamingApi, { person, now, listen, mayLook }: Listening): Promise<void> {
    let end: () => void = () => {};
    const left = new Promise<void>((resolve) => {
      end = resolve;
    });
    const write = async () => {
      if (!(await mayLook())) return end();
      await stream.writeSSE({ event: "standing", data: JSON.stringify(await now()) });
    };
    const silence = listen(() => void write().catch(() => {}));
    let beats = 0;
    const beat = setInterval(async () => {
      void stream.write(": still here\n\n");
      if (++beats % beatsBetween === 0 && !(await mayLook())) end();
    }, heartbeat);
    beat.unref();
    this.#ends.set(end, person);
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
    for (const end of this.#ends.keys()) end();
    this.#ends.clear();
  }
}
