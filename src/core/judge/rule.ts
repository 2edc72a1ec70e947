import { Bucket } from "../buckets/bucket.ts";
import { parsePercent } from "../buckets/percent.ts";
import { parseSplitPart, splitIndex } from "../buckets/split.ts";
import type { Ask } from "../condition/leaves.ts";
import { segmentsOf } from "../condition/paths.ts";
import { idText, reader } from "../context/subject.ts";
import type { RuleSource } from "../definition/file-shape.ts";
import { type RisingStep, risingSteps } from "../definition/read-rising.ts";
import type { FlagDefinition } from "../definition/types.ts";
import type { Outcome } from "./outcome.ts";
import type { Question } from "./question.ts";

/** A rule ready to be asked: its condition, and what it comes to once that is true. */
export interface CompiledRule {
  /** Undefined for a rule for everyone. */
  readonly when: Ask | undefined;
  /** The outcome where there is nothing to divide. */
  readonly outcome: Outcome | undefined;
  /** The outcome by share and split, or undefined when the question passes on. */
  readonly divide: ((question: Question) => Outcome | undefined) | undefined;
  /** The id that is divided by, if there is a usable one. */
  readonly subject: ((question: Question) => string | undefined) | undefined;
}

/** The share and split of a rule, resolved: which attribute, which salts, which fractions. */
export interface Division {
  readonly by: readonly string[];
  readonly salt: string;
  readonly share: Share | undefined;
  readonly split: Split | undefined;
}

export interface Share {
  readonly bucket: Bucket;
  /** Ascending in time; a fixed share has one step that has always held. */
  readonly steps: readonly RisingStep[];
  readonly rises: boolean;
}

export interface Split {
  readonly bucket: Bucket;
  readonly weights: readonly number[];
  readonly variants: readonly string[];
  readonly total: number;
}

export function divisionOf(flag: FlagDefinition, rule: RuleSource): Division | undefined {
  if (rule.share === undefined && rule.split === undefined) return undefined;
  const by = segmentsOf(rule.by ?? flag.source.by ?? flag.defaults.by ?? "");
  const salt = rule.salt ?? flag.source.salt ?? flag.name;
  return { by, salt, share: shareOf(flag, rule, salt), split: splitOf(rule, salt) };
}

function shareOf(flag: FlagDefinition, { share }: RuleSource, salt: string): Share | undefined {
  if (share === undefined) return undefined;
  const bucket = new Bucket(salt);
  if (typeof share !== "string") return { bucket, steps: risingSteps(share, flag.defaults), rises: true };
  return { bucket, steps: [{ percent: parsePercent(share)!, from: Number.NEGATIVE_INFINITY }], rises: false };
}

function splitOf({ split }: RuleSource, salt: string): Split | undefined {
  if (split === undefined) return undefined;
  const parts = split.map((text) => parseSplitPart(text)!);
  return {
    bucket: new Bucket(`${salt}#split`),
    weights: parts.map((part) => part.parts),
    variants: parts.map((part) => part.variant),
    total: parts.reduce((sum, part) => sum + part.parts, 0),
  };
}

/** The percentage that holds at an instant: that of the last step whose instant has come, 0 before the first. */
export function percentAt(steps: readonly RisingStep[], at: number): number {
  for (let i = steps.length - 1; i >= 0; i--) if (at >= steps[i]!.from) return steps[i]!.percent;
  return 0;
}

/** Chooses, once, how the rule decides; nothing is left open for the judging. */
export function compileRule(
  when: Ask | undefined,
  division: Division | undefined,
  give: (variant?: string) => Outcome,
): CompiledRule {
  if (!division) return { when, outcome: give(), divide: undefined, subject: undefined };
  const read = reader(division.by);
  const subject = (question: Question) => idText(read(question.context));
  return { when, outcome: undefined, divide: compileDivision(division, give, read), subject };
}

function compileDivision(
  { share, split }: Division,
  give: (variant?: string) => Outcome,
  read: (context: Question["context"]) => unknown,
): (question: Question) => Outcome | undefined {
  const inside = share ? compileShare(share) : () => true;
  const choose = split ? compileSplit(split, give) : constant(give());
  return (question) => {
    const id = idText(read(question.context));
    return id !== undefined && inside(id, question) ? choose(id) : undefined;
  };
}

function constant(outcome: Outcome): () => Outcome {
  return () => outcome;
}

function compileShare({ bucket, steps, rises }: Share): (id: string, question: Question) => boolean {
  if (rises) return (id, question) => bucket.position(id) < percentAt(steps, question.at) / 100;
  const fraction = steps[0]!.percent / 100;
  return (id) => bucket.position(id) < fraction;
}

function compileSplit(
  { bucket, weights, variants, total }: Split,
  give: (variant: string) => Outcome,
): (id: string) => Outcome {
  const outcomes = variants.map((variant) => give(variant));
  return (id) => outcomes[splitIndex(weights, total, bucket.position(id))]!;
}
