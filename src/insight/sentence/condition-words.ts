import { endWords, writtenDate } from "../../calendar/index.ts";
import {
  type AttributeTest,
  type Condition,
  type Negation,
  operators,
  printLiteral,
  printOperand,
  printPath,
  type Test,
} from "../../language/index.ts";
import type { Definitions, WindowDefinition } from "../../model/index.ts";
import { printable, sentenceList } from "../../values/index.ts";
import type { Said } from "./telling.ts";

// Conditions in words that are true of nobody of whom the condition is undecided: a negation is carried down to the tests,
// which the three answers allow, and what would hold of a person of whom nothing is known says that it is known.

type Joint = Exclude<Condition, Negation | Test>;

/**
 * The people of whom all of this is true.
 *
 * @param having an attribute that they must have
 * @param isAll false if a part of them is meant: then no list may stand behind "10% of"
 */
export function peopleWords(traits: readonly Said[], having: readonly string[] | undefined, isAll = true): string {
  const unread = traits.find((trait) => typeof trait === "string");
  if (unread !== undefined) return `those with ${printable(unread as string)}`;
  const read = traits as readonly Condition[];
  const [first] = read;
  const has = having === undefined ? [] : [`who have ${printPath(having)}`];
  if (!first) return having === undefined ? "everybody" : `all people ${has[0]}`;
  if (isAll && read.length === 1 && first.kind === "or" && having === undefined && first.parts.every(isCohort))
    return sentenceList(first.parts.map((part) => (isCohort(part) ? wordsOf(part.name) : "")));
  const group = read.find(isCohort);
  const rest = read.filter((trait) => trait !== group).flatMap((trait) => traitsIn(trait, false));
  // What has an “or” in it stands last, so that nothing behind it is taken for a part of it.
  const [joint, single] = [rest.filter(isEither), rest.filter((words) => !isEither(words))];
  const all = [...has, ...single, ...joint];
  const words = all.length === 1 ? all[0]!.replace(/^either /, "") : all.join(" and ");
  return printable([group ? wordsOf(group.name) : "people", words].filter(Boolean).join(" "));
}

/** When all of these circumstances hold; undefined for at any time. */
export function whenWords(when: readonly Condition[], definitions: Definitions): string | undefined {
  if (when.length === 0) return undefined;
  return printable(when.map((part) => circumstance(part, when.length > 1, definitions)).join(" and "));
}

/** A condition on its own: `plan is "foot" and (trips is more than 5 or contractor is false)`. */
export function conditionWords(condition: Said): string {
  return printable(typeof condition === "string" ? condition : infix(condition, false, false));
}

/** The name of a cohort or a window as words. */
function wordsOf(name: string): string {
  return name.replace(/[-_.]+/g, " ");
}

function isCohort(part: Condition): part is Extract<Condition, { kind: "cohort" }> {
  return part.kind === "cohort";
}

/** What is said of people, one by one: “not (a or b)” is two things. */
function traitsIn(trait: Condition, negated: boolean): string[] {
  if (trait.kind === "not") return traitsIn(trait.part, !negated);
  if (isJoint(trait) && jointOf(trait, negated) === "and")
    return trait.parts.flatMap((part) => traitsIn(part, negated));
  return [traitWords(trait, negated, true)];
}

function isEither(words: string): boolean {
  return words.startsWith("either ");
}

/**
 * Behind the name of people: "whose trips is more than 100", "either whose trips is at least 50 or who are among testers".
 *
 * @param outer false inside of another, where brackets hold it together
 */
function traitWords(trait: Condition, negated: boolean, outer: boolean): string {
  if (trait.kind === "not") return traitWords(trait.part, !negated, outer);
  if (isJoint(trait)) return `${outer ? "either " : "("}${jointWords(trait, negated)}${outer ? "" : ")"}`;
  const { lead, words } = testInWords(trait, negated);
  return `${lead} ${words}`;
}

/** A test behind the name of people: what leads to it, and what it says. */
export function testInWords(test: Test, negated: boolean): { readonly lead: string; readonly words: string } {
  const isOwn = test.kind === "test" && test.operand.kind === "path";
  const lead = test.kind === "cohort" ? "who are" : isOwn ? "whose" : "while";
  return { lead, words: testWords(test, negated) };
}

function jointWords(joint: Joint, negated: boolean): string {
  return joint.parts.map((part) => traitWords(part, negated, false)).join(` ${jointOf(joint, negated)} `);
}

function infix(condition: Condition, negated: boolean, inner: boolean): string {
  if (condition.kind === "not") return infix(condition.part, !negated, inner);
  if (!isJoint(condition)) return testWords(condition, negated);
  const words = condition.parts.map((part) => infix(part, negated, true)).join(` ${jointOf(condition, negated)} `);
  return inner ? `(${words})` : words;
}

function isJoint(condition: Condition): condition is Joint {
  return condition.kind === "and" || condition.kind === "or";
}

/** A negation turns “and” into “or”. */
function jointOf({ kind }: Joint, negated: boolean): "and" | "or" {
  return (kind === "and") === negated ? "or" : "and";
}

function testWords(test: Test, negated: boolean): string {
  switch (test.kind) {
    case "cohort":
      return `${negated ? "known not to be among" : "among"} ${wordsOf(test.name)}`;
    case "window":
      return `${wordsOf(test.name)} is ${negated ? "shut" : "open"}`;
    case "test":
      return attributeWords(test, negated);
  }
}

function attributeWords({ operand, operator, literal }: AttributeTest, negated: boolean): string {
  if (operator === "is-true" && operand.kind === "flag") return `${operand.name} is ${negated ? "off" : "on"}`;
  if (operator === "is-true") return `${printOperand(operand)} is ${!negated}`;
  const said = operators[operator].says[negated ? 1 : 0];
  const known = operand.kind === "path" && hidesTheUndecided(said) ? "is known and " : "";
  const behind = printLiteral(literal).replace(/^\[|\]$/g, "");
  return [printOperand(operand), `${known}${said}`, behind].filter((part) => part !== "").join(" ");
}

/** "is not 5" is said of a person without a number too, of whom the test is undecided: it is true of nobody then. */
function hidesTheUndecided(said: string): boolean {
  return /\bno(?:t|ne)\b/.test(said);
}

/** "during duty hours", "from 1 December 2026", "while storm-mode is off". */
function circumstance(part: Condition, inner: boolean, definitions: Definitions): string {
  const negated = part.kind === "not";
  const test = negated ? part.part : part;
  if (test.kind !== "window") return `while ${infix(part, false, inner)}`;
  const definition = definitions.windows.get(test.name);
  if (negated || !definition || definition.hours !== undefined)
    return `${negated ? "outside" : "during"} ${wordsOf(test.name)}`;
  return boundsOf(definition.window.parts);
}

/** "from 1 December 2026 through 23 December 2026, Atlantic/Faroe time, but for 6 December 2026". */
function boundsOf({ from, until, zone, except }: WindowDefinition["window"]["parts"]): string {
  const bounds = [
    from === undefined ? "" : `from ${writtenDate(from, zone)}`,
    until === undefined ? "" : endWords(until, zone),
  ].filter(Boolean);
  const days = [...except].sort().map((date) => writtenDate(Date.parse(date)));
  const when = bounds.length === 0 ? "at any time" : bounds.join(" ");
  return `${when}, ${zone ?? "UTC"} time${days[0] ? `, but for ${sentenceList(days)}` : ""}`;
}
