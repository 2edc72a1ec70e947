import { outside } from "./outside.ts";
import type { PageProblem } from "./page-flags.ts";

/** Tells of each problem once, and again after all was well in between. Whoever hears of it does no harm by throwing. */
export type Note = (at: PageProblem["at"], fault?: unknown, what?: string) => void;

export function notes(onProblem: ((problem: PageProblem) => void) | undefined): Note {
  const told = new Set<string>();
  return (at, fault, what = at) => {
    if (!fault) told.delete(what);
    else if (!told.has(what)) {
      told.add(what);
      outside(() => onProblem?.({ at, message: String(fault) }));
    }
  };
}
