import { TRUE } from "../../values/index.ts";
import type { CompiledRule } from "../compiled-rule.ts";
import type { Question } from "../question.ts";

/**
 * The index of the first rule whose condition is true, or the number of rules: the plain twin is `CompiledFlag.decide`,
 * and a test holds them together.
 *
 * The first eight are spelt out: the engine keeps what it learned of a call by its place in the code, so that each of
 * them can become the very condition's own code, where a loop would call through a pointer. With fewer, the engine
 * makes this function a part of its callers and has no room left for the conditions. Measured on the decision
 * benchmark: a tenth. It helps while few flags are asked often, and costs nothing where many are.
 */
export function firstMatch(rules: readonly CompiledRule[], question: Question): number {
  const { length } = rules;
  if (length === 0) return 0;
  const first = rules[0]!.when;
  if (first === undefined || first(question) === TRUE) return 0;
  if (length === 1) return 1;
  const second = rules[1]!.when;
  if (second === undefined || second(question) === TRUE) return 1;
  if (length === 2) return 2;
  const third = rules[2]!.when;
  if (third === undefined || third(question) === TRUE) return 2;
  if (length === 3) return 3;
  const fourth = rules[3]!.when;
  if (fourth === undefined || fourth(question) === TRUE) return 3;
  if (length === 4) return 4;
  const fifth = rules[4]!.when;
  if (fifth === undefined || fifth(question) === TRUE) return 4;
  if (length === 5) return 5;
  const sixth = rules[5]!.when;
  if (sixth === undefined || sixth(question) === TRUE) return 5;
  if (length === 6) return 6;
  const seventh = rules[6]!.when;
  if (seventh === undefined || seventh(question) === TRUE) return 6;
  if (length === 7) return 7;
  const eighth = rules[7]!.when;
  if (eighth === undefined || eighth(question) === TRUE) return 7;
  return nextMatch(rules, 8, question);
}

/** The index of the next such rule from `start` on. */
export function nextMatch(rules: readonly CompiledRule[], start: number, question: Question): number {
  for (let i = start; i < rules.length; i++) {
    const { when } = rules[i]!;
    if (when === undefined || when(question) === TRUE) return i;
  }
  return rules.length;
}
