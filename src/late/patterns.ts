import { RE2JS } from "re2js";

/** The engine of regular expressions. */
export function patterns(): typeof RE2JS {
  return RE2JS;
}

/** It came with this code. */
export function patternsAreLoaded(): boolean {
  return true;
}

/** It came with this code. */
export async function loadPatterns(): Promise<void> {}
