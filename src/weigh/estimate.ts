import type { CellSums } from "./cell.ts";
import { around, type Estimate, type Interval, oneLook, student, wilson } from "./interval.ts";

/** What is measured of each person: whether it happened, how much it was in all, or one amount by another. */
export type MeasureKind = "rate" | "amount" | "ratio";

/** Two groups in one span. */
export interface Stratum {
  readonly from: CellSums;
  readonly to: CellSums;
}

/** How far one group is from another, over all spans. */
export interface Contrast {
  /** The second group's figure less the first's. */
  readonly difference: Estimate;
  /** Both figures, weighted alike, so that they subtract to the difference. */
  readonly from: Estimate;
  readonly to: Estimate;
  /** Σ n1·n0/(n1+n0). */
  readonly h: number;
  /** The largest part of the variance that one person makes, from 0 to 1. */
  readonly oneMakes: number;
  /** What was compared: spans in which a group has less than two people are left out. */
  readonly strata: readonly Stratum[];
}

/** The figure of a group in one span, and its standard error. */
export function estimateOf(kind: MeasureKind, cell: CellSums): Estimate {
  const { people, mean, meanX } = cell;
  switch (kind) {
    case "rate": {
      const figure = cell.nonzero / people;
      return { figure, se: Math.sqrt((figure * (1 - figure)) / people) };
    }
    case "amount":
      return { figure: mean, se: Math.sqrt(cell.m2 / (people - 1) / people) };
    case "ratio": {
      // The delta method by person, since the lot drew people and not what they did.
      const figure = mean / meanX;
      const spread = cell.m2 - 2 * figure * cell.cxy + figure ** 2 * cell.m2X;
      return { figure, se: Math.sqrt(Math.max(0, spread) / (people - 1) / people) / Math.abs(meanX) };
    }
  }
}

/** Compares two groups span by span, and averages with the weights n1·n0/(n1+n0); undefined where nothing can be compared. */
export function contrast(kind: MeasureKind, spans: readonly Stratum[]): Contrast | undefined {
  const strata = spans.filter(({ from, to }) => [from, to].every((cell) => canBeEstimated(kind, cell)));
  const weights = strata.map(({ from, to }) => (from.people * to.people) / (from.people + to.people));
  const h = sum(weights);
  if (h === 0) return undefined;
  const side = (which: keyof Stratum): Estimate => {
    const each = strata.map((stratum) => estimateOf(kind, stratum[which]));
    return {
      figure: sum(each.map(({ figure }, k) => weights[k]! * figure)) / h,
      se: Math.sqrt(sum(each.map(({ se }, k) => (weights[k]! * se) ** 2))) / h,
    };
  };
  const [from, to] = [side("from"), side("to")];
  const difference = {
    figure:
      sum(strata.map((s, k) => weights[k]! * (estimateOf(kind, s.to).figure - estimateOf(kind, s.from).figure))) / h,
    se: Math.hypot(from.se, to.se),
  };
  const makes = strata.flatMap((stratum, k) =>
    [stratum.from, stratum.to].map((cell) => (weights[k]! / h) * reach(kind, cell)),
  );
  const oneMakes = difference.se === 0 ? 0 : (Math.max(...makes) / difference.se) ** 2;
  return { difference, from, to, h, oneMakes, strata };
}

function canBeEstimated(kind: MeasureKind, { people, meanX }: CellSums): boolean {
  return people >= 2 && (kind !== "ratio" || meanX !== 0);
}

/** How far the one who has most moves the figure of a group. */
function reach(kind: MeasureKind, { largest, mean, meanX, people }: CellSums): number {
  return Math.abs(largest - mean) / people / (kind === "ratio" ? Math.abs(meanX) : 1);
}

/** The interval of one group's own figure, by itself. */
export function groupInterval(
  kind: MeasureKind,
  estimate: Estimate,
  cell: CellSums,
  spans: number,
  a: number,
): Interval {
  if (spans > 1 || kind === "ratio") return around(estimate, oneLook(a));
  return kind === "rate" ? wilson(estimate.figure, cell.people, a) : student(estimate, cell.people, a);
}

export function sum(numbers: readonly number[]): number {
  return numbers.reduce((all, each) => all + each, 0);
}
