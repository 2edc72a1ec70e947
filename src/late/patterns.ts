import { RE2JS } from "re2js";

/** The engine of regular expressions. */
export function patterns(): typeof RE2JS {
  return RE2JS;
}
