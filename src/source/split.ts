import { isName } from "../values/index.ts";

/** One line of a split: so many parts of the total for a variant. */
export interface SplitPart {
  readonly parts: number;
  readonly variant: string;
}

const pattern = /^((?:0|[1-9][0-9]*)(?:\.[0-9]+)?) +(\S+)$/;

/** Reads "2 classic"; undefined when it is not parts, a blank and a variant. */
export function parseSplitPart(text: string): SplitPart | undefined {
  const match = pattern.exec(text);
  if (!match || !isName(match[2]!)) return undefined;
  const parts = Number(match[1]);
  return Number.isFinite(parts) ? { parts, variant: match[2]! } : undefined;
}
