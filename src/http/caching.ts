/** The headers of an answer, whatever kind of server gives it. */
export interface AnswerHeaders {
  get(name: string): string | undefined;
  set(name: string, value: string): void;
}

/** What caches must know of an answer. */
export interface CacheMarks {
  /** A signed pass had its say, or nothing could be judged. */
  readonly isNobodyElses: boolean;
  /** Somebody else may have found the address closed. */
  readonly isGated: boolean;
  /** The request headers that the context is made from. */
  readonly madeFrom: readonly string[];
  /** The program lets shared caches keep what it says. */
  readonly sharedCaches: boolean;
}

/**
 * Marks an answer that depends on who asks: `private` and `Vary` (RFC 9111), `no-store` for what is nobody else's. What
 * the program said itself stays, but nothing that was behind a gate is left to be handed to others. Two gates may mark
 * one answer, in any order.
 */
export function markForCaches(
  headers: AnswerHeaders,
  { isNobodyElses, isGated, madeFrom, sharedCaches }: CacheMarks,
): void {
  if (isNobodyElses) return headers.set("cache-control", "no-store");
  if (sharedCaches) return;
  addTo(headers, madeFrom);
  const control = headers.get("cache-control");
  if (control === undefined) return headers.set("cache-control", "private");
  const said = directivesOf(control);
  if (said.some((each) => /^(?:no-store|private)$/i.test(each))) return;
  const isShared = said.some((each) => /^(?:public|s-maxage)\b/i.test(each));
  if (isShared && !isGated) return;
  const kept = said.filter((each) => !/^(?:public|s-maxage)\b/i.test(each));
  headers.set("cache-control", ["private", ...kept].join(", "));
}

function addTo(headers: AnswerHeaders, names: readonly string[]): void {
  if (names.length === 0) return;
  const vary = headers.get("vary");
  if (vary === undefined) return headers.set("vary", names.join(", "));
  const known = directivesOf(vary);
  const lower = known.map((name) => name.toLowerCase());
  if (lower.includes("*")) return;
  const more = names.filter((name) => !lower.includes(name.toLowerCase()));
  if (more.length > 0) headers.set("vary", [...known, ...more].join(", "));
}

function directivesOf(header: string): string[] {
  return header
    .split(",")
    .map((each) => each.trim())
    .filter((each) => each !== "");
}
