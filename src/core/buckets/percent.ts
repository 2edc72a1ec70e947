const pattern = /^(0|[1-9][0-9]*)(?:\.[0-9]+)?%$/;

/** Percent of `10%` or `0.5%` as a number from 0 to 100; undefined for anything else. The sign is required. */
export function parsePercent(text: string): number | undefined {
  if (!pattern.test(text)) return undefined;
  const percent = Number(text.slice(0, -1));
  return percent <= 100 ? percent : undefined;
}

export const percentSource = pattern.source;

export function showPercent(percent: number): string {
  return `${Number(percent.toFixed(4))}%`;
}
