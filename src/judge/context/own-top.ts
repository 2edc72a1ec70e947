import { hasOwn, type Plain } from "../../values/index.ts";
import { isNested } from "./reach.ts";

/**
 * A literal with what an instance of a class, or any other object that is no literal, holds at these keys: its own
 * properties alone, so that it can be read as fast as any. What is nested further in is read with care anyway, step by
 * step. Undefined for what holds no attributes, or has to be read with more care. It throws where a getter or a proxy does.
 */
export function ownTop(context: unknown, keys: readonly string[]): Plain | undefined {
  if (!isNested(context)) return undefined;
  const top: Record<string, unknown> = {};
  for (let i = 0; i < keys.length; i++) {
    const key = keys[i]!;
    // Would be put in place of the prototype.
    if (key === "__proto__") return undefined;
    if (hasOwn(context, key)) top[key] = (context as Plain)[key];
  }
  return top;
}
