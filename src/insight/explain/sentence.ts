import { writtenDate } from "../../calendar/index.ts";
import {
  type AttributeTest,
  type Condition,
  operators,
  printLiteral,
  printOperand,
  printPath,
  type Test,
} from "../../language/index.ts";
import {
  type CohortDefinition,
  type Definitions,
  type FlagDefinition,
  type FlagIn,
  flagIn,
  holdsIn,
  partsOf,
  type Rule,
  rangeAt,
  rangesFrom,
  type Share,
  type Split,
} from "../../model/index.ts";
import { printable, sentenceList, show, showPercent, showRange } from "../../values/index.ts";
import { alikeIn } from "./alike.ts";

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
  if (suspension && holdsIn(suspension, environment)) return `Everybody gets ${safe}: it is suspended.`;
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

/** Some people, and when. */
interface Group {
  readonly who: string;
  /** A moment or a place: "during duty hours". */
  readonly during?: string | undefined;
}

interface Clause extends Group {
  readonly gets: string;
}

const everybody: Group = { who: "everybody" };

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

function joinClauses(found: readonly Clause[]): string {
  const said: string[] = [];
  for (let i = 0; i < found.length; i++) {
    const { who, during, gets } = found[i]!;
    if (i > 0 && isEverybody(found[i]!)) {
      const onlyTimes = found.slice(0, i).every((clause) => clause.who === everybody.who);
      said.push(`${onlyTimes ? "; otherwise" : ", everybody else"} ${gets}`);
      continue;
    }
    const alike = [who];
    while (during === undefined && isAlike(found[i + 1], gets)) alike.push(found[++i]!.who);
    const verb = alike.length === 1 && who === everybody.who ? "gets" : "get";
    said.push(`${said.length > 0 ? ", " : ""}${during ? `${during}, ` : ""}${sentenceList(alike)} ${verb} ${gets}`);
  }
  return said.join("");
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

/** The people for whom a condition is true, and when it is. */
function groupOf(condition: Condition | string, definitions: Definitions): Group {
  if (typeof condition === "string") return { who: `those with ${printable(condition)}` };
  const parts = condition.kind === "and" ? condition.parts : [condition];
  const times = parts.filter(isCircumstance).map((part) => circumstance(part, definitions));
  const traits = parts.filter((part) => !isCircumstance(part));
  return {
    who: printable(peopleWith(traits)),
    during: times.length === 0 ? undefined : printable(times.join(" and ")),
  };
}

function peopleWith(traits: readonly Condition[]): string {
  const [first] = traits;
  if (!first) return everybody.who;
  if (traits.length === 1 && first.kind === "or" && first.parts.every((part) => part.kind === "cohort")) {
    return sentenceList(first.parts.map((part) => (part.kind === "cohort" ? cohortWords(part.name) : "")));
  }
  const group = traits.find((trait) => trait.kind === "cohort");
  const rest = traits.filter((trait) => trait !== group).flatMap((trait) => traitsIn(trait, false));
  // What has an “or” in it stands last, so that nothing behind it is taken for a part of it.
  const [joint, single] = [rest.filter(isJoint), rest.filter((words) => !isJoint(words))];
  const words = rest.length === 1 ? rest[0]!.replace(/^either /, "") : [...single, ...joint].join(" and ");
  return [group?.kind === "cohort" ? cohortWords(group.name) : "people", words].filter(Boolean).join(" ");
}

/** What is said of people, one by one: “not (a or b)” is two things. */
function traitsIn(trait: Condition, negated: boolean): string[] {
  if (trait.kind === "not") return traitsIn(trait.part, !negated);
  if ((trait.kind === "or" && negated) || (trait.kind === "and" && !negated))
    return trait.parts.flatMap((part) => traitsIn(part, negated));
  return [traitWords(trait, negated)];
}

function isJoint(words: string): boolean {
  return words.startsWith("either ");
}

/**
 * What is said of people behind their name: "whose trips is more than 100", "either whose trips is at least 50 or who are
 * among testers". A negation is carried down to the tests, which the three answers allow.
 */
function traitWords(trait: Condition, negated: boolean): string {
  switch (trait.kind) {
    case "not":
      return traitWords(trait.part, !negated);
    case "and":
    case "or":
      return jointWords(trait, negated);
    case "cohort":
      return `who are ${describeTest(trait, negated)}`;
    case "window":
      return `while ${describeTest(trait, negated)}`;
    case "test":
      return trait.operand.kind === "path" ? ownWords(trait, negated) : `while ${describeTest(trait, negated)}`;
  }
}

function jointWords({ kind, parts }: Extract<Condition, { parts: unknown }>, negated: boolean): string {
  const [word, joint] = (kind === "or") === negated ? ["both", "and"] : ["either", "or"];
  return `${word} ${parts.map((part) => traitWords(part, negated)).join(` ${joint} `)}`;
}

function ownWords(test: AttributeTest, negated: boolean): string {
  if (test.operator !== "is-true") return `whose ${describeTest(test, negated)}`;
  return `whose ${printOperand(test.operand)} is ${negated ? "not true" : "true"}`;
}

/** "during duty hours", "from 1 December 2026", "while storm-mode is off". */
function circumstance(part: Condition, definitions: Definitions): string {
  const inner = part.kind === "not" ? part.part : part;
  if (inner.kind !== "window") return `while ${describeCondition(part)}`;
  const definition = definitions.windows.get(inner.name);
  const { from, until, zone } = definition?.window.parts ?? {};
  if (part.kind === "not") return `outside ${cohortWords(inner.name)}`;
  if (!definition || definition.hours !== undefined) return `during ${cohortWords(inner.name)}`;
  const bounds = [
    from === undefined ? "" : `from ${writtenDate(from, zone)}`,
    until === undefined ? "" : `until ${writtenDate(until, zone)}`,
  ];
  return bounds.filter(Boolean).join(" ");
}

/** Something about the moment or the place rather than about a person. */
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

/** The name of a cohort as words. */
export function cohortWords(name: string): string {
  return name.replace(/[-_.]+/g, " ");
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

/** A condition in words. */
export function describeCondition(condition: Condition | string): string {
  if (typeof condition === "string") return printable(condition);
  switch (condition.kind) {
    case "and":
    case "or":
      return condition.parts
        .map((part) =>
          part.kind === "and" || part.kind === "or" ? `(${describeCondition(part)})` : describeCondition(part),
        )
        .join(` ${condition.kind} `);
    case "not":
      return describeNegation(condition.part);
    default:
      return describeTest(condition, false);
  }
}

function describeNegation(part: Condition): string {
  switch (part.kind) {
    case "and":
    case "or":
      return `not (${describeCondition(part)})`;
    case "not":
      return describeCondition(part.part);
    default:
      return describeTest(part, true);
  }
}

function describeTest(test: Test, negated: boolean): string {
  if (test.kind === "cohort") return `${negated ? "not among" : "among"} ${cohortWords(test.name)}`;
  if (test.kind === "window") return `${test.name} is ${negated ? "shut" : "open"}`;
  const { operand, operator } = test;
  const literal = printable(printLiteral(test.literal).replace(/^\[|\]$/g, ""));
  if (operator === "is-true" && operand.kind === "flag") return `${operand.name} is ${negated ? "off" : "on"}`;
  if (operator === "is-true") return `${negated ? "no " : ""}${printOperand(operand)}`;
  const [said, opposite] = operators[operator].says;
  return [printOperand(operand), negated ? opposite : said, literal].filter((part) => part !== "").join(" ");
}

function upperFirst(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
