import { hasOwn, type Plain } from "../../values/index.ts";
import { isNested } from "./reach.ts";

/** The keys of a context that are to be read. */
export interface Top {
  readonly keys: readonly string[];
  /** A literal with nothing at each of them; undefined where one of them would be put in place of its prototype. */
  readonly empty: Plain | undefined;
}

export function topOf(keys: readonly string[]): Top {
  const empty = keys.includes("__proto__") ? undefined : Object.fromEntries(keys.map((key) => [key, undefined]));
  return { keys, empty };
}

/**
 * A literal with what an instance of a class, or any other object that is not a literal, holds at these keys: its own
 * properties alone, so that it can be read as fast as any. What is nested further in is read with care anyway, step by
 * step. Undefined for what holds no attributes, or has to be read with more care. It throws where a getter or a proxy does.
 *
 * Copying the empty literal and filling it takes two thirds of what putting a literal together takes, key by key.
 */
export function ownTop(context: unknown, { keys, empty }: Top): Plain | undefined {
  if (empty === undefined || !isNested(context)) return undefined;
  const top: Record<string, unknown> = { ...empty };
  for (let i = 0; i < keys.length; i++) {
    const key = keys[i]!;
    if (hasOwn(context, key)) top[key] = (context as Plain)[key];
  }
  return top;
}
