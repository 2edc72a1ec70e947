import { patterns } from "#late/patterns";
import { memo } from "./memo.ts";

/**
 * Regular expressions run in time linear in the text (RE2 semantics), since both the pattern and the text may come
 * from somebody else. Backtracking engines, the platform's own among them, cannot promise that.
 */
export interface Pattern {
  test(text: string): boolean;
}

/** @throws {Error} for a pattern that is not RE2 syntax */
export function compilePattern(pattern: string, ignoreCase: boolean): Pattern {
  const result = compiled(`${ignoreCase ? "i" : "-"}${pattern}`);
  if (result instanceof Error) throw result;
  return result;
}

/** Why a pattern cannot be used, or undefined. */
export function patternFault(pattern: string, ignoreCase: boolean): string | undefined {
  const result = compiled(`${ignoreCase ? "i" : "-"}${pattern}`);
  return result instanceof Error ? result.message.replace(/^error parsing regexp: /, "") : undefined;
}

/** By a mark for the case and the pattern; sets are read again often, and patterns change seldom. */
const compiled = memo(1_000, (key): Pattern | Error => {
  const engine = patterns();
  try {
    const regex = engine.compile(key.slice(1), key.startsWith("i") ? engine.CASE_INSENSITIVE : 0);
    return { test: (text) => regex.test(text) };
  } catch (error) {
    return error instanceof Error ? error : new Error(String(error));
  }
});
