import { hasOwn, type Plain } from "../../values/index.ts";
import { direct, isLiteral, step } from "../context/reach.ts";

// One function eight times, on purpose; the plain twin is `steps` in ../context/reach.ts, and a test holds them
// together. The engine learns what a read looks like by its place in the code: one place that sees the keys of all paths
// is slow for each of them, and a place of its own makes a read as fast as `context.account.id` in the program itself.
// What is read must not be what somebody has put on `Object.prototype`.

type OneStep = (head: string) => (context: Plain) => unknown;
type TwoSteps = (head: string, next: string) => (context: Plain) => unknown;

const base: Plain = Object.prototype as unknown as Plain;

// biome-ignore format: a line each shows that they are equal
export const ofOneStep: readonly OneStep[] = [
  (head) => (c, v = c[head]) => v === undefined || base[head] === undefined ? v : own(c, head, v),
  (head) => (c, v = c[head]) => v === undefined || base[head] === undefined ? v : own(c, head, v),
  (head) => (c, v = c[head]) => v === undefined || base[head] === undefined ? v : own(c, head, v),
  (head) => (c, v = c[head]) => v === undefined || base[head] === undefined ? v : own(c, head, v),
  (head) => (c, v = c[head]) => v === undefined || base[head] === undefined ? v : own(c, head, v),
  (head) => (c, v = c[head]) => v === undefined || base[head] === undefined ? v : own(c, head, v),
  (head) => (c, v = c[head]) => v === undefined || base[head] === undefined ? v : own(c, head, v),
  (head) => (c, v = c[head]) => v === undefined || base[head] === undefined ? v : own(c, head, v),
];

// biome-ignore format: a line each shows that they are equal
export const ofTwoSteps: readonly TwoSteps[] = [
  (head, next) => (c, o = c[head]) => isLiteral(o) && base[head] === undefined && base[next] === undefined ? o[next] : careful(c, head, next),
  (head, next) => (c, o = c[head]) => isLiteral(o) && base[head] === undefined && base[next] === undefined ? o[next] : careful(c, head, next),
  (head, next) => (c, o = c[head]) => isLiteral(o) && base[head] === undefined && base[next] === undefined ? o[next] : careful(c, head, next),
  (head, next) => (c, o = c[head]) => isLiteral(o) && base[head] === undefined && base[next] === undefined ? o[next] : careful(c, head, next),
  (head, next) => (c, o = c[head]) => isLiteral(o) && base[head] === undefined && base[next] === undefined ? o[next] : careful(c, head, next),
  (head, next) => (c, o = c[head]) => isLiteral(o) && base[head] === undefined && base[next] === undefined ? o[next] : careful(c, head, next),
  (head, next) => (c, o = c[head]) => isLiteral(o) && base[head] === undefined && base[next] === undefined ? o[next] : careful(c, head, next),
  (head, next) => (c, o = c[head]) => isLiteral(o) && base[head] === undefined && base[next] === undefined ? o[next] : careful(c, head, next),
];

function own(context: Plain, key: string, value: unknown): unknown {
  return hasOwn(context, key) ? value : undefined;
}

function careful(context: Plain, head: string, next: string): unknown {
  return step(direct(context, head), next);
}
