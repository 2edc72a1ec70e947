import type { Condition, Group } from "../language/index.ts";
import type { Definitions } from "../model/index.ts";
import { inText, type Place, type Problems } from "../problems/index.ts";
import { isSatisfiable } from "./prover/satisfiable.ts";
import type { Assumptions } from "./prover/wanted.ts";

interface Analysis {
  readonly definitions: Definitions;
  readonly problems: Problems;
  readonly assumptions: Assumptions;
}

/** Warns of a condition that can never be true, that always is, or that joins tests which exclude each other. */
export function analyseCondition(text: string, place: Place, analysis: Analysis): void {
  const { definitions, problems, assumptions } = analysis;
  const { condition } = definitions.conditions.get(text);
  if (!condition) return;
  const can = (mode: "true" | "not-true") => isSatisfiable([{ condition, mode }], definitions, assumptions);
  if (!can("true")) return reportNeverTrue(condition, text, place, analysis);
  if (!can("not-true")) {
    problems.report("always-true", place, {
      message: "This condition is true for everybody: no context makes it false or undecided.",
      found: text,
      help: "take it out if everyone is meant",
    });
  }
  reportContradictions(condition, text, place, analysis);
}

function reportNeverTrue(condition: Condition, text: string, place: Place, analysis: Analysis): void {
  const parts = condition.kind === "and" ? contradiction(condition, analysis) : undefined;
  const proof = parts ? saysContradiction(parts, text) : "no context makes it true";
  analysis.problems.report("never-true", place, {
    message: `This condition can never be true: ${proof}.`,
    found: text,
    help: "correct it, or take out what depends on it",
  });
}

/**
 * Every `and` that stands for itself, not under a `not`, and whose own parts exclude each other: one side of an `or` is
 * dead. Of a part that can never be true the innermost reason is told.
 *
 * @returns whether anything was found
 */
function reportContradictions(condition: Condition, text: string, place: Place, analysis: Analysis): boolean {
  if (condition.kind !== "and" && condition.kind !== "or") return false;
  const inside = condition.parts.map((part) => reportContradictions(part, text, place, analysis)).includes(true);
  const parts = condition.kind === "and" ? contradiction(condition, analysis) : undefined;
  if (!parts || (inside && parts.length === 1)) return inside;
  const { start, end } = parts.at(-1)!;
  analysis.problems.report("tests-contradict", inText(place, { start, end }), {
    message: `This side can never be true: ${saysContradiction(parts, text)}.`,
    found: sourceOf(condition, text),
  });
  return true;
}

/** The first part that cannot be true by itself, or the first two that cannot be true together. */
function contradiction(
  { parts }: Group,
  { definitions, assumptions }: Analysis,
): readonly [Condition] | readonly [Condition, Condition] | undefined {
  const can = (...together: readonly Condition[]) =>
    isSatisfiable(
      together.map((condition) => ({ condition, mode: "true" })),
      definitions,
      assumptions,
    );
  for (const [i, second] of parts.entries()) {
    if (!can(second)) return [second];
    for (const first of parts.slice(0, i)) if (!can(first, second)) return [first, second];
  }
  return undefined;
}

function saysContradiction([first, second]: readonly [Condition, Condition?], text: string): string {
  const one = `“${sourceOf(first, text)}”`;
  return second ? `${one} and “${sourceOf(second, text)}” cannot both be true` : `no context makes ${one} true`;
}

function sourceOf({ start, end }: Condition, text: string): string {
  return text.slice(start, end).replace(/\s+/g, " ");
}
