import type { Plain } from "../../values/data.ts";
import { step } from "./reach.ts";

/** Lists longer than this are not looked into: real ones are short, and hostile ones claim any length. */
const longestList = 10_000_000;

/**
 * A harmless copy of the parts of a context that a set of flags asks for: own properties only, objects without a
 * prototype, lists without getters. What throws when read is left out, and so counts as missing.
 */
export function snapshot(context: unknown, paths: Iterable<readonly string[]>): Plain {
  const top = emptyCopy();
  const copies = new Set<unknown>([top]);
  for (const path of paths) copyPath(context, top, path, copies);
  return top;
}

type Copy = Record<string, unknown>;

function emptyCopy(): Copy {
  return Object.create(null) as Copy;
}

function copyPath(context: unknown, top: Copy, path: readonly string[], copies: Set<unknown>): void {
  let from = context;
  let to = top;
  const last = path.length - 1;
  for (let i = 0; i < last; i++) {
    from = attempt(() => nestedObject(from, path[i]!));
    if (from === undefined) return;
    const key = path[i]!;
    if (!copies.has(to[key])) {
      to[key] = emptyCopy();
      copies.add(to[key]);
    }
    to = to[key] as Copy;
  }
  const key = path[last]!;
  if (copies.has(to[key])) return;
  const value = attempt(() => copyValue(step(from, key)));
  if (value !== undefined) to[key] = value;
}

function nestedObject(value: unknown, key: string): object | undefined {
  const inner = step(value, key);
  return typeof inner === "object" && inner !== null && !Array.isArray(inner) ? inner : undefined;
}

function copyValue(value: unknown): unknown {
  if (!Array.isArray(value)) return value;
  const { length } = value;
  if (length > longestList) return undefined;
  const copy: unknown[] = [];
  for (let i = 0; i < length; i++) copy.push(attempt(() => value[i]));
  return copy;
}

function attempt<T>(read: () => T): T | undefined {
  try {
    return read();
  } catch {
    return undefined;
  }
}
