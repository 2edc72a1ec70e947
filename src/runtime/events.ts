import type { LocatedProblem } from "../folder/index.ts";
import type { PartChange } from "../insight/index.ts";
import type { VerdictEvent } from "./verdict-events.ts";

/** A changed set of definitions came into force. */
export interface ChangeEvent {
  /** The revision that was in force before. */
  readonly from: string;
  readonly to: string;
  readonly at: Date;
  /** What the change means, part by part. */
  readonly changes: readonly PartChange[];
  /** All of them in one line, for a log. */
  readonly summary: string;
}

/** A change was refused; the old definitions go on. */
export interface RejectedEvent {
  readonly revision: string;
  readonly at: Date;
  readonly problems: readonly LocatedProblem[];
  readonly summary: string;
}

/** Something that a person should look at, and that stops nothing. */
export interface ProblemEvent {
  readonly at: Date;
  readonly message: string;
  readonly problems: readonly LocatedProblem[];
}

/** Overrides were put on or taken off, in code or in the local file. */
export interface OverridesEvent {
  readonly at: Date;
}

/** The flags are being closed: whatever hangs on them is to end. */
export interface ClosingEvent {
  readonly at: Date;
}

/** The events of `flags.on(…)`, and what listeners are handed. */
export interface FlagsEvents {
  readonly change: ChangeEvent;
  readonly rejected: RejectedEvent;
  readonly problem: ProblemEvent;
  readonly overrides: OverridesEvent;
  readonly closing: ClosingEvent;
  readonly verdict: VerdictEvent;
}

type Listener<T> = (event: T) => void;

/** Listeners by event. One that throws reaches neither the others nor the caller. */
export class Events<E extends object> {
  readonly #listeners = new Map<keyof E, Set<Listener<never>>>();

  /** @returns a function that takes the listener off again */
  on<K extends keyof E>(event: K, listener: Listener<E[K]>): () => void {
    const listeners = this.#listeners.get(event) ?? new Set();
    this.#listeners.set(event, listeners);
    // Wrapped, so that the same function put on twice is two listeners, each with its own end.
    const own: Listener<E[K]> = (value) => listener(value);
    listeners.add(own as Listener<never>);
    return () => void listeners.delete(own as Listener<never>);
  }

  emit<K extends keyof E>(event: K, value: E[K]): void {
    for (const listener of [...(this.#listeners.get(event) ?? [])]) {
      try {
        const result: unknown = (listener as Listener<E[K]>)(value);
        if (result instanceof Promise) result.catch(() => undefined);
      } catch {
        // A listener is a guest: what it throws is its own affair.
      }
    }
  }

  /** How many listen to an event. */
  count(event: keyof E): number {
    return this.#listeners.get(event)?.size ?? 0;
  }

  clear(): void {
    this.#listeners.clear();
  }
}
