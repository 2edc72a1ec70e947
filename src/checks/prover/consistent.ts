import { type Declared, decideFound } from "../../judge/index.ts";
import { type AttributeType, printOperand, printPath } from "../../language/index.ts";
import type { Definitions } from "../../model/index.ts";
import { type Answer, FALSE, TRUE, UNDECIDED } from "../../values/index.ts";
import { candidatesFor, fits } from "./candidates.ts";
import { isLoose, looseTestsClash } from "./loose-texts.ts";
import type { Assumptions, AttributeWanted, Mode, Wanted } from "./wanted.ts";

/** False only if it is proved that no context gives all of these tests the answers wanted of them. */
export function isConsistent(wanted: readonly Wanted[], definitions: Definitions, assumptions: Assumptions): boolean {
  for (const group of groups(wanted).values()) {
    if (!groupIsConsistent(group, definitions, assumptions)) return false;
  }
  return true;
}

/** Tests by what they look at; different attributes do not constrain each other. */
function groups(wanted: readonly Wanted[]): Map<string, Wanted[]> {
  const byOperand = new Map<string, Wanted[]>();
  for (const each of wanted) {
    const key = subjectOf(each);
    const group = byOperand.get(key);
    if (group) group.push(each);
    else byOperand.set(key, [each]);
  }
  return byOperand;
}

function subjectOf({ test }: Wanted): string {
  if (test.kind !== "test") return `${test.kind}:${test.name}`;
  return test.operand.kind === "path" ? `path:${printPath(test.operand.path)}` : printOperand(test.operand);
}

function groupIsConsistent(group: readonly Wanted[], definitions: Definitions, assumptions: Assumptions): boolean {
  const [first] = group;
  const { test } = first!;
  if (test.kind === "window") return someAnswer([TRUE, FALSE], group);
  if (test.kind === "cohort") return someAnswer([TRUE, FALSE, UNDECIDED], group);
  const tests = group as readonly AttributeWanted[];
  switch (test.operand.kind) {
    case "environment":
      return environments(definitions, assumptions).some((name) => allAnswered(tests, name));
    case "flag":
      return flagIsConsistent(tests, test.operand.name, definitions);
    case "path":
      return attributeIsConsistent(tests, printPath(test.operand.path), definitions, assumptions);
  }
}

function environments(definitions: Definitions, assumptions: Assumptions): readonly (string | undefined)[] {
  if (assumptions.environments) return assumptions.environments;
  // A set that declares none can be opened for any, or for none.
  return definitions.environments.size > 0 ? [...definitions.environments.keys()] : [undefined, "any"];
}

function someAnswer(answers: readonly Answer[], group: readonly Wanted[]): boolean {
  return answers.some((answer) => group.every(({ mode }) => satisfies(answer, mode)));
}

export function satisfies(answer: Answer, mode: Mode): boolean {
  switch (mode) {
    case "true":
      return answer === TRUE;
    case "false":
      return answer === FALSE;
    case "not-true":
      return answer !== TRUE;
    case "not-false":
      return answer !== FALSE;
  }
}

function allAnswered(tests: readonly AttributeWanted[], value: unknown, declared?: Declared): boolean {
  return tests.every(({ test, mode }) => satisfies(decideFound(test, declared)(value), mode));
}

/** An override by plain value may leave a flag without a variant, so `undefined` is among them. */
function flagIsConsistent(tests: readonly AttributeWanted[], name: string, definitions: Definitions): boolean {
  const flag = definitions.flags.get(name);
  if (!flag) return true;
  if (flag.variants) return [undefined, ...flag.variants.keys()].some((variant) => allAnswered(tests, variant));
  if (flag.type === "yes-no") return [true, false].some((value) => allAnswered(tests, value));
  return attributeIsConsistent(tests, "", definitions, {});
}

function attributeIsConsistent(
  tests: readonly AttributeWanted[],
  path: string,
  definitions: Definitions,
  assumptions: Assumptions,
): boolean {
  const attribute = definitions.attributes.get(path);
  const type = assumptions.declaredTypes ? attribute?.type : undefined;
  const candidates = candidatesFor(
    tests.map(({ test }) => test),
    attribute?.ignoreCase === true,
  );
  if (candidates === undefined) return true;
  const possible = type === undefined ? candidates : candidates.filter((value) => fits(value, type));
  if (possible.some((value) => allAnswered(tests, value, attribute))) return true;
  return textsMayDo(tests, possible, attribute, type);
}

/**
 * Tests for the beginning, end, middle or pattern of a text can be met by texts that no list of candidates holds. A
 * text that meets the other tests is taken to be able to meet these too, unless two of them clash outright, or the
 * texts that come into question are few and known.
 */
function textsMayDo(
  tests: readonly AttributeWanted[],
  candidates: readonly unknown[],
  declared: Declared | undefined,
  type: AttributeType | undefined,
): boolean {
  const loose = tests.filter(({ test }) => isLoose(test));
  const ignoresCase = declared?.ignoreCase === true;
  if (loose.length === 0 || looseTestsClash(loose, ignoresCase) || (type !== undefined && !holdsTexts(type)))
    return false;
  if (Array.isArray(type) || tests.some((wanted) => !ignoresCase && namesItsTexts(wanted))) return false;
  const others = tests.filter(({ test }) => !isLoose(test));
  return candidates.some((value) => typeof value === "string" && allAnswered(others, value, declared));
}

/** Types whose values can be texts. */
function holdsTexts(type: AttributeType): boolean {
  return type !== "number" && type !== "yes-no" && type !== "list";
}

/** `== "x"` and `in ["x", "y"]`, when they must be true, leave only texts that are candidates. */
function namesItsTexts({ test, mode }: AttributeWanted): boolean {
  if (test.operand.kind === "path" && test.operand.lower) return false;
  const positive = test.operator === "==" || test.operator === "in";
  const negative = test.operator === "!=" || test.operator === "not in";
  const isText = test.literal.kind === "text" || test.literal.kind === "list";
  return isText && ((positive && mode === "true") || (negative && mode === "false"));
}
