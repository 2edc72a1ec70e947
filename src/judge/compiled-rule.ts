import type { Bucket } from "../buckets/index.ts";
import { type Division, isDivided, isInside, type Rule, rangeAt, type Share } from "../model/index.ts";
import type { Range } from "../values/index.ts";
import type { Ask } from "./ask.ts";
import { type Reader, readerOf } from "./context/reader.ts";
import { idText } from "./context/subject.ts";
import type { Outcome } from "./outcome.ts";
import type { Question } from "./question.ts";

/** Makes outcomes of what rules give: a value, or a variant's name. */
export interface OutcomeMaker {
  outcomeOf(rule: Rule, given: unknown): Outcome;
}

/**
 * A rule ready to be asked. Its division and its outcomes are made when first needed: most flags of a large set are
 * never asked.
 */
export class CompiledRule {
  readonly rule: Rule;
  /** Undefined for a rule for everyone. */
  readonly when: Ask | undefined;
  private readonly maker: OutcomeMaker;
  private readonly isDivided: boolean;
  private divider: CompiledDivision | undefined;
  private only: Outcome | undefined;
  private outcomes: Map<string, Outcome> | undefined;

  constructor(rule: Rule, when: Ask | undefined, maker: OutcomeMaker) {
    this.rule = rule;
    this.when = when;
    this.maker = maker;
    this.isDivided = isDivided(rule.source);
    this.divider = undefined;
    this.only = undefined;
    this.outcomes = undefined;
  }

  get division(): CompiledDivision | undefined {
    if (this.divider === undefined && this.isDivided) this.divider = compileDivision(this.rule.division!);
    return this.divider;
  }

  /** What it comes to once its condition is true; undefined where its share passes the question on. */
  give(question: Question): Outcome | undefined {
    const { division } = this;
    if (division === undefined) return this.gives();
    const id = idText(division.subject(question.context));
    if (id === undefined || !division.holds(id, question)) return undefined;
    return division.race === undefined ? this.gives() : this.givesVariant(division.race.winner(id));
  }

  /** The outcome of a rule that does not split. */
  gives(): Outcome {
    this.only ??= this.maker.outcomeOf(this.rule, this.rule.gives);
    return this.only;
  }

  givesVariant(variant: string): Outcome {
    this.outcomes ??= new Map();
    let outcome = this.outcomes.get(variant);
    if (outcome === undefined) {
      outcome = this.maker.outcomeOf(this.rule, variant);
      this.outcomes.set(variant, outcome);
    }
    return outcome;
  }
}

/** A share, a split or both, ready to be asked about an id. */
export interface CompiledDivision {
  /** Reads the attribute whose id is divided by. */
  readonly subject: Reader;
  /** Is an id inside the share? */
  holds(id: string, question: Question): boolean;
  readonly race: { winner(id: string): string } | undefined;
}

/** Chooses, once, how the rule divides; nothing is left open for the judging. */
function compileDivision({ by, share, split }: Division): CompiledDivision {
  const subject = readerOf(by);
  const race = split?.race;
  if (share === undefined) return { subject, holds: everybody, race };
  return share.rises
    ? new RisingShare(subject, share, race)
    : new FixedShare(subject, share.bucket, share.steps[0]!, race);
}

function everybody(): boolean {
  return true;
}

/** What practice uses most. */
class FixedShare implements CompiledDivision {
  readonly subject: Reader;
  readonly race: CompiledDivision["race"];
  private readonly bucket: Bucket;
  private readonly low: number;
  private readonly high: number;

  constructor(subject: Reader, bucket: Bucket, { low, high }: Range, race: CompiledDivision["race"]) {
    this.subject = subject;
    this.race = race;
    this.bucket = bucket;
    this.low = low / 100;
    this.high = high / 100;
  }

  holds(id: string): boolean {
    const position = this.bucket.position(id);
    return this.low <= position && position < this.high;
  }
}

class RisingShare implements CompiledDivision {
  readonly subject: Reader;
  readonly race: CompiledDivision["race"];
  private readonly share: Share;

  constructor(subject: Reader, share: Share, race: CompiledDivision["race"]) {
    this.subject = subject;
    this.race = race;
    this.share = share;
  }

  holds(id: string, question: Question): boolean {
    const { bucket, steps } = this.share;
    return isInside(bucket.position(id), rangeAt(steps, question.at));
  }
}
