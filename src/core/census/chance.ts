/** Up to here the binomial distribution is added up; above, the normal one is as good. */
const mostExact = 1_000;

/** The 97.5 % quantile of the standard normal distribution. */
const z = 1.959963984540054;

/**
 * Between which counts, both included, chance alone would put 95 % of trials: `n` subjects, each inside with
 * probability `p`. The central interval of the binomial distribution; for large `n` its normal approximation with
 * continuity correction (both in any textbook of statistics).
 *
 * @example chanceInterval(1000, 0.1) // [82, 119]
 */
export function chanceInterval(n: number, p: number): readonly [number, number] {
  if (n === 0 || p <= 0) return [0, 0];
  if (p >= 1) return [n, n];
  if (n > mostExact) {
    const spread = z * Math.sqrt(n * p * (1 - p)) + 0.5;
    return [Math.max(0, Math.ceil(n * p - spread)), Math.min(n, Math.floor(n * p + spread))];
  }
  return [quantile(n, p, 0.025), quantile(n, p, 0.975)];
}

/** The smallest k for which at most k successes are at least this probable. */
function quantile(n: number, p: number, probability: number): number {
  let logMass = n * Math.log1p(-p);
  let sum = Math.exp(logMass);
  let k = 0;
  while (sum < probability && k < n) {
    logMass += Math.log((n - k) / (k + 1)) + Math.log(p) - Math.log1p(-p);
    sum += Math.exp(logMass);
    k++;
  }
  return k;
}
