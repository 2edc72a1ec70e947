import type { RE2JS } from "re2js";

/** Filled by the import, once for a whole page, as any module is loaded once. */
const loaded: { engine?: typeof RE2JS } = {};

/** The engine of regular expressions; a page loads it for a set that has a pattern. @throws {Error} before that */
export function patterns(): typeof RE2JS {
  if (loaded.engine) return loaded.engine;
  throw new Error("The engine of patterns is not loaded: await openDefinitions(…) with a set that has one.");
}

export function patternsAreLoaded(): boolean {
  return loaded.engine !== undefined;
}

export async function loadPatterns(): Promise<void> {
  loaded.engine ??= (await import("re2js")).RE2JS;
}
