import { hasOwn, type Plain } from "../../values/data.ts";
import { readDate } from "../../values/time.ts";

const objectPrototype = Object.prototype;
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

/** Would a direct read of this key find something on `Object.prototype`? Such paths take the careful way. */
export function isInherited(key: string): boolean {
  return key in objectPrototype;
}

/** One careful step: own properties of nested objects only; lists, dates and texts are not looked into. */
export function step(value: unknown, key: string): unknown {
  if (typeof value !== "object" || value === null || Array.isArray(value) || !hasOwn(value, key)) return undefined;
  return isDate(value) ? undefined : (value as Plain)[key];
}

/** Asked only of objects that have the key: reading a Date that is none throws, which takes long. */
function isDate(value: object): boolean {
  const prototype = getPrototypeOf(value);
  return prototype !== objectPrototype && prototype !== null && !Number.isNaN(readDate(value));
}

export function steps(value: unknown, keys: readonly string[]): unknown {
  let inner = value;
  for (let i = 0; i < keys.length; i++) inner = step(inner, keys[i]!);
  return inner;
}

const nothing = {};

/** True while somebody has added an enumerable property to `Object.prototype`; direct reads would see it. */
export function prototypeIsPolluted(): boolean {
  for (const _ in nothing) return true;
  return false;
}

/** Can the fast path read this context directly? */
export function isPlainContext(context: unknown): context is Plain {
  return isLiteral(context) || (typeof context === "object" && context !== null && getPrototypeOf(context) === null);
}
