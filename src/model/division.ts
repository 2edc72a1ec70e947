import { Bucket, type Entrant, Race } from "../buckets/index.ts";
import { readInstant } from "../calendar/index.ts";
import { parsePath } from "../language/index.ts";
import {
  parseRisingStep,
  parseSplitPart,
  type RisingSource,
  type RuleSource,
  type ShareSource,
} from "../source/index.ts";
import { parseRange, type Range, showPercent, showRange } from "../values/index.ts";
import type { FlagDefinition } from "./types.ts";

/** The share and split of a rule, resolved: which attribute, which salts, which ranges and parts. */
export interface Division {
  /** The attribute whose id is divided by. */
  readonly by: readonly string[];
  readonly salt: string;
  readonly share: Share | undefined;
  readonly split: Split | undefined;
}

/** Which positions are inside, at each instant. */
export interface Share {
  readonly bucket: Bucket;
  /** Ascending in time; a share that does not rise has one step that has always held. */
  readonly steps: readonly ShareStep[];
  readonly rises: boolean;
  /** The zone in which the steps of a rising share were written. */
  readonly zone: string | undefined;
}

export interface ShareStep extends Range {
  /** Epoch milliseconds from which it holds. */
  readonly from: number;
}

export interface Split {
  readonly race: Race;
  /** In the order of the file, those without parts included. */
  readonly entrants: readonly Entrant[];
  /** The sum of all parts. */
  readonly total: number;
}

const always = Number.NEGATIVE_INFINITY;
const nobody: Range = { low: 0, high: 0 };
const everybody: ShareStep = { low: 0, high: 100, from: always };

/** The attribute that a flag's shares and splits go by, where no rule says otherwise; "" where nothing does. */
export function subjectOf({ source, defaults }: FlagDefinition): string {
  return source.by ?? defaults.by ?? "";
}

export function isDivided({ share, split }: RuleSource): boolean {
  return share !== undefined || split !== undefined;
}

/** What a checked rule that has a share or a split divides by. */
export function divisionOf(flag: FlagDefinition, rule: RuleSource): Division {
  const salt = rule.salt ?? flag.source.salt ?? flag.name;
  return {
    by: parsePath(rule.by ?? subjectOf(flag)).path ?? [],
    salt,
    share: rule.share === undefined ? undefined : shareOf(rule.share, salt, flag.defaults.zone),
    split: rule.split === undefined ? undefined : splitOf(rule.split, salt),
  };
}

function shareOf(share: ShareSource, salt: string, zone: string | undefined): Share {
  const bucket = new Bucket("share", salt);
  if (typeof share === "object") {
    return { bucket, steps: risingSteps(share, zone), rises: true, zone: share.zone ?? zone };
  }
  return { bucket, steps: [{ ...(parseRange(share) ?? nobody), from: always }], rises: false, zone: undefined };
}

/** The steps of a checked rising share. */
function risingSteps(share: RisingSource, zone: string | undefined): readonly ShareStep[] {
  return share.rising.flatMap((text) => {
    const step = parseRisingStep(text);
    const from = step && readInstant(step.instant, share.zone ?? zone);
    return step && typeof from === "number" ? [{ low: 0, high: step.percent, from }] : [];
  });
}

function splitOf(split: readonly string[], salt: string): Split {
  const entrants = split.flatMap((text) => parseSplitPart(text) ?? []);
  return { race: new Race(salt, entrants), entrants, total: entrants.reduce((sum, { parts }) => sum + parts, 0) };
}

/** The range that holds at an instant: that of the last step whose instant has come, nobody's before the first. */
export function rangeAt(steps: readonly ShareStep[], at: number): Range {
  for (let i = steps.length - 1; i >= 0; i--) if (at >= steps[i]!.from) return steps[i]!;
  return nobody;
}

export function isInside(position: number, { low, high }: Range): boolean {
  return low / 100 <= position && position < high / 100;
}

/** The steps of a share that may be missing: then everybody is inside. */
export function stepsOf(share: Share | undefined): readonly ShareStep[] {
  return share?.steps ?? [everybody];
}

/** Everything that a share is now or will be. */
export function rangesFrom(share: Share | undefined, at: number): readonly Range[] {
  const steps = stepsOf(share);
  return [rangeAt(steps, at), ...steps.filter(({ from }) => from > at)];
}

/** The variants that can win, with the part of people that each gets, from 0 to 1. */
export function partsOf({ entrants, total }: Split): readonly (Entrant & { readonly fraction: number })[] {
  return entrants.filter(({ parts }) => parts > 0).map((each) => ({ ...each, fraction: each.parts / total }));
}

/** `10%`, `20% to 45%`, or the steps of a rising share. */
export function showShare({ steps, rises }: Share): string {
  return rises ? `rising to ${showPercent(steps.at(-1)?.high ?? 0)}` : showRange(steps[0] ?? nobody);
}
