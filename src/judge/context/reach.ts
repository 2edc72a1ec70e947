import { hasOwn, type Plain, readDate } from "../../values/index.ts";

const objectPrototype: Plain = Object.prototype as unknown as Plain;
const getPrototypeOf = Object.getPrototypeOf;

/**
 * An object literal, whose keys may be read directly: nothing but `Object.prototype` stands behind it.
 *
 * The prototype is read as a property, which an inline cache turns into a comparison of shapes; `getPrototypeOf` is a
 * call. Measured: 30 % of a decision. An object with a `__proto__` of its own fails the test and is read with care.
 */
export function isLiteral(value: unknown): value is Plain {
  // biome-ignore lint/suspicious/noProto: the accessor is what an inline cache can see through
  return typeof value === "object" && value !== null && (value as WithPrototype).__proto__ === objectPrototype;
}

type WithPrototype = { readonly __proto__: unknown };

/** A key of a literal, without asking whose it is, unless there is such a key on `Object.prototype`. */
export function direct(literal: Plain, key: string): unknown {
  const value = literal[key];
  return value === undefined || objectPrototype[key] === undefined || hasOwn(literal, key) ? value : undefined;
}

/** One step of a path: own properties of nested objects only; lists, dates and texts are not looked into. */
export function step(value: unknown, key: string): unknown {
  if (isLiteral(value)) return direct(value, key);
  if (typeof value !== "object" || value === null || Array.isArray(value) || !hasOwn(value, key)) return undefined;
  return isDate(value) ? undefined : (value as Plain)[key];
}

/** An object that a path can lead through. */
export function isNested(value: unknown): value is object {
  return typeof value === "object" && value !== null && !Array.isArray(value) && !isDate(value);
}

/** Also one of another realm; asking anything else for its time throws, which takes long, so the tag is asked first. */
function isDate(value: object): boolean {
  if (value instanceof Date) return true;
  return Object.prototype.toString.call(value) === "[object Date]" && !Number.isNaN(readDate(value));
}

export function steps(value: unknown, keys: readonly string[]): unknown {
  let inner = value;
  for (let i = 0; i < keys.length; i++) inner = step(inner, keys[i]!);
  return inner;
}

/** Can the fast path read this context directly? */
export function isPlainContext(context: unknown): context is Plain {
  return isLiteral(context) || (typeof context === "object" && context !== null && getPrototypeOf(context) === null);
}
