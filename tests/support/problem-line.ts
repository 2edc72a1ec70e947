import type { Problem } from "../../src/core.ts";

/** A problem in a line: how grave, which, where, and its words. */
export function problemLine({ severity, code, place, message, found, expected, help, related }: Problem): string {
  const { path, part, span } = place;
  const where = `${path.join(" ")}${part ? ` (${part})` : ""}${span ? ` ${span.start}-${span.end}` : ""}`;
  const also = (related ?? []).map((each) => ` | at ${each.place.path.join(" ")}: ${each.message}`).join("");
  return `${severity} ${code} at ${where}: ${message} | found ${found} | expected ${expected} | help ${help}${also}`;
}
