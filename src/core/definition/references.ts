import { testsOf } from "../condition/tree.ts";
import { at, type Place, type Problems } from "../problems/problem.ts";
import { allConditions, type Placed } from "./effective.ts";
import type { Definitions } from "./types.ts";

/** A node of the graph of references: "flag:x" or "cohort:x". */
type Node = string;

interface Reference {
  readonly to: Node;
  readonly place: Place;
}

/** What one condition refers to. */
export function referencesIn(definitions: Definitions, condition: Placed<string>): Reference[] {
  const { condition: tree } = definitions.conditions.get(condition.value);
  if (!tree) return [];
  const references: Reference[] = [];
  for (const test of testsOf(tree)) {
    if (test.kind === "cohort") references.push({ to: `cohort:${test.name}`, place: condition.place });
    else if (test.kind === "window") references.push({ to: `window:${test.name}`, place: condition.place });
    else if (test.operand.kind === "flag") references.push({ to: `flag:${test.operand.name}`, place: condition.place });
  }
  return references;
}

/** All references out of a flag or cohort, all environments and rules taken together. */
export function referencesOf(definitions: Definitions, node: Node): Reference[] {
  const name = node.slice(node.indexOf(":") + 1);
  if (node.startsWith("flag:")) {
    const flag = definitions.flags.get(name);
    return flag ? [...allConditions(flag)].flatMap((c) => referencesIn(definitions, c)) : [];
  }
  const cohort = definitions.cohorts.get(name);
  if (cohort?.kind !== "condition") return [];
  return referencesIn(definitions, { value: cohort.when, place: at(cohort.place, "when") });
}

/** Depth-first, with the way kept, so that a circle can be named link by link. */
export function* findCircles(definitions: Definitions, problems: Problems): Generator<undefined, void, undefined> {
  const done = new Set<Node>();
  const starts = [
    ...[...definitions.flags.keys()].map((name) => `flag:${name}`),
    ...[...definitions.cohorts.keys()].map((name) => `cohort:${name}`),
  ];
  for (const start of starts) {
    if (!done.has(start)) visit(start, definitions, done, problems);
    yield;
  }
}

interface Visit {
  readonly node: Node;
  readonly references: Reference[];
  next: number;
}

/** A loop with its own stack: a chain of references may be as long as the set. */
function visit(start: Node, definitions: Definitions, done: Set<Node>, problems: Problems): void {
  const way: Visit[] = [{ node: start, references: referencesOf(definitions, start), next: 0 }];
  const onWay = new Set<Node>([start]);
  while (way.length > 0) {
    const here = way.at(-1)!;
    const reference = here.references[here.next++];
    if (!reference) {
      way.pop();
      onWay.delete(here.node);
      done.add(here.node);
    } else if (onWay.has(reference.to)) {
      reportCircle(way, reference, problems);
    } else if (!done.has(reference.to)) {
      onWay.add(reference.to);
      way.push({ node: reference.to, references: referencesOf(definitions, reference.to), next: 0 });
    }
  }
}

function reportCircle(way: readonly Visit[], closing: Reference, problems: Problems): void {
  const from = way.findIndex(({ node }) => node === closing.to);
  const circle = way.slice(from);
  problems.report("circle", closing.place, {
    message: `This goes round in a circle: ${[...circle.map(({ node }) => node), closing.to].join(" → ")}.`,
    found: closing.to,
    expected: "references that come to an end",
    related: circle.slice(0, -1).map((visit) => {
      const reference = visit.references[visit.next - 1]!;
      return { place: reference.place, message: `refers to ${reference.to}` };
    }),
  });
}
