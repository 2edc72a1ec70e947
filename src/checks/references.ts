import { type Graph, type NodeKey, nodeKey, type Reference } from "../model/index.ts";
import type { Problems } from "../problems/index.ts";
import { limits } from "../values/index.ts";

/**
 * Circles through flags and cohorts, and chains that are longer than anybody may follow; all environments and rules taken
 * together. Depth-first, with the way kept, so that a circle can be named link by link.
 *
 * @param referring the flags that refer to anything; the others are in no circle
 */
export function* checkReferences(
  graph: Graph,
  cohorts: Iterable<string>,
  referring: Iterable<string>,
  problems: Problems,
): Generator<undefined, void, undefined> {
  const heights: Heights = new Map();
  for (const name of cohorts) {
    visit(nodeKey("cohort", name), graph, heights, problems);
    yield;
  }
  for (const name of referring) {
    visit(nodeKey("flag", name), graph, heights, problems);
    yield;
  }
}

/** How many references follow each other, at most, from each node that is done with. */
type Heights = Map<NodeKey, number>;

interface Visit {
  readonly node: NodeKey;
  readonly references: readonly Reference[];
  next: number;
  height: number;
  /** The first reference of the longest chain so far. */
  longest?: Reference;
}

/** A loop with its own stack: what is written may be a chain as long as the set. */
function visit(start: NodeKey, graph: Graph, heights: Heights, problems: Problems): void {
  if (heights.has(start)) return;
  const way: Visit[] = [enter(start, graph)];
  const onWay = new Set<NodeKey>([start]);
  while (way.length > 0) {
    const here = way.at(-1)!;
    const reference = here.references[here.next];
    if (!reference) {
      way.pop();
      onWay.delete(here.node);
      heights.set(here.node, here.height);
      if (here.height === limits.references + 1) reportChain(here.longest!, problems);
      continue;
    }
    const height = heights.get(reference.to);
    if (height === undefined && !onWay.has(reference.to)) {
      way.push(enter(reference.to, graph));
      onWay.add(reference.to);
      continue;
    }
    here.next++;
    if (height === undefined) {
      reportCircle(way, reference, problems);
    } else if (height >= here.height) {
      here.height = height + 1;
      here.longest = reference;
    }
  }
}

const enter = (node: NodeKey, graph: Graph): Visit => ({
  node,
  references: linksFrom(node, graph),
  next: 0,
  height: 0,
});

/** Windows and attributes refer to nothing. */
function linksFrom(node: NodeKey, graph: Graph): readonly Reference[] {
  return graph.from(node).filter(({ to }) => to.startsWith("flag:") || to.startsWith("cohort:"));
}

/** Told where the chain gets too long, and not again by everything that leads there. */
function reportChain(first: Reference, problems: Problems): void {
  problems.report("too-deep", first.place(), {
    message: `More than ${limits.references} references follow each other from here.`,
    found: first.to,
    expected: `at most ${limits.references} in a row`,
    help: "write what it comes to in the end, or a cohort that all of them name",
  });
}

function reportCircle(way: readonly Visit[], closing: Reference, problems: Problems): void {
  const circle = way.slice(way.findIndex(({ node }) => node === closing.to));
  problems.report("circle", closing.place(), {
    message: `This goes round in a circle: ${[...circle.map(({ node }) => node), closing.to].join(" → ")}.`,
    found: closing.to,
    expected: "references that come to an end",
    related: circle.slice(0, -1).map((visit) => {
      const reference = visit.references[visit.next]!;
      return { place: reference.place(), message: `refers to ${reference.to}` };
    }),
  });
}
