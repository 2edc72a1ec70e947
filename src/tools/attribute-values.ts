import type { AttributeType } from "../language/index.ts";
import { isObject, parseTime } from "../values/index.ts";

/**
 * An attribute's value as a text of the command line or of a CSV file, read by its declared type; undefined if it
 * cannot be read, which then counts as missing.
 */
export function readDeclared(text: string, type: AttributeType): unknown {
  switch (type) {
    case "number":
      return text.trim() !== "" && Number.isFinite(Number(text)) ? Number(text) : undefined;
    case "yes-no":
      return text === "true" ? true : text === "false" ? false : undefined;
    case "list":
      return text.startsWith("[") ? jsonList(text) : text === "" ? [] : text.split(",").map((item) => item.trim());
    case "time":
      return Number.isNaN(parseTime(text)) ? undefined : text;
    default:
      return text;
  }
}

function jsonList(text: string): unknown {
  try {
    const list: unknown = JSON.parse(text);
    return Array.isArray(list) ? list : undefined;
  } catch {
    return undefined;
  }
}

/** Puts a value under a path of keys, making the objects on the way. */
export function putAt(context: Record<string, unknown>, path: readonly string[], value: unknown): void {
  let here = context;
  for (const key of path.slice(0, -1)) {
    const inner = Object.hasOwn(here, key) ? here[key] : undefined;
    const next = isObject(inner) ? (inner as Record<string, unknown>) : {};
    set(here, key, next);
    here = next;
  }
  set(here, path.at(-1)!, value);
}

/** Defined rather than assigned, so that `__proto__` is a key like any other. */
function set(object: Record<string, unknown>, key: string, value: unknown): void {
  Object.defineProperty(object, key, { value, enumerable: true, writable: true, configurable: true });
}
