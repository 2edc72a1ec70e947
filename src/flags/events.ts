import type { LocatedProblem } from "../files/index.ts";
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

/** What could not be used can be used again: the end of what "rejected", a shelf's silence or a start from a copy began. */
export interface RecoveredEvent {
  readonly revision: string;
  readonly at: Date;
  /** Since when it could not. */
  readonly since: Date;
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
  /** Other definitions came into force. */
  readonly change: ChangeEvent;
  /** A change was refused; the old definitions go on. */
  readonly rejected: RejectedEvent;
  /** What the files or the shelf say can be used again. */
  readonly recovered: RecoveredEvent;
  /** Something that a person should look at. */
  readonly problem: ProblemEvent;
  /** Some were put on or taken off. */
  readonly overrides: OverridesEvent;
  /** The flags are being closed. */
  readonly closing: ClosingEvent;
  /**
   * What was asked and given, once for a flag and a pinned context; of a share of the subjects, each only once, or without
   * what pages are handed, where that is asked for.
   */
  readonly verdict: VerdictEvent;
  /** A pass was taken or refused, or an override decided. */
  readonly audit: AuditEvent;
}
