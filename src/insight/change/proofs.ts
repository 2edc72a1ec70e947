import { isSatisfiable } from "../../checks/index.ts";
import { canonicalNode, type Definitions, Graph, type NodeKey, nodeKey, partsOfKey } from "../../model/index.ts";

/** How two conditions lie to each other, as far as it can be proved. */
export type Relation = "wider" | "narrower" | "same" | undefined;

/** A reload must not stall a service, so only so many proofs are tried for one change. */
const maxProofs = 50;

/**
 * Says whether a condition was widened or narrowed, by the decision procedure of the analysis. Both are read with the
 * later set; where something that they look at changed as well, nothing is claimed.
 */
export class Proofs {
  readonly #before: Definitions;
  readonly #after: Definitions;
  readonly #graph: Graph;
  #left = maxProofs;

  constructor(before: Definitions, after: Definitions) {
    this.#before = before;
    this.#after = after;
    this.#graph = new Graph(after);
  }

  /** How the new text lies to the old one; a condition that is left out is true for everyone. */
  relation(old: string | undefined, now: string | undefined): Relation {
    if (old === now) return "same";
    if (old === undefined) return "narrower";
    if (now === undefined) return "wider";
    if (--this.#left < 0 || !this.#meansTheSame(old) || !this.#meansTheSame(now)) return undefined;
    const wider = this.#implies(old, now);
    const narrower = this.#implies(now, old);
    return wider ? (narrower ? "same" : "wider") : narrower ? "narrower" : undefined;
  }

  #implies(one: string, other: string): boolean {
    const { conditions } = this.#after;
    const first = conditions.get(one).condition;
    const second = conditions.get(other).condition;
    if (!first || !second) return false;
    const goals = [
      { condition: first, mode: "true" as const },
      { condition: second, mode: "not-true" as const },
    ];
    return !isSatisfiable(goals, this.#after);
  }

  /** Does everything that a text looks at, and that stands behind it, say the same in both sets? */
  #meansTheSame(text: string): boolean {
    const { references, attributes } = this.#after.conditions.looks(text);
    const nodes: NodeKey[] = [...references, ...[...attributes.keys()].map((name) => nodeKey("attribute", name))];
    return [...this.#graph.behind(nodes).keys()].every((node) => {
      const { kind, name } = partsOfKey(node);
      return canonicalNode(this.#before, kind, name) === canonicalNode(this.#after, kind, name);
    });
  }
}

export function relationWords(relation: Relation): string {
  if (relation === "wider") return ", which widens it";
  if (relation === "narrower") return ", which narrows it";
  return relation === "same" ? ", which means the same" : "";
}
