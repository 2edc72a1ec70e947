import { writtenDate } from "../../calendar/index.ts";
import { type Condition, printPath } from "../../language/index.ts";
import {
  type CohortDefinition,
  type Definitions,
  type FlagDefinition,
  type FlagIn,
  flagIn,
  partsOf,
  type Rule,
  rangeAt,
  rangesFrom,
  type Share,
  type Split,
  stopIn,
} from "../../model/index.ts";
import { printable, sentenceList, show, showPercent, showRange } from "../../values/index.ts";
import { alikeIn } from "./alike.ts";
import { describeCondition, everybody, type Group, groupOf } from "./condition-words.ts";

/**
 * Who gets what and when, in a sentence that needs no knowledge of the format.
 *
 * @param at the instant from which rising shares are told, in epoch milliseconds
 * @example describeFlag(definitions, "storm-mode", "production", Date.now()) // "Everybody gets false."
 */
export function describeFlag(
  definitions: Definitions,
  name: string,
  environment: string | undefined,
  at: number,
): string | undefined {
  const flag = definitions.flags.get(name);
  if (!flag) return undefined;
  const suspension = definitions.suspensions.get(name);
  const safe = value(flag.source.safe);
  if (suspension && stopIn(suspension, environment)) return `Everybody gets ${safe}: it is suspended.`;
  return upperFirst(`${flagClause(flag, flagIn(flag, environment), definitions, at)}.`);
}

/** The sentence of a flag, and the environments for which it holds; all of them if undefined. */
export interface SentenceIn {
  readonly environments: readonly string[] | undefined;
  readonly sentence: string;
}

/** A flag in a sentence; where these environments differ, a sentence each. */
export function describeFlagIn(
  definitions: Definitions,
  name: string,
  environments: readonly string[],
  at: number,
): readonly SentenceIn[] {
  return alikeIn(environments, (each) => describeFlag(definitions, name, each, at) ?? "", String).map(
    ({ environments: where, answer }) => ({ environments: where, sentence: answer }),
  );
}

/** A rule in words: whom it takes, when, and what they get. */
export interface RuleWords {
  readonly who: string;
  readonly during: string | undefined;
  readonly gets: string;
}

/** One rule on its own, as it stands in an environment. */
export function describeRule(definitions: Definitions, rule: Rule, at: number): RuleWords {
  const { who, during } = whomOf(rule, definitions, at);
  return { who, during, gets: rule.division?.split ? splitWords(rule.division.split) : value(rule.gives) };
}

function flagClause(
  flag: FlagDefinition,
  { provided, rules, otherwise }: FlagIn,
  definitions: Definitions,
  at: number,
): string {
  const safe = value(flag.source.safe);
  const gates = provided.map((text) => conditionOf(text, definitions));
  if (gates.length === 1 && rules.length === 0) {
    const inside: Clause = { ...groupOf(gates[0]!, definitions), gets: value(otherwise) };
    return joinClauses([inside, { ...everybody, gets: safe }]);
  }
  const inside = joinClauses(clauses(rules, value(otherwise), definitions, at));
  if (gates.length === 0) return inside;
  const where = gates.map((gate) => describeCondition(gate)).join(" and ");
  return `only where ${where}: ${inside}; where not, everybody gets ${safe}`;
}

interface Clause extends Group {
  readonly gets: string;
}

function isEverybody({ who, during }: Group): boolean {
  return who === everybody.who && during === undefined;
}

/** Rules that give the same, one after the other, are told in one breath; behind a rule for all there is nothing. */
function clauses(rules: readonly Rule[], otherwise: string, definitions: Definitions, at: number): Clause[] {
  const found: Clause[] = [];
  for (const rule of rules) {
    const group = whomOf(rule, definitions, at);
    found.push({ ...group, gets: rule.division?.split ? splitWords(rule.division.split) : value(rule.gives) });
    if (isEverybody(group)) return withoutRepeats(found);
  }
  return withoutRepeats([...found, { ...everybody, gets: otherwise }]);
}

function whomOf({ when, division }: Rule, definitions: Definitions, at: number): Group {
  const { who, during } = when === undefined ? everybody : groupOf(conditionOf(when, definitions), definitions);
  const share = division?.share;
  if (share === undefined) return { who, during };
  if (who === everybody.who && isWhole(share, at))
    return { who: `all people who have ${printPath(division!.by)}`, during };
  return { who: `${partOf(share, at)} of ${who === everybody.who ? "all people" : who}${later(share, at)}`, during };
}

/** Whoever gets what everybody else gets need not be told of apart, if nobody comes between. */
function withoutRepeats(found: readonly Clause[]): Clause[] {
  const kept = [...found];
  while (kept.length > 1 && kept.at(-2)!.gets === kept.at(-1)!.gets) kept.splice(-2, 1);
  return kept;
}

/**
 * One clause after the other, in the order in which they are asked. What holds only at some time is parted from what comes
 * behind it, so that nobody takes its time for that of the rest.
 */
function joinClauses(found: readonly Clause[]): string {
  const said: string[] = [];
  for (let i = 0; i < found.length; i++) {
    const { who, during, gets } = found[i]!;
    const lead = i === 0 ? "" : isTimed(found[i - 1]!) || isTimed(found[i]!) ? "; otherwise " : ", ";
    if (i > 0 && isEverybody(found[i]!)) {
      said.push(lastWords(found.slice(0, i), lead, gets));
      continue;
    }
    const alike = [who];
    while (during === undefined && isAlike(found[i + 1], gets)) alike.push(found[++i]!.who);
    const verb = alike.length === 1 && who === everybody.who ? "gets" : "get";
    said.push(`${lead}${during ? `${during}, ` : ""}${listOfPeople(alike)} ${verb} ${gets}`);
  }
  return said.join("");
}

function isTimed({ during }: Clause): boolean {
  return during !== undefined;
}

/** What everybody else gets. */
function lastWords(before: readonly Clause[], lead: string, gets: string): string {
  if (before.every(({ who }) => who === everybody.who)) return `; otherwise ${gets}`;
  return lead === ", " ? `, everybody else ${gets}` : `; otherwise everybody gets ${gets}`;
}

/** Groups of people with something said behind their names are parted by commas, so that they are not read as one. */
function listOfPeople(groups: readonly string[]): string {
  const [first] = groups;
  if (groups.length === 1) return first!;
  if (groups.every((group) => !/ (?:who|of|and)/.test(group))) return sentenceList(groups);
  return `${groups.slice(0, -1).join(", ")}, and ${groups.at(-1)},`;
}

function isAlike(next: Clause | undefined, gets: string): boolean {
  return next !== undefined && next.gets === gets && next.during === undefined && !isEverybody(next);
}

function partOf({ steps, rises }: Share, at: number): string {
  return showRange(rises ? rangeAt(steps, at) : steps[0]!);
}

/** Does it hold everybody who has an id, now and later? */
function isWhole(share: Share, at: number): boolean {
  return rangesFrom(share, at).every(({ low, high }) => low === 0 && high === 100);
}

/** The steps to come, as people write dates. */
function later({ steps, rises, zone }: Share, at: number): string {
  const coming = rises ? steps.filter(({ from }) => from > at) : [];
  if (coming.length === 0) return "";
  const words = coming.map(({ high, from }) => `${showPercent(high)} from ${writtenDate(from, zone)}`);
  return ` (${words.join(", ")}${zone === undefined ? "" : `, ${zone} time`})`;
}

function splitWords(split: Split): string {
  const parts = partsOf(split).map(({ variant, fraction }) => `${variant} (${showPercent(round(fraction * 100))})`);
  return sentenceList(parts, "or");
}

function round(percent: number): number {
  return Number(percent.toFixed(1));
}

function value(given: unknown): string {
  return typeof given === "string" ? printable(given) : printable(show(given, 40));
}

function conditionOf(text: string, { conditions }: Definitions): Condition | string {
  return conditions.get(text).condition ?? text;
}

function groupWords({ who, during }: Group): string {
  return during === undefined ? who : `${who}, ${during}`;
}

/** Who belongs to a cohort, in a sentence. */
export function describeCohort(cohort: CohortDefinition, definitions: Definitions): string {
  switch (cohort.kind) {
    case "condition":
      return `${upperFirst(groupWords(groupOf(conditionOf(cohort.when, definitions), definitions)))}.`;
    case "list": {
      const from = cohort.file === undefined ? "" : `, from ${cohort.file}`;
      const where = cohort.hashed === undefined ? from : `${from}, as salted digests`;
      const { size } = cohort.ids;
      return printable(
        `${size.toLocaleString("en-US")} ${size === 1 ? "id" : "ids"} by ${printPath(cohort.of)}${where}.`,
      );
    }
    case "lot":
      return `By lot, ${showRange(cohort.range)} of all people by ${printPath(cohort.by)}.`;
  }
}

function upperFirst(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
