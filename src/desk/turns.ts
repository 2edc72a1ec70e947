import { DeskFault } from "./desk-fault.ts";

/** So much that takes long is under way at a time. */
const maxRunning = 2;

/** So much of it one person may have asked for, what waits included. */
const maxAsked = 20;

/** A place in the queue: what is to be done in it runs when its turn has come. */
export interface Turn {
  /**
   * @param signal aborted when nobody waits for it any more: it then gives its place away
   * @throws {DeskFault} where the asker has left before
   */
  run<T>(signal: AbortSignal, work: () => Promise<T>): Promise<T>;
}

interface Waiting {
  readonly begin: () => void;
}

/**
 * What takes long at a desk, such as counting people: a person has one thing under way, and those who wait are served by turns,
 * so that nobody is kept waiting by how much somebody else asks for.
 */
export class Turns {
  readonly #asked = new Map<string, number>();
  readonly #queues = new Map<string, Waiting[]>();
  /** When people who have asked for something were served last, by the count of what was begun. */
  readonly #served = new Map<string, number>();
  #count = 0;
  readonly #busy = new Set<string>();

  /** @throws {DeskFault} for somebody who has asked for too much already */
  ask(person: string): Turn {
    const asked = this.#asked.get(person) ?? 0;
    if (asked >= maxAsked)
      throw new DeskFault(429, `You have asked for ${asked} things that take long.`, "wait until they are done");
    this.#asked.set(person, asked + 1);
    return { run: (signal, work) => this.#run(person, signal, work) };
  }

  async #run<T>(person: string, signal: AbortSignal, work: () => Promise<T>): Promise<T> {
    try {
      await this.#begin(person, signal);
      try {
        return await work();
      } finally {
        this.#busy.delete(person);
        this.#next();
      }
    } finally {
      const asked = this.#asked.get(person)! - 1;
      if (asked === 0) this.#forget(person);
      else this.#asked.set(person, asked);
    }
  }

  #forget(person: string): void {
    this.#asked.delete(person);
    this.#served.delete(person);
  }

  #begin(person: string, signal: AbortSignal): Promise<void> {
    return new Promise((resolve, reject) => {
      const left = () => {
        const queue = this.#queues.get(person) ?? [];
        const at = queue.indexOf(waiting);
        if (at < 0) return;
        queue.splice(at, 1);
        reject(new DeskFault(409, "The page has left."));
      };
      const waiting: Waiting = {
        begin: () => {
          signal.removeEventListener("abort", left);
          this.#busy.add(person);
          resolve();
        },
      };
      const queue = this.#queues.get(person) ?? [];
      this.#queues.set(person, queue);
      queue.push(waiting);
      if (signal.aborted) return left();
      signal.addEventListener("abort", left, { once: true });
      this.#next();
    });
  }

  /** The person whose last turn is longest ago comes first. */
  #next(): void {
    const lastServed = (person: string) => this.#served.get(person) ?? 0;
    const waiting = [...this.#queues.keys()].filter((person) => !this.#busy.has(person));
    for (const person of waiting.sort((one, other) => lastServed(one) - lastServed(other))) {
      if (this.#busy.size >= maxRunning) return;
      const queue = this.#queues.get(person)!;
      const first = queue.shift();
      if (queue.length === 0) this.#queues.delete(person);
      if (!first) continue;
      this.#served.set(person, ++this.#count);
      first.begin();
    }
  }
}
