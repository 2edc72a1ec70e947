import { Bucket } from "../buckets/bucket.ts";
import { parseSplitPart, splitIndex } from "../buckets/split.ts";
import { type RisingStep, risingSteps } from "../model/read-rising.ts";
import type { FlagDefinition } from "../model/types.ts";
import type { RuleSource } from "../source/format.ts";
import { parsePercent } from "../values/percent.ts";
import type { Reader } from "./context/reader.ts";
import type { Ask } from "./leaves.ts";
import type { Outcome } from "./outcome.ts";
import { knownPath } from "./paths.ts";
import type { Question } from "./question.ts";

/** A rule ready to be asked: its condition, how it divides, and what it comes to. */
export interface CompiledRule {
  /** Undefined for a rule for everyone. */
  readonly when: Ask | undefined;
  readonly division: CompiledDivision | undefined;
  /** As written: the value or variant; undefined where the rule splits. */
  readonly given: unknown;
  /** Made when it is first given: most flags of a large set are never asked in one process. */
  outcome: Outcome | undefined;
}

/** A share, a split or both, ready to be asked about an id. */
export interface CompiledDivision {
  /** Reads the attribute whose id is divided by. */
  readonly subject: Reader;
  /** The part that an id falls into, 0 where nothing is split; −1 for one outside the share. */
  partOf(id: string, question: Question): number;
  /** The variants of a split, and their outcomes as they are first given. */
  readonly split: { readonly variants: readonly string[]; readonly outcomes: Outcome[] } | undefined;
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
  const salt = saltOf(flag, rule);
  return {
    by: knownPath(byOf(flag, rule)).segments,
    salt,
    share: shareOf(flag, rule, salt),
    split: splitOf(rule, salt),
  };
}

function byOf(flag: FlagDefinition, rule: RuleSource): string {
  return rule.by ?? flag.source.by ?? flag.defaults.by ?? "";
}

function saltOf(flag: FlagDefinition, rule: RuleSource): string {
  return rule.salt ?? flag.source.salt ?? flag.name;
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
export function compileRule(flag: FlagDefinition, rule: RuleSource, when: Ask | undefined): CompiledRule {
  return { when, division: compileDivision(flag, rule), given: rule.give, outcome: undefined };
}

function compileDivision(flag: FlagDefinition, rule: RuleSource): CompiledDivision | undefined {
  const { share, split } = rule;
  if (share === undefined && split === undefined) return undefined;
  const subject = knownPath(byOf(flag, rule)).read;
  if (typeof share === "string" && split === undefined) {
    return new FixedShare(subject, new Bucket(saltOf(flag, rule)), parsePercent(share)!);
  }
  const division = divisionOf(flag, rule)!;
  return new ShareAndSplit(subject, division.share, division.split);
}

/** What practice uses most. */
class FixedShare implements CompiledDivision {
  readonly subject: Reader;
  private readonly bucket: Bucket;
  private readonly percent: number;

  constructor(subject: Reader, bucket: Bucket, percent: number) {
    this.subject = subject;
    this.bucket = bucket;
    this.percent = percent;
  }

  get split(): undefined {
    return undefined;
  }

  partOf(id: string): number {
    return this.bucket.position(id) < this.percent / 100 ? 0 : -1;
  }
}

class ShareAndSplit implements CompiledDivision {
  readonly subject: Reader;
  readonly split: CompiledDivision["split"];
  private readonly share: Share | undefined;
  private readonly parts: Split | undefined;

  constructor(subject: Reader, share: Share | undefined, parts: Split | undefined) {
    this.subject = subject;
    this.split = parts && { variants: parts.variants, outcomes: [] };
    this.share = share;
    this.parts = parts;
  }

  partOf(id: string, question: Question): number {
    const share = this.share;
    if (share !== undefined && !isInside(share, id, question)) return -1;
    const parts = this.parts;
    return parts === undefined ? 0 : splitIndex(parts.weights, parts.total, parts.bucket.position(id));
  }
}

function isInside({ bucket, steps, rises }: Share, id: string, question: Question): boolean {
  const percent = rises ? percentAt(steps, question.at) : steps[0]!.percent;
  return bucket.position(id) < percent / 100;
}
