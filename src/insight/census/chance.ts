import type { Range } from "../../values/index.ts";

/** Up to here the distribution is added up; above, the normal one is as good. */
const maxExact = 1_000;

/** The 97.5 % quantile of the standard normal distribution. */
const z = 1.959963984540054;

/** Subjects that are each inside with the same probability. */
export interface Trials {
  readonly of: number;
  /** From 0 to 1. */
  readonly chance: number;
}

/**
 * Between which counts, both included, chance alone would put 95 % of cases. The central interval of the binomial
 * distribution, or of the sum of several; for many subjects its normal approximation with continuity correction (all in
 * any textbook of statistics).
 *
 * @example chanceInterval([{ of: 1000, chance: 0.1 }]) // [82, 119]
 */
export function chanceInterval(trials: readonly Trials[]): readonly [number, number] {
  const uncertain = trials.filter(({ chance }) => chance > 0 && chance < 1);
  const certain = total(trials.map(({ of, chance }) => (chance >= 1 ? of : 0)));
  const n = total(uncertain.map(({ of }) => of));
  if (n <= maxExact) {
    const [low, high] = quantiles(distribution(uncertain));
    return [certain + low, certain + high];
  }
  const mean = total(uncertain.map(({ of, chance }) => of * chance));
  const spread = z * Math.sqrt(total(uncertain.map(({ of, chance }) => of * chance * (1 - chance)))) + 0.5;
  return [certain + Math.max(0, Math.ceil(mean - spread)), certain + Math.min(n, Math.floor(mean + spread))];
}

function total(numbers: readonly number[]): number {
  return numbers.reduce((sum, number) => sum + number, 0);
}

/** How probable each count is, from none inside to all; subjects are added one by one. */
function distribution(trials: readonly Trials[]): readonly number[] {
  let masses = [1];
  for (const { of, chance } of trials) {
    for (let i = 0; i < of; i++) {
      masses = [...masses, 0].map((mass, k) => mass * (1 - chance) + (masses[k - 1] ?? 0) * chance);
    }
  }
  return masses;
}

/** The smallest counts for which at most as many are at least 2.5 % and 97.5 % probable. */
function quantiles(masses: readonly number[]): [number, number] {
  const atLeast = (probability: number) => {
    let sum = 0;
    const found = masses.findIndex((mass) => {
      sum += mass;
      return sum >= probability;
    });
    return found < 0 ? masses.length - 1 : found;
  };
  return [atLeast(0.025), atLeast(0.975)];
}

/** How probable a position in a stretch is, if it is known to lie in none of others. Bounds in percent. */
export function chanceWithin(range: Range, past: readonly Range[]): number {
  const left = 100 - lengthOf(past);
  const within = lengthOf([range, ...past]) - lengthOf(past);
  return left <= 0 ? 0 : within / left;
}

/** How much of the hundred percent some stretches cover together. */
export function lengthOf(ranges: readonly Range[]): number {
  let end = 0;
  let length = 0;
  for (const { low, high } of ranges.toSorted((a, b) => a.low - b.low)) {
    length += Math.max(0, high - Math.max(low, end));
    end = Math.max(end, high);
  }
  return length;
}
