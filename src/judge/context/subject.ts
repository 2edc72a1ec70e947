import type { Plain } from "../../values/index.ts";
import { step, steps } from "./reach.ts";

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
