const pattern = /^(0|[1-9][0-9]*)(?:\.[0-9]+)?%$/;

/** Percentages read before: the same few stand in all the shares of a set. Bounded, since texts can be anything. */
const known = new Map<string, number>();
const mostKnown = 1_000;

/** Percent of `10%` or `0.5%` as a number from 0 to 100; undefined for anything else. The sign is required. */
export function parsePercent(text: string): number | undefined {
  let percent = known.get(text);
  if (percent === undefined) {
    percent = readPercent(text);
    if (percent === undefined) return undefined;
    if (known.size >= mostKnown) known.clear();
    known.set(text, percent);
  }
  return percent;
}

function readPercent(text: string): number | undefined {
  if (!pattern.test(text)) return undefined;
  const percent = Number(text.slice(0, -1));
  return percent <= 100 ? percent : undefined;
}

export const percentSource = pattern.source;

export function showPercent(percent: number): string {
  return `${Number(percent.toFixed(4))}%`;
}
