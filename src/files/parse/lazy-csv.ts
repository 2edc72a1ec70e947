import { createRequire } from "node:module";
import { memo } from "../../values/index.ts";

// Packages that most programs never need are loaded when they first are: together they would take half of the time that
// it takes to import Iudex.

const load: (name: string) => unknown = memo(8, createRequire(import.meta.url));

/** What serialises values for another thread. */
export function serialiser(): typeof import("node:v8") {
  return load("node:v8") as typeof import("node:v8");
}

export function csvParser(): typeof import("csv-parse/sync") {
  return load("csv-parse/sync") as typeof import("csv-parse/sync");
}
