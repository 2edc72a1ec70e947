import type { LocatedProblem } from "../folder/index.ts";
import type { PartChange } from "../insight/index.ts";
import type { Verdict } from "../judge/index.ts";
import type { Pass } from "./pass.ts";
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

/** Something that bypassed the rules: a pass was taken or refused, or an override decided. */
export type AuditEvent = AuditFacts & {
  readonly at: Date;
  readonly environment: string | undefined;
};

/** What bypassed the rules. */
export type AuditFacts =
  | { readonly kind: "pass-taken"; readonly pass: Pass }
  | {
      readonly kind: "pass-refused";
      /** Why, in words. */
      readonly reason: string;
    }
  | {
      readonly kind: "overridden";
      /** What was given; `overriddenBy` says by which layer. */
      readonly verdict: Verdict;
      /** The pass, where it was one that decided. */
      readonly pass?: Pass | undefined;
    };

/** The events of `flags.on(…)`, and what listeners are handed. */
export interface FlagsEvents {
  readonly change: ChangeEvent;
  readonly rejected: RejectedEvent;
  readonly problem: ProblemEvent;
  readonly overrides: OverridesEvent;
  readonly closing: ClosingEvent;
  readonly verdict: VerdictEvent;
  readonly audit: AuditEvent;
}

type Listener<T> = (event: T) => void;

const none: readonly Listener<never>[] = [];

/** Listeners by event. One that throws reaches neither the others nor the caller. */
export class Events<E extends object> {
  /** Never changed, only replaced: whoever is put on or taken off while listeners are told hears of the next event. */
  readonly #listeners = new Map<keyof E, readonly Listener<never>[]>();

  /** @returns a function that takes the listener off again */
  on<K extends keyof E>(event: K, listener: Listener<E[K]>): () => void {
    // Wrapped, so that the same function put on twice is two listeners, each with its own end.
    const own = ((value) => listener(value)) as Listener<E[K]> as Listener<never>;
    this.#listeners.set(event, [...this.#of(event), own]);
    return () =>
      void this.#listeners.set(
        event,
        this.#of(event).filter((each) => each !== own),
      );
  }

  #of(event: keyof E): readonly Listener<never>[] {
    return this.#listeners.get(event) ?? none;
  }

  emit<K extends keyof E>(event: K, value: E[K]): void {
    for (const listener of this.#of(event)) {
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
    return this.#of(event).length;
  }

  clear(): void {
    this.#listeners.clear();
  }
}
