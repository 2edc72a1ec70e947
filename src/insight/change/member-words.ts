import { canonicalJson, show } from "../../values/index.ts";

/** What became of one member: nothing, or one phrase. */
export function memberWords(key: string, before: unknown, after: unknown): string[] {
  if (canonicalJson(before) === canonicalJson(after)) return [];
  if (before === undefined) return [`${key} ${show(after)} added`];
  if (after === undefined) return [`${key} ${show(before)} taken out`];
  return [`${key} ${show(before)} → ${show(after)}`];
}
