import { at, type Place, type Problems } from "../problems/problem.ts";
import { placeOf, visitConditions } from "./effective.ts";
import type { Definitions } from "./types.ts";

/** A node of the graph of references: "flag:x", "cohort:x" or "window:x". */
type Node = string;

interface Reference {
  readonly to: Node;
  readonly place: () => Place;
}

export function nameOf(node: Node): string {
  return node.slice(node.indexOf(":") + 1);
}

/** All references out of a flag or cohort, all environments and rules taken together. */
function referencesOf({ flags, cohorts, conditions }: Definitions, node: Node): Reference[] {
  const references: Reference[] = [];
  const add = (text: string, place: () => Place) => {
    for (const to of conditions.references(text)) references.push({ to, place });
  };
  const flag = node.startsWith("flag:") ? flags.get(nameOf(node)) : undefined;
  const cohort = node.startsWith("cohort:") ? cohorts.get(nameOf(node)) : undefined;
  if (flag && !flag.standsAlone) {
    visitConditions(flag, (text, environment, rule) => {
      if (typeof text !== "string" || conditions.references(text).length === 0) return;
      add(text, () => placeOf(flag, { environment, rule }, rule < 0 ? "provided" : "when"));
    });
  }
  if (cohort?.kind === "condition") add(cohort.when, () => at(cohort.place, "when"));
  return references;
}

/** Depth-first, with the way kept, so that a circle can be named link by link. */
export function* findCircles(definitions: Definitions, problems: Problems): Generator<undefined, void, undefined> {
  const done = new Set<Node>();
  for (const name of definitions.cohorts.keys()) {
    if (!done.has(`cohort:${name}`)) visit(`cohort:${name}`, definitions, done, problems);
    yield;
  }
  const referring = [...definitions.flags.values()].filter(({ standsAlone }) => !standsAlone);
  for (const { name } of referring) {
    if (!done.has(`flag:${name}`)) visit(`flag:${name}`, definitions, done, problems);
    yield;
  }
}

interface Visit {
  readonly node: Node;
  readonly references: readonly Reference[];
  next: number;
}

/** A loop with its own stack: a chain of references may be as long as the set. */
function visit(start: Node, definitions: Definitions, done: Set<Node>, problems: Problems): void {
  const first = referencesOf(definitions, start);
  if (first.length === 0) return;
  const way: Visit[] = [{ node: start, references: first, next: 0 }];
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
  const circle = way.slice(way.findIndex(({ node }) => node === closing.to));
  problems.report("circle", closing.place(), {
    message: `This goes round in a circle: ${[...circle.map(({ node }) => node), closing.to].join(" → ")}.`,
    found: closing.to,
    expected: "references that come to an end",
    related: circle.slice(0, -1).map((visit) => {
      const reference = visit.references[visit.next - 1]!;
      return { place: reference.place(), message: `refers to ${reference.to}` };
    }),
  });
}
