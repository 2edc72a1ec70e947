import type { Answer, Plain } from "../values/index.ts";
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
  readonly clock: Clock;
  private instant: number | undefined;
  /** Flags and cohorts already judged, by their number in the compiled set. */
  outcomes: Outcome[] | undefined;
  answers: Answer[] | undefined;

  constructor(context: Plain, clock: Clock, overrides: Overrides | undefined) {
    this.context = context;
    this.overrides = overrides;
    this.clock = clock;
    this.instant = undefined;
    this.outcomes = undefined;
    this.answers = undefined;
  }

  /** Epoch milliseconds. */
  get at(): number {
    this.instant ??= this.clock();
    return this.instant;
  }
}
