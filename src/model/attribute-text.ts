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

/** Most cells are plain words, and finding that out by an error takes long. */
const jsonBegins = /^\s*(?:[-\d["]|true|false|null)/;

/**
 * The value of an attribute that nobody declares, as a text of the command line or of a CSV file: a JSON scalar or list
 * where it is one, unless the set asks it for a text.
 */
export function readUndeclared(text: string, asText: boolean): unknown {
  if (asText || !jsonBegins.test(text)) return text;
  try {
    const value: unknown = JSON.parse(text);
    return typeof value === "object" && !Array.isArray(value) ? (value === null ? undefined : text) : value;
  } catch {
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
  const last = path.length - 1;
  for (let i = 0; i < last; i++) {
    const key = path[i]!;
    const inner = Object.hasOwn(here, key) ? here[key] : undefined;
    const next = isObject(inner) ? (inner as Record<string, unknown>) : {};
    if (next !== inner) set(here, key, next);
    here = next;
  }
  set(here, path[last]!, value);
}

/** `__proto__` is a key like any other; defining every key would take ten times as long as assigning it. */
function set(object: Record<string, unknown>, key: string, value: unknown): void {
  if (key === "__proto__")
    Object.defineProperty(object, key, { value, enumerable: true, writable: true, configurable: true });
  else object[key] = value;
}
