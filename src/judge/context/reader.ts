import type { Plain } from "../../values/data.ts";
import { intern } from "../../values/intern.ts";
import { isInherited, isLiteral, step, steps } from "./reach.ts";

/** Reads the attribute at a path: own properties only; undefined where there is none. */
export type Reader = (context: Plain) => unknown;

/**
 * The reader of a path, one and the same for the whole process.
 *
 * @example readerOf(["account", "id"])({ account: { id: "A-17" } }) // "A-17"
 */
export function readerOf(path: readonly string[]): Reader {
  if (path.some(needsCare)) return (context) => steps(context, path);
  const key = path.join(separator);
  let reader = known.get(key);
  if (reader === undefined) {
    if (known.size >= mostKnown) known.clear();
    reader = makeReader(path.map(intern));
    known.set(key, reader);
  }
  return reader;
}

const separator = "\u0000";

/**
 * A key that would be found on `Object.prototype`, asked anew each time, since somebody may have put it there; and one
 * that holds the separator, by which two paths would be taken for one.
 */
function needsCare(key: string): boolean {
  return isInherited(key) || key.includes(separator);
}

const known = new Map<string, Reader>();
const mostKnown = 1_000;

function makeReader(path: readonly string[]): Reader {
  const [head, next, ...rest] = path as [string, ...string[]];
  if (next === undefined) return ofOneStep[known.size % ofOneStep.length]!(head);
  const read = ofTwoSteps[known.size % ofTwoSteps.length]!(head, next);
  return rest.length === 0 ? read : (context) => steps(read(context), rest);
}

// The same function eight times, on purpose. The engine learns what a read looks like by its place in the code: one
// place that sees the keys of all paths is slow for each of them, and a place of its own makes a read as fast as
// `context.account.id` in the program itself. The first eight paths of a process get one each; later ones share.
// Measured on the decision benchmark, together with the calls that `CompiledFlag` spells out: a fifth.

// biome-ignore format: a line each shows that they are equal
const ofOneStep: readonly ((head: string) => Reader)[] = [
  (head) => (c) => c[head],
  (head) => (c) => c[head],
  (head) => (c) => c[head],
  (head) => (c) => c[head],
  (head) => (c) => c[head],
  (head) => (c) => c[head],
  (head) => (c) => c[head],
  (head) => (c) => c[head],
];

// biome-ignore format: a line each shows that they are equal
const ofTwoSteps: readonly ((head: string, next: string) => (context: Plain, inner?: unknown) => unknown)[] = [
  (head, next) => (c, inner = c[head]) => isLiteral(inner) ? inner[next] : step(inner, next),
  (head, next) => (c, inner = c[head]) => isLiteral(inner) ? inner[next] : step(inner, next),
  (head, next) => (c, inner = c[head]) => isLiteral(inner) ? inner[next] : step(inner, next),
  (head, next) => (c, inner = c[head]) => isLiteral(inner) ? inner[next] : step(inner, next),
  (head, next) => (c, inner = c[head]) => isLiteral(inner) ? inner[next] : step(inner, next),
  (head, next) => (c, inner = c[head]) => isLiteral(inner) ? inner[next] : step(inner, next),
  (head, next) => (c, inner = c[head]) => isLiteral(inner) ? inner[next] : step(inner, next),
  (head, next) => (c, inner = c[head]) => isLiteral(inner) ? inner[next] : step(inner, next),
];
