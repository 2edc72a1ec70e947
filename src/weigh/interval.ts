import erfc from "@stdlib/math-base-special-erfc";
import normalQuantile from "@stdlib/stats-base-dists-normal-quantile";
import tQuantile from "@stdlib/stats-base-dists-t-quantile";

/** From one number to another; either may be infinite. */
export interface Interval {
  readonly low: number;
  readonly high: number;
}

/** An estimate with its standard error. */
export interface Estimate {
  readonly figure: number;
  readonly se: number;
}

/** Where an interval is narrowest beside its standard error: at h = 1,250, which is 5,000 people in two halves. */
const narrowest = 160;

/** The quantile of the standard normal distribution beyond which half of `a` lies. */
export function oneLook(a: number): number {
  return normalQuantile(1 - a / 2, 0, 1);
}

/**
 * The factor that stands where `oneLook` stands in an interval that holds however often one looks: the asymptotic
 * confidence sequence with a normal mixture, from the first look at which the figures are about normal.
 *
 * I. Waudby-Smith, D. Arbour, R. Sinha, E. H. Kennedy, A. Ramdas: “Time-uniform central limit theory and asymptotic
 * confidence sequences”, Annals of Statistics 52(6), 2024; the boundary is H. Robbins's, 1970; the late start as in
 * A. Bibaut, N. Kallus, M. Lindon, 2022.
 *
 * @param h Σ n1·n0/(n1+n0) over the spans
 * @param a the part of cases in which it may ever miss
 */
export function anyLook(h: number, a: number): number {
  return Math.sqrt((1 + narrowest / h) * Math.log((1 + h / narrowest) / a ** 2));
}

/** The least `a` whose always-valid interval leaves 0 out; at most 1. */
export function anyLookProbability({ figure, se }: Estimate, h: number): number {
  const z2 = (figure / se) ** 2;
  return Math.min(1, Math.sqrt((1 + h / narrowest) * Math.exp(-z2 / (1 + narrowest / h))));
}

/** The probability of a figure at least as far from 0, were there no difference; for one look. */
export function oneLookProbability({ figure, se }: Estimate): number {
  return erfc(Math.abs(figure / se) / Math.SQRT2);
}

export function around({ figure, se }: Estimate, factor: number): Interval {
  return { low: figure - factor * se, high: figure + factor * se };
}

/**
 * The interval of m1/m0 − 1 (E. C. Fieller, 1954), which leaves 0 out exactly where that of m1 − m0 does; undefined where
 * m0 is too near to 0.
 */
export function relativeInterval(from: Estimate, to: Estimate, factor: number): Interval | undefined {
  const [m0, m1] = [from.figure, to.figure];
  const [v0, v1] = [(factor * from.se) ** 2, (factor * to.se) ** 2];
  const a = m0 ** 2 - v0;
  if (a <= 0 || m0 <= 0) return undefined;
  const root = Math.sqrt(Math.max(0, (m0 * m1) ** 2 - a * (m1 ** 2 - v1)));
  return { low: (m0 * m1 - root) / a - 1, high: (m0 * m1 + root) / a - 1 };
}

/** The interval of a rate: E. B. Wilson, 1927. */
export function wilson(rate: number, people: number, a: number): Interval {
  const q2 = oneLook(a) ** 2 / people;
  const middle = (rate + q2 / 2) / (1 + q2);
  const half = Math.sqrt(q2 * (rate * (1 - rate) + q2 / 4)) / (1 + q2);
  return { low: middle - half, high: middle + half };
}

/** The interval of a mean by Student's t. */
export function student(estimate: Estimate, people: number, a: number): Interval {
  return around(estimate, tQuantile(1 - a / 2, people - 1));
}
