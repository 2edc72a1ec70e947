import { type Graph, type NodeKey, nodeKey, type Reference } from "../model/index.ts";
import type { Problems } from "../problems/index.ts";

/**
 * Circles through flags and cohorts, all environments and rules taken together. Depth-first, with the way kept, so that a
 * circle can be named link by link.
 *
 * @param referring the flags that refer to anything; the others are in no circle
 */
export function* findCircles(
  graph: Graph,
  cohorts: Iterable<string>,
  referring: Iterable<string>,
  problems: Problems,
): Generator<undefined, void, undefined> {
  const done = new Set<NodeKey>();
  for (const name of cohorts) {
    visit(nodeKey("cohort", name), graph, done, problems);
    yield;
  }
  for (const name of referring) {
    visit(nodeKey("flag", name), graph, done, problems);
    yield;
  }
}

interface Visit {
  readonly node: NodeKey;
  readonly references: readonly Reference[];
  next: number;
}

/** A loop with its own stack: a chain of references may be as long as the set. */
function visit(start: NodeKey, graph: Graph, done: Set<NodeKey>, problems: Problems): void {
  if (done.has(start)) return;
  const way: Visit[] = [{ node: start, references: linksFrom(start, graph), next: 0 }];
  const onWay = new Set<NodeKey>([start]);
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
      way.push({ node: reference.to, references: linksFrom(reference.to, graph), next: 0 });
    }
  }
}

/** Windows and attributes refer to nothing. */
function linksFrom(node: NodeKey, graph: Graph): readonly Reference[] {
  return graph.from(node).filter(({ to }) => to.startsWith("flag:") || to.startsWith("cohort:"));
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
