import { parsePath } from "../language/parser.ts";
import { printPath } from "../language/print.ts";
import { testsOf } from "../language/tree.ts";
import { visitConditions, visitRules } from "./effective.ts";
import type { Definitions, FlagDefinition } from "./types.ts";

/** What can be used: "flag:x", "cohort:x", "window:x" or "attribute:account.id". */
export type Node = `${"flag" | "cohort" | "window" | "attribute"}:${string}`;

/** One place that uses something. */
export interface Use {
  readonly user: "flag" | "cohort";
  readonly name: string;
  /** `provided`, `rule 2`, `rule “crew”`, `when`, `by` or `of`. */
  readonly where: string;
  /** The environment whose settings hold the place; undefined for the flag's own. */
  readonly environment?: string | undefined;
}

/** Where everything is used, directly: by node, in the order of the definitions. */
export function usesOf(definitions: Definitions): ReadonlyMap<Node, readonly Use[]> {
  const uses = new Map<Node, Use[]>();
  const note = (node: Node, use: Use) => {
    const known = uses.get(node);
    if (!known) uses.set(node, [use]);
    else if (!known.some((each) => sameUse(each, use))) known.push(use);
  };
  for (const cohort of definitions.cohorts.values()) {
    const use: Use = { user: "cohort", name: cohort.name, where: cohort.kind === "list" ? "of" : "when" };
    if (cohort.kind === "list") note(`attribute:${printPath(cohort.of)}`, use);
    else for (const node of nodesIn(cohort.when, definitions)) note(node, use);
  }
  for (const flag of definitions.flags.values()) noteFlag(flag, definitions, note);
  return uses;
}

function sameUse(a: Use, b: Use): boolean {
  return a.user === b.user && a.name === b.name && a.where === b.where && a.environment === b.environment;
}

function noteFlag(flag: FlagDefinition, definitions: Definitions, note: (node: Node, use: Use) => void): void {
  const user = "flag";
  const { name } = flag;
  visitConditions(flag, (text, environment, rule) => {
    const where = rule < 0 ? "provided" : ruleName(flag, environment, rule);
    for (const node of nodesIn(text, definitions)) note(node, { user, name, where, environment });
  });
  visitRules(flag, (rule, environment) => {
    if (rule.share === undefined && rule.split === undefined) return;
    const { path } = parsePath(rule.by ?? flag.source.by ?? flag.defaults.by ?? "");
    if (path) note(`attribute:${printPath(path)}`, { user, name, where: "by", environment });
  });
}

function ruleName({ source }: FlagDefinition, environment: string | undefined, index: number): string {
  const rules = environment === undefined ? source.rules : source.environments?.[environment]?.rules;
  const name = rules?.[index]?.name;
  return name === undefined ? `rule ${index + 1}` : `rule “${name}”`;
}

function nodesIn(text: string, { conditions }: Definitions): Node[] {
  const { condition } = conditions.get(text);
  const nodes: Node[] = [];
  for (const test of condition ? testsOf(condition) : []) {
    if (test.kind !== "test") nodes.push(`${test.kind}:${test.name}`);
    else if (test.operand.kind === "flag") nodes.push(`flag:${test.operand.name}`);
    else if (test.operand.kind === "path") nodes.push(`attribute:${printPath(test.operand.path)}`);
  }
  return nodes;
}

/** Every flag whose value can change with one of these, through cohorts and other flags as well. */
export function flagsBehind(nodes: Iterable<Node>, uses: ReadonlyMap<Node, readonly Use[]>): Set<string> {
  const seen = new Set<Node>(nodes);
  const flags = new Set<string>();
  for (const node of seen) {
    if (node.startsWith("flag:")) flags.add(node.slice("flag:".length));
    for (const { user, name } of uses.get(node) ?? []) seen.add(`${user}:${name}`);
  }
  return flags;
}

/** Every attribute that judging a flag may read, through cohorts and other flags as well; canonical paths, in order. */
export function attributesBehind(flag: string, uses: ReadonlyMap<Node, readonly Use[]>): string[] {
  const below = new Map<Node, Node[]>();
  for (const [node, users] of uses) {
    for (const { user, name } of users) {
      const key: Node = `${user}:${name}`;
      below.set(key, [...(below.get(key) ?? []), node]);
    }
  }
  const seen = new Set<Node>([`flag:${flag}`]);
  for (const node of seen) for (const next of below.get(node) ?? []) seen.add(next);
  return [...seen].filter((node) => node.startsWith("attribute:")).map((node) => node.slice("attribute:".length));
}
