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
