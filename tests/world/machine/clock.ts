// A world in which a night of faults takes a second: its time is virtual, its chance comes from a seed, and one thing happens
// after the other. Whatever happens belongs to a process; one that is killed does nothing any more.

/** What waits for its time. */
export interface Due {
  readonly at: number;
  readonly order: number;
  readonly process: Process;
  work: (() => void) | undefined;
}

/** A process on a simulated machine. */
export class Process {
  readonly machine: string;
  isAlive = true;
  /** Nothing of it goes on: it is stopped, as by SIGSTOP, or its machine is asleep. */
  isStopped = false;
  /** What would have happened in the meantime. */
  readonly missed: Due[] = [];
  /** How far its wall clock is ahead of the world's, in milliseconds. */
  ahead = 0;
  /** Timers and watchers that are open. */
  readonly open = new Set<object>();

  constructor(machine: string) {
    this.machine = machine;
  }
}

const RealDate = Date;

const beginning = Date.UTC(2026, 11, 1);

class World {
  /** Epoch milliseconds. */
  now = beginning;
  /** Whose code is running. */
  process = new Process("world");
  /** Work that is really under way: virtual time waits for it. */
  underWay = 0;
  readonly #waiting: Due[] = [];
  #order = 0;
  #state = 1;
  #broken: Error | undefined;
  /** A digest of all that has happened: the same seed gives the same one. */
  trace = 0;

  reset(seed: number): void {
    this.now = beginning;
    this.#waiting.length = 0;
    this.#order = 0;
    this.trace = 0;
    this.#broken = undefined;
    this.#state = (seed >>> 0) + 0x9e3779b9;
    this.process = new Process("world");
  }

  /** A number from 0 up to 1 (mulberry32). */
  random(): number {
    this.#state = (this.#state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(this.#state ^ (this.#state >>> 15), 1 | this.#state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  }

  chance(part: number): boolean {
    return this.random() < part;
  }

  /** A whole number from 0 up to one below `count`. */
  below(count: number): number {
    return Math.floor(this.random() * count);
  }

  oneOf<T>(choices: readonly T[]): T {
    return choices[this.below(choices.length)]!;
  }

  /** Where what happens is told. */
  told: ((line: string) => void) | undefined;

  say(what: string): void {
    this.told?.(`${new RealDate(this.now).toISOString()} ${what}`);
  }

  /** What happens is noted: two runs that differ anywhere have different traces. */
  note(what: number | string): void {
    const text = typeof what === "string" ? what : String(what);
    for (let i = 0; i < text.length; i++) this.trace = Math.imul(this.trace ^ text.charCodeAt(i), 0x01000193) >>> 0;
  }

  /** Does something later, as a process; dropped if that one is killed before. */
  later(milliseconds: number, work: () => void, process = this.process): Due {
    const due: Due = { at: this.now + Math.max(0, milliseconds), order: this.#order++, process, work };
    push(this.#waiting, due);
    return due;
  }

  /** A promise that settles for the running process only, after a while. */
  after<T>(milliseconds: number, work: () => T): Promise<T> {
    return new Promise((resolve, reject) => {
      this.later(milliseconds, () => {
        try {
          resolve(work());
        } catch (error) {
          reject(error as Error);
        }
      });
    });
  }

  sleep(milliseconds: number): Promise<void> {
    return this.after(milliseconds, () => {});
  }

  /** Does something as a process, and gives what comes of it to who asked; never if that process is killed before. */
  as<T>(process: Process, work: () => Promise<T> | T): Promise<T> {
    const asked = this.process;
    return new Promise((resolve, reject) => {
      const hand = (then: () => void) => this.later(0, then, asked);
      const begin = async () => work();
      const begun = () =>
        void begin().then(
          (value) => hand(() => resolve(value)),
          (error: unknown) => hand(() => reject(error as Error)),
        );
      this.later(0, begun, process);
    });
  }

  /** Checks something where an error would be swallowed: it ends the run. */
  mustHold(check: () => void): void {
    try {
      check();
    } catch (error) {
      this.#broken ??= error as Error;
    }
  }

  /** Stops a process for a while; it goes on where it was. */
  stop(process: Process, milliseconds: number): void {
    process.isStopped = true;
    this.later(milliseconds, () => this.wake(process));
  }

  wake(process: Process): void {
    process.isStopped = false;
    for (const due of process.missed.splice(0)) push(this.#waiting, due);
  }

  kill(process: Process): void {
    process.isAlive = false;
    for (const open of process.open) (open as { close?(): void }).close?.();
    process.open.clear();
  }

  /** Lets everything happen until something is done. @throws if nothing is left that could bring it about */
  async until(done: Promise<unknown>): Promise<void> {
    let isDone = false;
    done.then(
      () => {
        isDone = true;
      },
      () => {
        isDone = true;
      },
    );
    await settled();
    while (!isDone) {
      while (this.underWay > 0) await settled();
      const due = pop(this.#waiting);
      if (due === undefined) {
        await settled();
        if (isDone || this.underWay > 0) continue;
        throw new Error("nothing is left to happen, and it is not done");
      }
      if (!this.#happens(due)) continue;
      await settled();
      if (this.#broken) throw this.#broken;
    }
    await done;
  }

  #happens(due: Due): boolean {
    const { process, work } = due;
    if (work === undefined || !process.isAlive) return false;
    this.now = Math.max(this.now, due.at);
    if (process.isStopped) {
      process.missed.push(due);
      return false;
    }
    due.work = undefined;
    this.process = process;
    work();
    return true;
  }
}

/** Everything that follows at once has happened. The real one: it is kept before globals are put in place. */
const reallySoon = globalThis.setImmediate;

function settled(): Promise<void> {
  return new Promise((resolve) => reallySoon(resolve));
}

export const world = new World();

function isBefore(one: Due, other: Due): boolean {
  return one.at < other.at || (one.at === other.at && one.order < other.order);
}

// A heap: what is due next stands first.
function push(heap: Due[], due: Due): void {
  let at = heap.push(due) - 1;
  while (at > 0) {
    const above = (at - 1) >> 1;
    if (!isBefore(due, heap[above]!)) break;
    heap[at] = heap[above]!;
    at = above;
  }
  heap[at] = due;
}

function pop(heap: Due[]): Due | undefined {
  const first = heap[0];
  const last = heap.pop();
  if (first === undefined || heap.length === 0) return first;
  let at = 0;
  for (;;) {
    let below = 2 * at + 1;
    if (below >= heap.length) break;
    if (below + 1 < heap.length && isBefore(heap[below + 1]!, heap[below]!)) below++;
    if (!isBefore(heap[below]!, last!)) break;
    heap[at] = heap[below]!;
    at = below;
  }
  heap[at] = last!;
  return first;
}
