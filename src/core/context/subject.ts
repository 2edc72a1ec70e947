import type { Plain } from "../data.ts";
import { isInherited, isLiteral, reachOf, step, steps } from "./reach.ts";

/**
 * The text by which an attribute is an id: a non-empty text as it is, a safe integer or big integer as its decimal
 * text; undefined for anything else.
 */
export function idText(value: unknown): string | undefined {
  switch (typeof value) {
    case "string":
      return value === "" ? undefined : value;
    case "number":
      return Number.isSafeInteger(value) ? String(value) : undefined;
    case "bigint":
      return String(value);
    default:
      return undefined;
  }
}

/** Reads the id of a subject: the same direct way as a leaf of a condition (see `Reach`). */
export function reader(path: readonly string[]): (context: Plain) => unknown {
  if (path.some(isInherited)) return (context) => steps(context, path);
  const { head, next, rest } = reachOf(path);
  return (context) => {
    let value = context[head];
    if (next !== undefined) value = isLiteral(value) ? value[next] : step(value, next);
    if (rest !== undefined) value = steps(value, rest);
    return value;
  };
}

const known = new WeakMap<readonly string[], (context: Plain) => unknown>();

/** The same, one reader for each path object: the flags of a set mostly divide by the same attribute. */
export function subjectReader(path: readonly string[]): (context: Plain) => unknown {
  let read = known.get(path);
  if (read === undefined) {
    read = reader(path);
    known.set(path, read);
  }
  return read;
}

/** Reads a path carefully, for the places where speed does not matter. */
export function readPath(context: Plain, path: readonly string[]): unknown {
  return path.length === 1 ? step(context, path[0]!) : steps(context, path);
}
