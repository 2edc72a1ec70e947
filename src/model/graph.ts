import { parsePath, printPath } from "../language/index.ts";
import { at, type Place } from "../problems/index.ts";
import { type NodeKey, nodeKey, partsOfKey } from "./node.ts";
import {
  conditionsOf,
  flagIn,
  placeOfCondition,
  placeOfRule,
  type Rule,
  ruleCalled,
  settingsIn,
  writtenRules,
} from "./rules.ts";
import type { CohortDefinition, Definitions, FlagDefinition } from "./types.ts";

/** One place at which something is looked at. */
export interface Reference {
  readonly to: NodeKey;
  /** For an attribute, its path. */
  readonly path: readonly string[] | undefined;
  /** `provided`, `rule 2`, `rule 1 “crew”`, `when`, `by` or `of`. */
  readonly where: string;
  /** The environment whose settings hold the place; undefined for the flag's own. */
  readonly environment: string | undefined;
  /** Where it stands in the files. */
  place(): Place;
}

/** One place that uses something. */
export interface Use {
  readonly user: "flag" | "cohort";
  readonly name: string;
  /** `provided`, `rule 2`, `rule 1 “crew”`, `when`, `by` or `of`. */
  readonly where: string;
  /** The environment whose settings hold the place; undefined for the flag's own. */
  readonly environment?: string | undefined;
}

/**
 * What refers to what in a set: flags and cohorts to flags, cohorts, windows and attributes. Everything that asks about
 * references asks here: circles, uses, what depends on time, which attributes are read.
 */
export class Graph {
  readonly #definitions: Definitions;

  constructor(definitions: Definitions) {
    this.#definitions = definitions;
  }

  /** The references out of a flag or cohort, all environments and rules taken together. */
  from(node: NodeKey): readonly Reference[] {
    const { kind, name } = partsOfKey(node);
    if (kind === "flag") {
      const flag = this.#definitions.flags.get(name);
      return flag ? this.#fromFlag(flag) : [];
    }
    const cohort = kind === "cohort" ? this.#definitions.cohorts.get(name) : undefined;
    return cohort ? this.#fromCohort(cohort) : [];
  }

  #fromFlag(flag: FlagDefinition): Reference[] {
    const references: Reference[] = [];
    for (const written of conditionsOf(flag)) {
      const where = written.rule < 0 ? "provided" : ruleCalled(ruleAt(flag, written.environment, written.rule));
      const place = () => placeOfCondition(flag, written);
      references.push(...this.#fromText(written.text, where, written.environment, place));
    }
    for (const { environment, rules } of writtenRules(flag)) {
      for (const rule of rules) {
        if (!rule.division || rule.division.by.length === 0) continue;
        const place = () => placeOfRule(flag, rule);
        references.push(attributeReference(rule.division.by, "by", environment, place));
      }
    }
    return references;
  }

  #fromCohort(cohort: CohortDefinition): readonly Reference[] {
    const place = (key: string) => () => at(cohort.place, key);
    switch (cohort.kind) {
      case "condition":
        return this.#fromText(cohort.when, "when", undefined, place("when"));
      case "list":
        return [attributeReference(cohort.of, "of", undefined, place("of"))];
      case "lot":
        return [attributeReference(cohort.by, "by", undefined, place("by"))];
    }
  }

  #fromText(text: string, where: string, environment: string | undefined, place: () => Place): Reference[] {
    const { references, attributes } = this.#definitions.conditions.looks(text);
    return [
      ...references.map((to) => ({ to, path: undefined, where, environment, place })),
      ...[...attributes.values()].map((path) => attributeReference(path, where, environment, place)),
    ];
  }

  /** What a flag refers to in one environment. */
  inEnvironment(flag: FlagDefinition, environment: string | undefined): readonly NodeKey[] {
    const { provided, rules } = flagIn(flag, environment);
    const texts = [...provided, ...rules.flatMap(({ when }) => when ?? [])];
    return texts.flatMap((text) => this.#definitions.conditions.references(text));
  }

  /** Everything behind some nodes, themselves included: what they refer to, and so on. */
  behind(nodes: Iterable<NodeKey>): ReadonlyMap<NodeKey, readonly string[] | undefined> {
    const seen = new Map<NodeKey, readonly string[] | undefined>();
    for (const node of nodes) seen.set(node, undefined);
    for (const [node] of seen) for (const { to, path } of this.from(node)) if (!seen.has(to)) seen.set(to, path);
    return seen;
  }

  /** Every attribute that judging a flag may read, through cohorts and other flags as well: canonical path to path. */
  attributesBehind(flag: string): ReadonlyMap<string, readonly string[]> {
    const attributes = new Map<string, readonly string[]>();
    for (const [node, path] of this.behind([nodeKey("flag", flag)])) {
      if (path !== undefined) attributes.set(partsOfKey(node).name, path);
    }
    return attributes;
  }

  /** Can the answer of a flag change with time alone: by a window or a rising share, its own or one behind it? */
  dependsOnTime(flag: string, environment: string | undefined): boolean {
    const seen = new Set<NodeKey>([nodeKey("flag", flag)]);
    for (const node of seen) {
      const { kind, name } = partsOfKey(node);
      if (kind === "window") return true;
      const definition = kind === "flag" ? this.#definitions.flags.get(name) : undefined;
      if (definition && flagIn(definition, environment).rules.some(({ division }) => division?.share?.rises))
        return true;
      const next = definition ? this.inEnvironment(definition, environment) : this.from(node).map(({ to }) => to);
      for (const to of next) seen.add(to);
    }
    return false;
  }

  /** Where everything is used, directly: by node, in the order of the definitions. */
  uses(): ReadonlyMap<NodeKey, readonly Use[]> {
    const uses = new Map<NodeKey, Use[]>();
    const note = (user: Use["user"], name: string) => {
      for (const { to, where, environment } of this.from(nodeKey(user, name))) {
        const known = uses.get(to) ?? [];
        uses.set(to, known);
        const use: Use = environment === undefined ? { user, name, where } : { user, name, where, environment };
        if (!isNoted(known, use)) known.push(use);
      }
    };
    for (const name of this.#definitions.cohorts.keys()) note("cohort", name);
    for (const name of this.#definitions.flags.keys()) note("flag", name);
    return uses;
  }
}

/** Each user is gone through once, so that its places stand together at the end. */
function isNoted(known: readonly Use[], { user, name, where, environment }: Use): boolean {
  for (let i = known.length - 1; i >= 0; i--) {
    const each = known[i]!;
    if (each.user !== user || each.name !== name) return false;
    if (each.where === where && each.environment === environment) return true;
  }
  return false;
}

function ruleAt(flag: FlagDefinition, environment: string | undefined, index: number): Pick<Rule, "number" | "name"> {
  const rules = settingsIn(flag, environment)?.rules ?? flag.source.rules;
  return { number: index + 1, name: rules?.[index]?.name };
}

function attributeReference(
  path: readonly string[],
  where: string,
  environment: string | undefined,
  place: () => Place,
): Reference {
  return { to: nodeKey("attribute", printPath(path)), path, where, environment, place };
}

/** Every flag whose value can change with one of these, through cohorts and other flags as well. */
export function flagsBehind(nodes: Iterable<NodeKey>, uses: ReadonlyMap<NodeKey, readonly Use[]>): Set<string> {
  const seen = new Set<NodeKey>(nodes);
  const flags = new Set<string>();
  for (const node of seen) {
    const { kind, name } = partsOfKey(node);
    if (kind === "flag") flags.add(name);
    for (const use of uses.get(node) ?? []) seen.add(nodeKey(use.user, use.name));
  }
  return flags;
}

/** The path of an attribute by its canonical spelling. */
export function pathOf(name: string): readonly string[] {
  return parsePath(name).path ?? [];
}
