import type { Answer, Plain } from "../values/index.ts";
import type { Known } from "./known.ts";
import type { Outcome } from "./outcome.ts";

/** Tells the time, in epoch milliseconds. */
export type Clock = () => number;

/** Overrides that apply to one question, by flag; in code they stand above suspensions, the others below. */
export interface Overrides {
  readonly code: ReadonlyMap<string, Outcome> | undefined;
  readonly layers: ReadonlyMap<string, Outcome> | undefined;
}

/**
 * One asking: the context, the instant (read from the clock once, and only if something depends on it), overrides.
 * Made for every verdict, so its fields are plain ones, which are set faster than private ones.
 */
export class Question {
  readonly context: Plain;
  readonly overrides: Overrides | undefined;
  /** Flags that were judged already. */
  outcomes: Known<Outcome> | undefined;
  /** Cohorts that were. */
  answers: Known<Answer> | undefined;
  private instant: number | Clock;

  /** @param at epoch milliseconds, or what tells them */
  constructor(context: Plain, at: number | Clock, overrides: Overrides | undefined) {
    this.context = context;
    this.overrides = overrides;
    this.outcomes = undefined;
    this.answers = undefined;
    this.instant = at;
  }

  /** Epoch milliseconds. */
  get at(): number {
    if (typeof this.instant === "function") this.instant = this.instant();
    return this.instant;
  }
}
