import { longestList } from "../../language/index.ts";
import { type Plain, readDate } from "../../values/index.ts";
import { readPath } from "./subject.ts";

/**
 * A text that two contexts share only if each of these paths reads exactly the same in both; undefined where that
 * cannot be told, since something at a path is neither a text, a number, a yes-no, a Date nor a list of such.
 *
 * @param context can be read without care
 */
export function cacheKeyOf(context: Plain, paths: Iterable<readonly string[]>): string | undefined {
  let cacheKey = "";
  for (const path of paths) {
    const text = exactly(readPath(context, path));
    if (text === undefined) return undefined;
    cacheKey += text;
  }
  return cacheKey;
}

/** Each kind has a letter of its own, and each length is told, so that no two values are written alike. */
function exactly(value: unknown): string | undefined {
  switch (typeof value) {
    case "string":
      return `s${value.length}:${value}`;
    case "number":
      return `n${value};`;
    case "boolean":
      return value ? "yes;" : "no;";
    case "bigint":
      return `i${value};`;
    case "undefined":
      return "-";
    case "object":
      return value === null ? "-" : listOrDate(value);
    default:
      return undefined;
  }
}

/** A proxy that has been revoked is neither, as far as it can be told. */
function listOrDate(value: object): string | undefined {
  try {
    return Array.isArray(value) ? list(value) : date(value);
  } catch {
    return undefined;
  }
}

function list(items: readonly unknown[]): string | undefined {
  if (items.length > longestList) return undefined;
  let text = `l${items.length}:`;
  for (const item of items) {
    const each = typeof item === "object" && item !== null ? undefined : exactly(item);
    if (each === undefined) return undefined;
    text += each;
  }
  return text;
}

function date(value: object): string | undefined {
  return value instanceof Date ? `d${readDate(value)};` : undefined;
}
