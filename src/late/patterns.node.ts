import { createRequire } from "node:module";

const load = createRequire(import.meta.url);

/** The engine of regular expressions, loaded with the first pattern of a set. */
export function patterns(): typeof import("re2js").RE2JS {
  return (load("../cjs/late/patterns.js") as typeof import("./patterns.ts")).patterns();
}

/** Node loads it at the moment at which it is needed. */
export function patternsAreLoaded(): boolean {
  return true;
}

/** Node loads it at the moment at which it is needed. */
export async function loadPatterns(): Promise<void> {}
