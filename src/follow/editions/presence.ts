import { randomUUID } from "node:crypto";
import { hostname } from "node:os";
import { basename } from "node:path";
import { type Follower, type Place, type PresencePlace, reasonOf, SilentFault, within } from "../../shelf/index.ts";

/** How often a note is written again, in milliseconds. */
const noteEvery = 20_000;

/** How long after a change it is noted, at the soonest; twice that at the latest. Milliseconds. */
const soonest = 400;

/** How long a note may take, in milliseconds. */
const noteTime = 5_000;

/** How long an end waits for its note to go, in milliseconds: else it goes by itself. */
const leaveTime = 1_000;

/** What a process gives. */
type Given = Pick<Follower, "edition" | "stops" | "revision" | "goneBack" | "since" | "refused">;

/** Notes this process in the list of followers of a shelf, again and again until it leaves. */
export class Presence {
  readonly #place: PresencePlace | undefined;
  readonly #called: string;
  readonly #self: Pick<Follower, "id" | "name" | "host" | "process" | "environment">;
  readonly #report: (message: string) => void;
  readonly #calledOff = new AbortController();
  #timer: NodeJS.Timeout | undefined;
  #soon: NodeJS.Timeout | undefined;
  readonly #given: () => Given;
  #writing: Promise<void> = Promise.resolve();
  #failed = false;

  constructor(
    { presence, called }: Place,
    {
      name = basename(process.argv[1] ?? "node"),
      environment,
    }: { name?: string | undefined; environment?: string | undefined },
    given: () => Given,
    report: (message: string) => void,
  ) {
    this.#place = presence;
    this.#called = called;
    this.#self = { id: randomUUID(), name, host: hostname(), process: process.pid, environment };
    this.#given = given;
    this.#report = report;
  }

  start(): void {
    if (!this.#place) return;
    this.#note();
    this.#timer = setInterval(() => this.#note(), noteEvery).unref();
  }

  /** Says what is in force now: a moment later, when all who follow have something better to do than to write it down. */
  say(): void {
    if (!this.#timer || this.#soon) return;
    this.#soon = setTimeout(
      () => {
        this.#soon = undefined;
        this.#note();
      },
      soonest * (1 + Math.random()),
    ).unref();
  }

  /** Takes the note away. */
  async leave(): Promise<void> {
    clearInterval(this.#timer);
    clearTimeout(this.#soon);
    if (!this.#place || this.#failed) return this.#calledOff.abort();
    const { id } = this.#self;
    const gone = async () => {
      // A note that is under way would otherwise come after its end.
      await this.#writing;
      await this.#place!.leave(id);
    };
    await within(leaveTime, this.#called, this.#calledOff.signal, gone).catch(() => {});
    this.#calledOff.abort();
  }

  /** Only what is newest is worth writing. */
  #note(): void {
    this.#writing = this.#writing.then(async () => {
      try {
        const note = { ...this.#self, ...this.#given() };
        await within(noteTime, this.#called, this.#calledOff.signal, () => this.#place!.note(note));
        this.#failed = false;
      } catch (error) {
        // That the shelf is silent is told by those who look at it.
        if (error instanceof SilentFault) return;
        if (!this.#failed && !this.#calledOff.signal.aborted)
          this.#report(`This process is not in the list of followers: ${reasonOf(error)} Following goes on.`);
        this.#failed = true;
      }
    });
  }
}
