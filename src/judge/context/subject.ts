import type { Plain } from "../../values/index.ts";
import { step, steps } from "./reach.ts";
import { type Reader, readerOf } from "./reader.ts";

/** The id by which the subjects of a flag are told apart. */
export interface Subject {
  /** No step where the flag has none. */
  readonly path: readonly string[];
  /** Reads it of a context that may be read directly. */
  readonly read: Reader;
}

export function subjectAt(path: readonly string[]): Subject {
  return { path, read: readerOf(path) };
}

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

/** Reads a path carefully, for the places where speed does not matter. */
export function readPath(context: Plain, path: readonly string[]): unknown {
  return path.length === 1 ? step(context, path[0]!) : steps(context, path);
}
