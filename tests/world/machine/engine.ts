// An engine of this world, as a place for shelves: it compares and sets, tells who listens, and hangs, dies and forgets.
import { type Follower, type ListName, type Noted, type Place, ShelfFault } from "../../../src/shelf/index.ts";
import { bothFrom, type Heard } from "../../../src/shelf/place.ts";
import { type Process, world } from "./clock.ts";

/** What is wrong with it at the moment. */
export interface EngineFaults {
  /** It answers nobody: at once, or never. */
  away: "no" | "refused" | "silent";
  /** The longest that anything takes, in milliseconds. */
  slow: number;
  /** The part of news that is lost. */
  lost: number;
  /** The part of what was done of which the answer is lost. */
  unsaid: number;
}

export const soundEngine: Readonly<EngineFaults> = { away: "no", slow: 0, lost: 0, unsaid: 0 };

/** As the places of real engines: what is not answered by then is given up. */
const answerTime = 5_000;

interface Listener {
  readonly process: Process;
  readonly heard: Heard;
}

export class Engine {
  readonly faults: EngineFaults = { ...soundEngine };
  readonly lists: { readonly [N in ListName]: Map<number, string> } = { edition: new Map(), stops: new Map() };
  readonly #files = new Map<string, Uint8Array>();
  readonly #listeners = new Set<Listener>();
  readonly #notes = new Map<string, { readonly note: Follower; readonly at: number }>();

  newest(name: ListName): string | undefined {
    const numbers = [...this.lists[name].keys()];
    return numbers.length === 0 ? undefined : this.lists[name].get(Math.max(...numbers));
  }

  /** It is killed and started again: who listened is told, and hears again a moment later. */
  restart(): void {
    for (const { process, heard } of this.#listeners) {
      world.later(0, () => heard.failed("The connection was lost."), process);
      world.later(1_000, () => heard.changed(), process);
    }
  }

  #asked<T>(work: () => T, { mayBeUnsaid = false } = {}): Promise<T> {
    const { away, slow } = this.faults;
    if (away === "silent") return world.after(answerTime, () => gone<T>("has not answered for 5 seconds"));
    return world.after(world.random() * slow, () => {
      if (away === "refused") return gone<T>("refuses connections");
      const done = work();
      if (mayBeUnsaid && world.chance(this.faults.unsaid)) return gone<T>("broke off");
      return done;
    });
  }

  #tell(): void {
    for (const { process, heard } of this.#listeners) {
      if (world.chance(this.faults.lost) || this.faults.away !== "no") continue;
      world.later(world.random() * this.faults.slow, () => heard.changed(), process);
    }
  }

  place(every: number): Place {
    return {
      called: "the engine",
      set: "ternhaven",
      every,
      newest: (marks) =>
        bothFrom(
          this.#asked(() => ({ edition: this.newest("edition"), stops: this.newest("stops") })),
          marks,
        ),
      list: (name, number) => this.#asked(() => this.lists[name].get(number)),
      bytes: (file) => this.#bytes(file.sha256),
      hear: (heard) => this.#hear(heard),
      presence: {
        note: (note) => this.#asked(() => void this.#notes.set(note.id, { note, at: world.now })),
        leave: (id) => this.#asked(() => void this.#notes.delete(id)),
        followers: () => this.#asked(() => this.#noted()),
      },
      publishing: {
        put: async (list, files, base) => {
          const bytes = new Map<string, Uint8Array>();
          for (const file of files) bytes.set(file.sha256, await file.read());
          return this.#asked(() => this.#put(list, bytes, base), { mayBeUnsaid: true });
        },
      },
    };
  }

  #put(
    { name, number, text }: { readonly name: ListName; readonly number: number; readonly text: string },
    files: ReadonlyMap<string, Uint8Array>,
    base: number | undefined,
  ): boolean {
    const newest = Math.max(0, ...this.lists[name].keys());
    if (newest !== (base ?? 0)) return false;
    for (const [sha256, each] of files) this.#files.set(sha256, each);
    this.lists[name].set(number, text);
    this.#tell();
    return true;
  }

  async *#bytes(sha256: string): AsyncGenerator<Uint8Array> {
    const bytes = await this.#asked(() => this.#files.get(sha256));
    if (!bytes) throw new ShelfFault(`${sha256} is not there.`);
    yield bytes;
  }

  #hear(heard: Heard) {
    const { process } = world;
    const listener: Listener & { close(): Promise<void> } = {
      process,
      heard,
      close: async () => {
        this.#listeners.delete(listener);
        process.open.delete(listener);
      },
    };
    this.#listeners.add(listener);
    process.open.add(listener);
    return listener;
  }

  #noted(): Noted[] {
    return [...this.#notes.values()].map(({ note, at }) => ({ ...note, silent: world.now - at }));
  }
}

function gone<T>(why: string): T {
  throw new ShelfFault(`The engine ${why}.`);
}
