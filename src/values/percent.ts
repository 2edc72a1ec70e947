import { memo } from "./memo.ts";

const number = "(?:0|[1-9][0-9]*)(?:\\.[0-9]+)?";
const pattern = new RegExp(`^${number}%$`);

/** The pattern of a share as text, for the JSON Schema: `10%`, or `20% to 45%`. */
export const shareSource = `^${number}%(?: to ${number}%)?$`;

/** Percent of `10%` or `0.5%` as a number from 0 to 100; undefined for anything else. The sign is required. */
export function parsePercent(text: string): number | undefined {
  if (!pattern.test(text)) return undefined;
  const percent = Number(text.slice(0, -1));
  return percent <= 100 ? percent : undefined;
}

/** A stretch of the hundred percent of all positions: from `low`, included, to `high`, not included. */
export interface Range {
  readonly low: number;
  readonly high: number;
}

/** Reads `10%`, which begins at 0, or `20% to 45%`, whose second bound is greater; null for anything else. */
export const parseRange: (text: string) => Range | null = memo(1_000, readRange);

function readRange(text: string): Range | null {
  const [first = "", second, ...more] = text.split(" to ");
  const one = parsePercent(first);
  if (one === undefined || more.length > 0) return null;
  if (second === undefined) return { low: 0, high: one };
  const other = parsePercent(second);
  return other === undefined || other <= one ? null : { low: one, high: other };
}

export function showPercent(percent: number): string {
  return `${Number(percent.toFixed(4))}%`;
}

/** `10%`, or `20% to 45%`. */
export function showRange({ low, high }: Range): string {
  return low === 0 ? showPercent(high) : `${showPercent(low)} to ${showPercent(high)}`;
}

/**
 * Parts of a whole as percentages that add up to 100, by the largest remainder: each is rounded down, and those that lost most
 * get what is left.
 *
 * @param counts of which the sum is the whole
 * @param digits behind the point
 *
 * @example shownPercents([504, 495, 1], 1) // ["50.4%", "49.5%", "0.1%"]
 */
export function shownPercents(counts: readonly number[], digits: number): string[] {
  const whole = counts.reduce((sum, count) => sum + count, 0);
  if (whole === 0) return counts.map(() => `${(0).toFixed(digits)}%`);
  const units = 100 * 10 ** digits;
  const exact = counts.map((count) => (count / whole) * units);
  const rounded = exact.map(Math.floor);
  const lost = (i: number) => exact[i]! - rounded[i]!;
  const places = [...counts.keys()].sort((one, other) => lost(other) - lost(one));
  const left = units - rounded.reduce((sum, part) => sum + part, 0);
  for (const place of places.slice(0, left)) rounded[place]!++;
  return rounded.map((part) => `${(part / 10 ** digits).toFixed(digits)}%`);
}
