import { parsePath } from "./parser.ts";

/** Paths by their text: the flags of a set mostly go by the same few. Bounded, since sets come and go. */
const known = new Map<string, readonly string[]>();
const mostKnown = 1_000;

/** The segments of a path that has been checked; none for a text that is no path. */
export function segmentsOf(text: string): readonly string[] {
  let segments = known.get(text);
  if (segments === undefined) {
    segments = parsePath(text).path ?? [];
    if (known.size >= mostKnown) known.clear();
    known.set(text, segments);
  }
  return segments;
}
