import type { Plain } from "../../values/data.ts";
import { direct, step } from "../context/reach.ts";

// The same function eight times, on purpose: the plain twin is `steps` in ../context/reach.ts, and a test holds them
// together. The engine learns what a read looks like by its place in the code: one place that sees the keys of all paths
// is slow for each of them, and a place of its own makes a read as fast as `context.account.id` in the program itself.

type OneStep = (head: string) => (context: Plain) => unknown;
type TwoSteps = (head: string, next: string) => (context: Plain) => unknown;

// biome-ignore format: a line each shows that they are equal
export const ofOneStep: readonly OneStep[] = [
  (head) => (c) => direct(c, head),
  (head) => (c) => direct(c, head),
  (head) => (c) => direct(c, head),
  (head) => (c) => direct(c, head),
  (head) => (c) => direct(c, head),
  (head) => (c) => direct(c, head),
  (head) => (c) => direct(c, head),
  (head) => (c) => direct(c, head),
];

// biome-ignore format: a line each shows that they are equal
export const ofTwoSteps: readonly TwoSteps[] = [
  (head, next) => (c) => step(direct(c, head), next),
  (head, next) => (c) => step(direct(c, head), next),
  (head, next) => (c) => step(direct(c, head), next),
  (head, next) => (c) => step(direct(c, head), next),
  (head, next) => (c) => step(direct(c, head), next),
  (head, next) => (c) => step(direct(c, head), next),
  (head, next) => (c) => step(direct(c, head), next),
  (head, next) => (c) => step(direct(c, head), next),
];
