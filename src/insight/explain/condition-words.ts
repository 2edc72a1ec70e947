import { endWords, writtenDate } from "../../calendar/index.ts";
import {
  type AttributeTest,
  type Condition,
  operators,
  printLiteral,
  printOperand,
  type Test,
} from "../../language/index.ts";
import type { Definitions, WindowDefinition } from "../../model/index.ts";
import { printable, sentenceList } from "../../values/index.ts";

// Conditions in words: of the people for whom they are true, and on their own.

/** Some people, and when. */
export interface Group {
  readonly who: string;
  /** A moment or a place: "during duty hours". */
  readonly during?: string | undefined;
}

/** Without a condition. */
export const everybody: Group = { who: "everybody" };

/** The people for whom a condition is true, and when it is. */
export function groupOf(condition: Condition | string, definitions: Definitions): Group {
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
      return negated
        ? `who are known not to be among ${cohortWords(trait.name)}`
        : `who are ${describeTest(trait, false)}`;
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
  const { operand, operator } = test;
  if (operator === "is-true") return `whose ${printOperand(operand)} is ${negated ? "false" : "true"}`;
  const words = describeTest(test, negated);
  if (!hidesTheUndecided(operators[operator].says[negated ? 1 : 0])) return `whose ${words}`;
  const what = printOperand(operand);
  return `whose ${what} is known and ${words.slice(what.length + 1)}`;
}

/** "is not 5" is said of a person without a number too, of whom the test is undecided: it is true of nobody then. */
function hidesTheUndecided(said: string): boolean {
  return /\bno(?:t|ne)\b/.test(said);
}

/** "during duty hours", "from 1 December 2026", "while storm-mode is off". */
function circumstance(part: Condition, definitions: Definitions): string {
  const inner = part.kind === "not" ? part.part : part;
  if (inner.kind !== "window") return `while ${describeCondition(part)}`;
  const definition = definitions.windows.get(inner.name);
  if (part.kind === "not") return `outside ${cohortWords(inner.name)}`;
  if (!definition || definition.hours !== undefined) return `during ${cohortWords(inner.name)}`;
  return boundsOf(definition.window.parts);
}

/** "from 1 December 2026 through 23 December 2026, Atlantic/Faroe time, but for 6 December 2026". */
function boundsOf({ from, until, zone, except }: WindowDefinition["window"]["parts"]): string {
  const bounds = [
    from === undefined ? "" : `from ${writtenDate(from, zone)}`,
    until === undefined ? "" : endWords(until, zone),
  ];
  const days = [...except].sort().map((date) => writtenDate(Date.parse(date)));
  return `${bounds.filter(Boolean).join(" ")}, ${zone ?? "UTC"} time${days[0] ? `, but for ${sentenceList(days)}` : ""}`;
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
function cohortWords(name: string): string {
  return name.replace(/[-_.]+/g, " ");
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
