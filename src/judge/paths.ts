import { parsePath } from "../language/parser.ts";
import { type Reader, readerOf } from "./context/reader.ts";

/** A path that has been checked, with its reader. */
interface KnownPath {
  readonly segments: readonly string[];
  readonly read: Reader;
}

/** Paths by their text: the flags of a set mostly go by the same few. Bounded, since sets come and go. */
const known = new Map<string, KnownPath>();
const mostKnown = 1_000;

/** The segments and the reader of a path by its text; for a text that is no path, one that reads nothing. */
export function knownPath(text: string): KnownPath {
  let path = known.get(text);
  if (path === undefined) {
    const segments = parsePath(text).path ?? [];
    path = { segments, read: segments.length === 0 ? () => undefined : readerOf(segments) };
    if (known.size >= mostKnown) known.clear();
    known.set(text, path);
  }
  return path;
}
