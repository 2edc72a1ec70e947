import { anyLook, oneLook } from "./interval.ts";

/** How many people it takes to tell a difference. */
export interface SampleSizeRequest {
  /** Of all people, the parts that come into the two groups; they may add up to less than 1. */
  readonly parts: readonly [number, number];
  /** The variance of one person's measure in each group. */
  readonly variances: readonly [number, number];
  /** The difference that is to be told. */
  readonly tell: number;
  /** The part of cases in which it may err; 0.05 by default. */
  readonly a?: number | undefined;
  /** The part of cases in which it is told; 0.8 by default. */
  readonly power?: number | undefined;
}

/**
 * People in all, for one look that is decided beforehand and for any number of looks: N of (q+z(power))·√(V/N) = the difference, where V is the sum of each variance divided by its part.
 *
 * @example peopleNeeded({ parts: [0.5, 0.5], variances: [0.0384, 0.042975], tell: 0.005 }) // about 51,100 and 114,600
 */
export function peopleNeeded({ parts, variances, tell, a = 0.05, power = 0.8 }: SampleSizeRequest): {
  readonly oneLook: number;
  readonly anyLook: number;
} {
  const [r0, r1] = parts;
  const spread = variances[0] / r0 + variances[1] / r1;
  const told = oneLook(2 * (1 - power));
  const people = (factor: number) => (factor + told) ** 2 * (spread / tell ** 2);
  const once = people(oneLook(a));
  return { oneLook: once, anyLook: settled((n) => people(anyLook((n * r0 * r1) / (r0 + r1), a)), once) };
}

/** Where a function that hardly grows gives what it is given. */
export function settled(step: (n: number) => number, start: number): number {
  let n = start;
  for (let i = 0; i < 200; i++) {
    const next = step(n);
    if (Math.abs(next - n) <= 1e-12 * n) return next;
    n = next;
  }
  return n;
}
