import gammainc from "@stdlib/math-base-special-gammainc";
import gammaln from "@stdlib/math-base-special-gammaln";
import { sum } from "./estimate.ts";

/** People by group in one span, and the parts that were due, from 0 to 1. */
export interface Weighed {
  readonly found: readonly number[];
  readonly due: readonly number[];
}

/** Whether the groups are as large as the flag would make them. */
export interface Balance {
  /** Of Pearson's chi-square, for one look; 1 where there is nothing to compare. */
  readonly probability: number;
  /** The always-valid one: however often one looks, sound scales fall below p in at most p of cases. */
  readonly alwaysValid: number;
}

/** Below this the scales are off. */
export const scalesOff = 0.01;

/** How closely the alternatives stand around what was due. */
const concentrations = [100, 1_000, 10_000, 100_000];

/**
 * M. Lindon, A. Malek: “Anytime-valid inference for multinomial count data”, NeurIPS 35, 2022; a mean over several
 * concentrations is such a probability again, and so is a product over spans.
 */
export function balanceOf(spans: readonly Weighed[]): Balance {
  const counted = spans.filter(({ found }) => sum(found) > 0);
  const evidence = sum(counted.map(evidenceOf));
  const chi = sum(counted.map(chiSquare));
  const freedom = sum(counted.map(({ due }) => due.filter((part) => part > 0).length - 1));
  return {
    probability: freedom === 0 || chi === 0 ? 1 : gammainc(chi / 2, freedom / 2, true, true),
    alwaysValid: Math.min(1, Math.exp(-evidence)),
  };
}

function chiSquare({ found, due }: Weighed): number {
  const people = sum(found);
  return sum(found.map((n, g) => (n === 0 && due[g] === 0 ? 0 : (n - people * due[g]!) ** 2 / (people * due[g]!))));
}

/** The logarithm of the Bayes factor against what was due. */
function evidenceOf({ found, due }: Weighed): number {
  const people = sum(found);
  const each = concentrations.map((c) => {
    const groups = found.map((n, g) => {
      const part = due[g]!;
      if (part === 0) return n === 0 ? 0 : Number.POSITIVE_INFINITY;
      return gammaln(c * part + n) - gammaln(c * part) - n * Math.log(part);
    });
    return gammaln(c) - gammaln(c + people) + sum(groups);
  });
  const largest = Math.max(...each);
  if (largest === Number.POSITIVE_INFINITY) return largest;
  return largest + Math.log(sum(each.map((one) => Math.exp(one - largest))) / concentrations.length);
}
