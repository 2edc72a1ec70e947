import type { Condition } from "../../language/index.ts";
import {
  type Definitions,
  type FlagDefinition,
  flagIn,
  type Rule,
  rangesFrom,
  type Share,
  type Split,
  stopIn,
} from "../../model/index.ts";
import { sameData } from "../../values/index.ts";

// What a sentence says, before it is put into words: who gets what and when, in the order in which it is asked.

/** A condition, or its text if it cannot be read. */
export type Said = Condition | string;

/** Some people. */
export interface People {
  /** Each is true of them; none for everybody. */
  readonly traits: readonly Said[];
  /** The attribute that they must have, because a share or a split of them all goes by it. */
  readonly having: readonly string[] | undefined;
  /** The part of them that a share draws by lot; undefined for all of them. */
  readonly part: Share | undefined;
}

/** What people get: a value, or one of several by lot. */
export type Gets = { readonly value: unknown } | { readonly split: Split };

/** These people get this while all of these circumstances hold. */
export interface Clause {
  readonly people: People;
  readonly when: readonly Condition[];
  readonly gets: Gets;
}

/** What a flag gives. */
export interface Telling {
  /** Outside of it, everybody gets the safe value. */
  readonly provided: Said | undefined;
  /** The first that fits counts; the last one is for everybody, at any time. */
  readonly clauses: readonly Clause[];
  readonly safe: Gets;
  readonly isSuspended: boolean;
}

const everybody: People = { traits: [], having: undefined, part: undefined };

/** What a flag gives in an environment, told at an instant: steps of shares that are over are left out. */
export function tellingOf(
  flag: FlagDefinition,
  environment: string | undefined,
  definitions: Definitions,
  at: number,
): Telling {
  const safe: Gets = { value: flag.source.safe };
  const suspension = definitions.suspensions.get(flag.name);
  const isSuspended = suspension !== undefined && stopIn(suspension, environment) !== undefined;
  if (isSuspended) return { provided: undefined, clauses: [forAll(safe)], safe, isSuspended };
  const { provided, rules, otherwise } = flagIn(flag, environment);
  const gates = provided.map((text) => conditionOf(text, definitions));
  const rest: Gets = { value: otherwise };
  if (gates.length === 1 && rules.length === 0) {
    const inside = { ...groupOf(gates[0]!), gets: rest };
    return { provided: undefined, clauses: withoutRepeats([inside, forAll(safe)]), safe, isSuspended };
  }
  return { provided: allOf(gates), clauses: clausesOf(rules, rest, definitions, at), safe, isSuspended };
}

/** What one rule gives, to whom and when. */
export function clauseOf({ when, division, gives }: Rule, definitions: Definitions, at: number): Clause {
  const group = when === undefined ? forAll({ value: gives }) : groupOf(conditionOf(when, definitions));
  if (division === undefined) return { ...group, gets: { value: gives } };
  const { share, split } = division;
  const part = share && !isWhole(share, at) ? share : undefined;
  const people = { ...group.people, part, having: part ? undefined : division.by };
  return { when: group.when, people, gets: split ? { split } : { value: gives } };
}

/** The people for whom a condition is true, and when it is: circumstances are about the moment or the place. */
export function groupOf(condition: Said): Pick<Clause, "people" | "when"> {
  const parts = typeof condition !== "string" && condition.kind === "and" ? condition.parts : [condition];
  const isOfTimes = (part: Said): part is Condition => typeof part !== "string" && isCircumstance(part);
  return {
    people: { ...everybody, traits: parts.filter((part) => !isOfTimes(part)) },
    when: parts.filter(isOfTimes),
  };
}

export function conditionOf(text: string, { conditions }: Definitions): Said {
  return conditions.get(text).condition ?? text;
}

export function isEverybody({ people, when }: Pick<Clause, "people" | "when">): boolean {
  return when.length === 0 && people.traits.length === 0 && people.having === undefined && people.part === undefined;
}

export function givesTheSame(a: Gets, b: Gets): boolean {
  return "value" in a ? "value" in b && sameData(a.value, b.value) : "split" in b && a.split === b.split;
}

function forAll(gets: Gets): Clause {
  return { people: everybody, when: [], gets };
}

function allOf(gates: readonly Said[]): Said | undefined {
  if (gates.length < 2) return gates[0];
  const unread = gates.find((gate) => typeof gate === "string");
  return unread ?? { kind: "and", parts: gates as Condition[], start: 0, end: 0 };
}

/** Behind a rule for all there is nothing. */
function clausesOf(rules: readonly Rule[], rest: Gets, definitions: Definitions, at: number): readonly Clause[] {
  const found: Clause[] = [];
  for (const rule of rules) {
    const clause = clauseOf(rule, definitions, at);
    found.push(clause);
    if (isEverybody(clause)) return withoutRepeats(found);
  }
  return withoutRepeats([...found, forAll(rest)]);
}

/** Those who get what everybody else gets need not be told of apart, if nobody comes between. */
function withoutRepeats(found: readonly Clause[]): readonly Clause[] {
  const kept = [...found];
  while (kept.length > 1 && givesTheSame(kept.at(-2)!.gets, kept.at(-1)!.gets)) kept.splice(-2, 1);
  return kept;
}

/** True if it holds everybody who has an id, now and later. */
function isWhole(share: Share, at: number): boolean {
  return rangesFrom(share, at).every(({ low, high }) => low === 0 && high === 100);
}

/** True for what is about the moment or the place rather than about a person. */
function isCircumstance(part: Condition): boolean {
  switch (part.kind) {
    case "window":
      return true;
    case "test":
      return part.operand.kind !== "path";
    case "not":
      return isCircumstance(part.part);
    case "and":
    case "or":
      return part.parts.every(isCircumstance);
    default:
      return false;
  }
}
