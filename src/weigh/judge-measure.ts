import { type CellSums, merged } from "./cell.ts";
import { type Contrast, contrast, estimateOf, groupInterval, type MeasureKind, type Stratum, sum } from "./estimate.ts";
import {
  anyLook,
  anyLookProbability,
  around,
  type Interval,
  oneLook,
  oneLookProbability,
  relativeInterval,
} from "./interval.ts";
import type { MeasureCells } from "./outcomes.ts";
import { settled } from "./plan.ts";
import { type About, type Direction, type Margin, type Saying, sentenceOf, type Unweighable } from "./words.ts";

/** A figure with the interval that one look at it gives. */
export interface Figure extends Interval {
  readonly figure: number;
}

/** Two groups beside each other. Rates go from 0 to 1. */
export interface Difference {
  readonly from: string;
  readonly to: string;
  /** The second less the first, for one look that was decided beforehand. Null where nothing is compared. */
  readonly absolute: Figure | null;
  /** Holds however often one looks; null below the floor. Its probability is corrected for the family. */
  readonly alwaysValid: (Interval & { readonly probability: number }) | null;
  /** As a part of the first; null where the first is too near to 0. */
  readonly relative: (Figure & { readonly alwaysValid: Interval | null }) | null;
  /** Of a figure at least as far from 0, were there no difference; for one look, of this difference by itself. */
  readonly probability: number | null;
  readonly says: string;
  /** What it says, before it is put into words. */
  readonly saying: Saying;
  /** People who came in up to the end of that day (UTC), outcomes as they are known now. */
  readonly byDay: readonly (Figure & {
    /** `2026-12-04`. */
    readonly day: string;
    readonly people: number;
    readonly alwaysValid: Interval | null;
  })[];
}

/** The figure of one day. */
export type DayFigure = Difference["byDay"][number];

/** A measure in all groups. */
export interface WeighedMeasure {
  readonly name: string;
  readonly kind: MeasureKind;
  readonly groups: readonly (Figure & { readonly name: string; readonly people: number })[];
  readonly differences: readonly Difference[];
}

/** What must not get worse. */
export interface Guard {
  readonly margin: Margin;
  readonly bad: Direction;
}

/** What decides the words of a measure. */
export interface Rules {
  /** The part of cases in which an interval may miss. */
  readonly a: number;
  /** How many intervals share the family's 5 %. */
  readonly family: number;
  /** Of a rate in points. */
  readonly tell: number | undefined;
  readonly better: Direction | undefined;
  readonly guard: Guard | undefined;
  /** Why nothing is compared. */
  readonly unweighable: Unweighable | undefined;
  /** Whether it is compared all the same. */
  readonly anyway: boolean;
  readonly isShare: boolean;
}

/** The fewest people of each kind in each group. */
const floor = 20;

/** The largest part of the uncertainty that one person may make. */
const mostOfOne = 0.1;

/** Weighs one measure: the first group beside each of the others. */
export function judgeMeasure(measure: MeasureCells, names: readonly string[], rules: Rules): WeighedMeasure {
  const { name, kind, spans } = measure;
  const cells = spans.map((days) =>
    names.map((_, group) => merged([...days.values()].map((groups) => groups[group]!))),
  );
  const strata = (to: number) => cells.map((groups) => ({ from: groups[0]!, to: groups[to]! }));
  const contrasts = names.slice(1).map((_, i) => contrast(kind, strata(i + 1)));
  return {
    name,
    kind,
    groups: names.map((group, g) =>
      groupFigure(
        kind,
        group,
        cells.map((groups) => groups[g]!),
        contrasts[Math.max(0, g - 1)],
        g,
      ),
    ),
    differences: names.slice(1).map((to, i) => {
      const about = { kind, to, isShare: rules.isShare, although: rules.anyway ? rules.unweighable?.why : undefined };
      return {
        from: names[0]!,
        to,
        ...differenceOf(contrasts[i], strata(i + 1), about, rules),
        byDay: byDay(measure, i + 1, rules),
      };
    }),
  };
}

function groupFigure(
  kind: MeasureKind,
  name: string,
  cells: readonly CellSums[],
  compared: Contrast | undefined,
  group: number,
): WeighedMeasure["groups"][number] {
  const here = cells.filter(({ people }) => people > 0);
  const all = merged(here);
  // Weighted as the difference is, so that the figures subtract to it.
  const isWeighted = compared !== undefined && here.length > 1;
  const estimate = isWeighted ? (group === 0 ? compared.from : compared.to) : estimateOf(kind, all);
  const interval = groupInterval(kind, estimate, all, isWeighted ? compared.strata.length : 1, 0.05);
  return { name, people: all.people, figure: estimate.figure, ...interval };
}

function differenceOf(
  compared: Contrast | undefined,
  strata: readonly Stratum[],
  about: About,
  rules: Rules,
): Omit<Difference, "from" | "to" | "byDay"> {
  const none = { absolute: null, alwaysValid: null, relative: null, probability: null };
  const said = (saying: Saying) => ({ saying, says: sentenceOf(saying, about) });
  if (rules.unweighable !== undefined && !rules.anyway) return { ...none, ...said(rules.unweighable) };
  const low = belowFloor(about.kind, strata, compared);
  if (!compared || compared.difference.se === 0) return { ...none, ...said(low ?? { kind: "everybody" }) };
  const { difference, from, to, h } = compared;
  const factor = anyLook(h, rules.a);
  const relative = relativeInterval(from, to, oneLook(rules.a));
  const always = low ? undefined : around(difference, factor);
  const alwaysRelative = low ? undefined : relativeInterval(from, to, factor);
  const saying =
    low ??
    (rules.guard
      ? guardSaying(rules.guard, about.kind, always!, alwaysRelative)
      : sayingOf(always!, about.kind, compared, rules));
  return {
    absolute: { figure: difference.figure, ...around(difference, oneLook(rules.a)) },
    alwaysValid: always
      ? { ...always, probability: Math.min(1, rules.family * anyLookProbability(difference, h)) }
      : null,
    relative: relative
      ? { figure: to.figure / from.figure - 1, ...relative, alwaysValid: alwaysRelative ?? null }
      : null,
    probability: oneLookProbability(difference),
    ...said(saying),
  };
}

/** Too little for figures that are about normal: without this floor the interval of a small group is wrong most of the time. */
function belowFloor(kind: MeasureKind, strata: readonly Stratum[], compared: Contrast | undefined): Saying | undefined {
  const groups = (["from", "to"] as const).map((which) => merged(strata.map((stratum) => stratum[which])));
  const people = sum(groups.map((group) => group.people));
  const had = sum(groups.map(({ nonzero }) => nonzero));
  if (people > 0 && had === 0) return { kind: "nobody" };
  if (kind === "rate" && had === people && people > 0) return { kind: "everybody" };
  const scarce = groups.map((group) => ({ group, have: scarceIn(kind, group) })).sort((a, b) => a.have - b.have)[0]!;
  if (scarce.have < floor) return { kind: "too-few", have: scarce.group.nonzero, of: scarce.group.people };
  if (!compared) return { kind: "too-few", have: 0, of: people };
  if (kind !== "rate" && compared.oneMakes >= mostOfOne) return { kind: "one-decides", part: compared.oneMakes };
  return undefined;
}

function scarceIn(kind: MeasureKind, { people, nonzero, nonzeroX }: CellSums): number {
  switch (kind) {
    case "rate":
      return Math.min(nonzero, people - nonzero);
    case "amount":
      return nonzero;
    case "ratio":
      return Math.min(nonzero, nonzeroX);
  }
}

function sayingOf({ low, high }: Interval, kind: MeasureKind, compared: Contrast, rules: Rules): Saying {
  const { a, better } = rules;
  const tell = rules.tell === undefined ? undefined : rules.tell / unitsIn(kind);
  const isOutside = low > 0 || high < 0;
  if (tell !== undefined && low > -tell && high < tell) return { kind: isOutside ? "smaller" : "none-so-large", tell };
  if (isOutside) return { kind: "apart", low, high, better };
  if (tell === undefined) return { kind: "undecided", low, high };
  const people = peopleMissing(compared, tell, a);
  return people > 0 ? { kind: "undecided", low, high, tell, people } : { kind: "undecided", low, high };
}

/** How many more people, divided as those who are there, would tell a difference in four of five cases. */
function peopleMissing({ difference, h, strata }: Contrast, tell: number, a: number): number {
  const people = sum(strata.map(({ from, to }) => from.people + to.people));
  const power = oneLook(0.4);
  const needed = settled(
    (n) => people * ((anyLook((h * n) / people, a) + power) * (difference.se / tell)) ** 2,
    people,
  );
  return Math.ceil(needed - people);
}

/** A rate is told in points. */
function unitsIn(kind: MeasureKind): number {
  return kind === "rate" ? 100 : 1;
}

function guardSaying(
  { margin, bad }: Guard,
  kind: MeasureKind,
  always: Interval,
  relative: Interval | undefined,
): Saying {
  const interval = margin.isRelative ? relative : always;
  if (!interval) return { kind: "perhaps-worse", margin };
  const [low, high] = bad === "more" ? [interval.low, interval.high] : [-interval.high, -interval.low];
  const by = margin.by / (margin.isRelative ? 100 : unitsIn(kind));
  if (low > by) return { kind: "worse", margin };
  return { kind: high < by ? "not-worse" : "perhaps-worse", margin };
}

const dayLength = 86_400_000;

function byDay({ kind, spans }: MeasureCells, to: number, rules: Rules): DayFigure[] {
  if (rules.unweighable !== undefined && !rules.anyway) return [];
  const days = [...new Set(spans.flatMap((span) => [...span.keys()]))].sort((a, b) => a - b);
  const grown = spans.map(() => ({ from: merged([]), to: merged([]) }));
  return days.flatMap((day) => {
    for (const [k, span] of spans.entries()) {
      const groups = span.get(day);
      if (!groups) continue;
      grown[k]!.from.merge(groups[0]!);
      grown[k]!.to.merge(groups[to]!);
    }
    const compared = contrast(kind, grown);
    if (!compared || compared.difference.se === 0) return [];
    const { difference, h } = compared;
    const always = belowFloor(kind, grown, compared) ? null : around(difference, anyLook(h, rules.a));
    return {
      day: new Date(day * dayLength).toISOString().slice(0, 10),
      people: sum(grown.map(({ from, to: other }) => from.people + other.people)),
      figure: difference.figure,
      ...around(difference, oneLook(rules.a)),
      alwaysValid: always,
    };
  });
}
