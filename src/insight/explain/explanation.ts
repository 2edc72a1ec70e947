import type { Verdict } from "../../judge/index.ts";
import type { AnswerWord } from "../../values/index.ts";

/** A verdict with every step that led to it. Plain data: it can be logged, sent and rendered anywhere. */
export interface Explanation extends Verdict {
  readonly environment: string | undefined;
  /** The instant of the judgement, ISO 8601 in UTC. */
  readonly at: string | undefined;
  readonly steps: readonly Step[];
}

/** One step of a judgement, in the order in which they were made. */
export type Step = OverrideStep | SuspendedStep | ProvidedStep | RuleStep | OtherwiseStep;

/** An override decided. */
export interface OverrideStep {
  readonly step: "override";
  readonly by: string;
  readonly value: unknown;
}

/** The flag is suspended, which decided. */
export interface SuspendedStep {
  readonly step: "suspended";
  readonly since?: string | undefined;
  readonly who?: string | undefined;
  readonly note?: string | undefined;
}

/** A condition of `provided` was asked; unless it is true, the safe value is given. */
export interface ProvidedStep {
  readonly step: "provided";
  readonly holds: AnswerWord;
  readonly condition: ConditionTrace;
}

/** A rule was asked: its condition, its share, its split. */
export interface RuleStep {
  readonly step: "rule";
  /** Counted from 1. */
  readonly rule: number;
  readonly name?: string | undefined;
  readonly matched: boolean;
  /** Left out where the rule is for everyone. */
  readonly condition?: ConditionTrace | undefined;
  readonly share?: ShareTrace | undefined;
  readonly split?: SplitTrace | undefined;
}

/** No rule decided. */
export interface OtherwiseStep {
  readonly step: "otherwise";
  readonly value: unknown;
}

/** A condition, its answer, and each test that was asked. */
export interface ConditionTrace {
  readonly text: string;
  readonly answer: AnswerWord;
  readonly tests: readonly TestTrace[];
  /** Where the condition is not true: the fewest tests that would have to come out otherwise. */
  readonly lacks?: readonly Lack[] | undefined;
}

/** A test, and what it would have to answer. */
export interface Lack {
  readonly text: string;
  readonly wanted: "true" | "false";
}

/** One test of a condition, what it looked at and what it answered. */
export interface TestTrace {
  /** UTF-16 offsets in the condition's text. */
  readonly start: number;
  readonly end: number;
  readonly text: string;
  readonly answer: AnswerWord;
  /** Whether this test's answer made the condition's. */
  readonly decided: boolean;
  /** The attribute, flag, cohort or window that was looked at. */
  readonly subject: string;
  /** For a cohort: the attribute whose id was looked up or drawn. */
  readonly attribute?: string | undefined;
  /** The value that was seen, as JSON; "•••" for a private attribute. Left out where it was missing. */
  readonly seen?: string | undefined;
  /** In words: what was seen, and why it was undecided. */
  readonly because: string;
  /** The condition of a cohort. */
  readonly inner?: ConditionTrace | undefined;
}

/** By whose id a share or split went. */
export interface SubjectTrace {
  /** The attribute whose hash decides. */
  readonly by: string;
  readonly salt: string;
  /** "•••" for a private attribute; absent if the id is missing or unusable. */
  readonly id?: string | undefined;
}

/** Where a subject lies in the share of a rule. */
export interface ShareTrace extends SubjectTrace {
  /** From 0 up to 1; absent if the id is missing or unusable, and for a private one unless it is revealed. */
  readonly position?: number | undefined;
  /** The percent, from `low` to `high`, that were inside at the instant; `low` is 0 but for a range. */
  readonly low: number;
  readonly high: number;
  readonly inside: boolean;
  readonly rising?: readonly { readonly percent: number; readonly from: string }[] | undefined;
  /** The zone in which the rising share's times were written. */
  readonly zone?: string | undefined;
  /** When a rising share will first hold this subject, ISO 8601; left out where it holds it, or never will. */
  readonly reaches?: string | undefined;
}

/** A split as a race: the variant with the shortest time wins. */
export interface SplitTrace extends SubjectTrace {
  /** As written: "2 classic". */
  readonly parts: readonly string[];
  /** Absent if the id is missing or unusable. */
  readonly variant?: string | undefined;
  /** The winner first; absent if the id is missing or unusable, and for a private one unless it is revealed. */
  readonly times?: readonly { readonly variant: string; readonly time: number }[] | undefined;
}
