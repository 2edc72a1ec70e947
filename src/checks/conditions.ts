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
  for (const group of groupsIn(condition)) reportContradiction(group, text, place, analysis);
}

function reportNeverTrue(condition: Condition, text: string, place: Place, analysis: Analysis): void {
  const pair = condition.kind === "and" ? contradiction(condition, analysis) : undefined;
  const proof = pair
    ? `“${sourceOf(pair[0], text)}” and “${sourceOf(pair[1], text)}” cannot both be true`
    : "no context makes it true";
  analysis.problems.report("never-true", place, {
    message: `This condition can never be true: ${proof}.`,
    found: text,
    help: "correct it, or take out what depends on it",
  });
}

/** A part that can be true, whose own parts exclude each other: one side of an “or” is dead. */
function reportContradiction(group: Group, text: string, place: Place, analysis: Analysis): void {
  const pair = contradiction(group, analysis);
  if (!pair) return;
  analysis.problems.report("tests-contradict", inText(place, { start: pair[1].start, end: pair[1].end }), {
    message: `“${sourceOf(pair[0], text)}” and “${sourceOf(pair[1], text)}” are joined, but cannot both be true.`,
    found: sourceOf(group, text),
  });
}

function contradiction(
  group: Group,
  { definitions, assumptions }: Analysis,
): readonly [Condition, Condition] | undefined {
  for (const [i, second] of group.parts.entries()) {
    for (const first of group.parts.slice(0, i)) {
      const both = [first, second].map((condition) => ({ condition, mode: "true" as const }));
      if (!isSatisfiable(both, definitions, assumptions)) return [first, second];
    }
  }
  return undefined;
}

/** Every `and` in a condition that stands for itself, not under a `not`. */
function* groupsIn(condition: Condition): Generator<Group> {
  if (condition.kind !== "and" && condition.kind !== "or") return;
  if (condition.kind === "and") yield condition;
  for (const part of condition.parts) yield* groupsIn(part);
}

function sourceOf({ start, end }: Condition, text: string): string {
  return text.slice(start, end).replace(/\s+/g, " ");
}
