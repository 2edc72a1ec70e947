import { limits } from "./limits.ts";

/** A value as JSON can write it. */
export type Data = null | boolean | number | string | readonly Data[] | { readonly [key: string]: Data };

/** The types that a flag's value can have. */
export type ValueType = "yes-no" | "number" | "text" | "data";

export type Plain = { readonly [key: string]: unknown };

const ownProperty = Object.prototype.hasOwnProperty;

export function hasOwn(object: object, key: string): boolean {
  return ownProperty.call(object, key);
}

/** The own value under `key`; what a prototype holds does not count. */
export function own(object: object, key: string): unknown {
  return hasOwn(object, key) ? (object as Plain)[key] : undefined;
}

export function isObject(value: unknown): value is Plain {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

export function valueTypeOf(value: unknown): ValueType | undefined {
  switch (typeof value) {
    case "boolean":
      return "yes-no";
    case "number":
      return Number.isFinite(value) ? "number" : undefined;
    case "string":
      return "text";
    case "object":
      return value === null ? undefined : "data";
    default:
      return undefined;
  }
}

/** What a piece of data is, in the words of a message: "a text", "a list", "nothing (null)". */
export function describeKind(value: unknown): string {
  if (value === null) return "nothing (null)";
  if (value === undefined) return "nothing";
  if (Array.isArray(value)) return "a list";
  const kinds: Record<string, string> = {
    boolean: "a yes-no",
    number: "a number",
    string: "a text",
    object: "an object",
    bigint: "a big integer",
  };
  return kinds[typeof value] ?? `a ${typeof value}`;
}

/** A value as it would be written, shortened to `most` characters. */
export function show(value: unknown, most = 60): string {
  const text = typeof value === "bigint" ? String(value) : (safeJson(value) ?? String(value));
  return text.length <= most ? text : `${text.slice(0, most - 1)}…`;
}

function safeJson(value: unknown): string | undefined {
  try {
    return JSON.stringify(value);
  } catch {
    return "(cannot be shown)";
  }
}

export function sameData(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return false;
  if (Array.isArray(a) || Array.isArray(b)) {
    return Array.isArray(a) && Array.isArray(b) && a.length === b.length && a.every((item, i) => sameData(item, b[i]));
  }
  const keys = Object.keys(a);
  return keys.length === Object.keys(b).length && keys.every((k) => hasOwn(b, k) && sameData(own(a, k), own(b, k)));
}

/** Freezes data all the way down, so that one value can be handed to every caller. */
export function deepFreeze<T>(value: T): T {
  if (typeof value !== "object" || value === null || Object.isFrozen(value)) return value;
  Object.freeze(value);
  for (const key of Object.keys(value)) deepFreeze((value as Record<string, unknown>)[key]);
  return value;
}

/**
 * JSON with its keys in order, so that equal data has equal text (in the spirit of RFC 8785).
 * `undefined` members are left out, as JSON does.
 */
export function canonicalJson(value: unknown): string {
  const ordered = inOrder(value);
  return ordered === noOrder ? orderedJson(value) : (JSON.stringify(ordered) ?? "null");
}

/** Canonical JSON of an object with other members in place of its own. A spread would take longer than all the rest. */
export function canonicalJsonWith(object: object, others: object): string {
  const all = new Bare();
  for (const members of [object, others] as readonly Plain[])
    for (const key of Object.keys(members)) all[key] = members[key];
  return canonicalJson(all);
}

/** Stands for data whose keys an object would not keep in order. */
const noOrder = Symbol();

/** Keys that objects put before all others. */
const unorderly = /^[0-9]+$/;

/** An object behind which nothing stands, so that every key is its own; one of `Object.create(null)` would be slow. */
class Bare {
  [key: string]: unknown;
}
Object.setPrototypeOf(Bare.prototype, null);

/** A copy whose keys stand in order: the platform writes it out much faster than a walk over the data could. */
function inOrder(value: unknown): unknown {
  if (typeof value !== "object" || value === null) return value;
  if (Array.isArray(value)) {
    const items = value.map(inOrder);
    return items.includes(noOrder) ? noOrder : items;
  }
  const copy = new Bare();
  for (const key of Object.keys(value).sort()) {
    const member = inOrder((value as Plain)[key]);
    if (member === noOrder || unorderly.test(key)) return noOrder;
    copy[key] = member;
  }
  return copy;
}

/** The plain way, for data that has such keys. */
function orderedJson(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(orderedJson).join(",")}]`;
  if (typeof value !== "object" || value === null) return JSON.stringify(value) ?? "null";
  const parts: string[] = [];
  for (const key of Object.keys(value).sort()) {
    const member = own(value, key);
    if (member !== undefined) parts.push(`${JSON.stringify(key)}:${orderedJson(member)}`);
  }
  return `{${parts.join(",")}}`;
}

/** A copy of plain data, all the way down; `prototype` stands behind its objects. */
export function copyData(value: unknown, prototype: object | null = Object.prototype): unknown {
  if (Array.isArray(value)) return value.map((item) => copyData(item, prototype));
  if (typeof value !== "object" || value === null) return value;
  const copy = Object.create(prototype) as Record<string, unknown>;
  for (const key of Object.keys(value)) {
    const member = copyData((value as Plain)[key], prototype);
    // `__proto__` is a key like any other, so it must not be assigned.
    if (key === "__proto__")
      Object.defineProperty(copy, key, { value: member, enumerable: true, writable: true, configurable: true });
    else copy[key] = member;
  }
  return copy;
}

export type PlainFault = { readonly path: readonly (string | number)[]; readonly fault: "kind" | "depth" | "number" };

/**
 * The first place where a value is not plain data: a function, a class instance, a number that is not finite, or
 * nesting deeper than `limits.depth` (which also catches circular objects).
 */
export function findNotPlain(value: unknown, path: (string | number)[] = []): PlainFault | undefined {
  switch (typeof value) {
    case "string":
    case "boolean":
      return undefined;
    case "number":
      return Number.isFinite(value) ? undefined : { path: [...path], fault: "number" };
    case "object":
      break;
    default:
      return { path: [...path], fault: "kind" };
  }
  if (value === null) return undefined;
  if (path.length >= limits.depth) return { path: [...path], fault: "depth" };
  if (Array.isArray(value)) {
    for (let i = 0; i < value.length; i++) {
      path.push(i);
      const fault = findNotPlain(value[i], path);
      if (fault) return fault;
      path.pop();
    }
    return undefined;
  }
  const prototype = Object.getPrototypeOf(value);
  if (prototype !== null && prototype !== Object.prototype && Object.getPrototypeOf(prototype) !== null) {
    return { path: [...path], fault: "kind" };
  }
  for (const key of Object.keys(value)) {
    path.push(key);
    const fault = findNotPlain((value as Plain)[key], path);
    if (fault) return fault;
    path.pop();
  }
  return undefined;
}
