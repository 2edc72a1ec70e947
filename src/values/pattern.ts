import { RE2JS } from "re2js";

/**
 * Regular expressions run in time linear in the text (RE2 semantics), since both the pattern and the text may come
 * from somebody else. Backtracking engines, the platform's own among them, cannot promise that.
 */
export interface Pattern {
  test(text: string): boolean;
}

/** Compiled once per pattern and process; sets are re-read often and patterns change seldom. */
const compiled = new Map<string, Pattern | Error>();
const mostKept = 1_000;

export function compilePattern(pattern: string, ignoreCase: boolean): Pattern {
  const result = lookUp(pattern, ignoreCase);
  if (result instanceof Error) throw result;
  return result;
}

/** Why a pattern cannot be used, or undefined. */
export function patternFault(pattern: string, ignoreCase: boolean): string | undefined {
  const result = lookUp(pattern, ignoreCase);
  return result instanceof Error ? result.message.replace(/^error parsing regexp: /, "") : undefined;
}

function lookUp(pattern: string, ignoreCase: boolean): Pattern | Error {
  const key = `${ignoreCase ? "i" : "-"}${pattern}`;
  const known = compiled.get(key);
  if (known) return known;
  const result = build(pattern, ignoreCase);
  if (compiled.size >= mostKept) compiled.clear();
  compiled.set(key, result);
  return result;
}

function build(pattern: string, ignoreCase: boolean): Pattern | Error {
  try {
    const regex = RE2JS.compile(pattern, ignoreCase ? RE2JS.CASE_INSENSITIVE : 0);
    return { test: (text) => regex.test(text) };
  } catch (error) {
    return error instanceof Error ? error : new Error(String(error));
  }
}
