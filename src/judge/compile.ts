import {
  type AttributeTest,
  asksPresence,
  type Condition,
  type Decide,
  decideOf,
  inLowerCase,
  isMissing,
  type Literal,
  longestList,
  type PathOperand,
  printPath,
  type Test,
} from "../language/index.ts";
import { type Answer, FALSE, opposite, TRUE } from "../values/index.ts";
import type { Ask } from "./ask.ts";
import { readerOf } from "./context/reader.ts";
import { fusedLeaf } from "./fast/leaves.ts";
import type { Question } from "./question.ts";

/** What a condition refers to, resolved while compiling. */
export interface Surroundings {
  readonly environment: string | undefined;
  cohort(name: string): Ask;
  window(name: string): Ask;
  /** The variant name or value that another flag gives. */
  flag(name: string): (question: Question) => unknown;
  /** What a declaration says of an attribute, by canonical path. */
  attribute(path: string): Declared | undefined;
}

/** The part of a declaration that judging goes by. */
export interface Declared {
  /** What stands in where the attribute is missing. */
  readonly missingAs: unknown;
  readonly ignoreCase: boolean;
}

/**
 * Turns a condition into a closure; everything that can be settled before asking is settled here.
 *
 * `not` costs nothing: it is carried down to the tests by De Morgan's laws, which hold for three answers too, and a
 * test is compiled with its answers turned round.
 */
export function compileCondition(condition: Condition, around: Surroundings, negated = false): Ask {
  switch (condition.kind) {
    case "and":
    case "or": {
      const { parts } = condition;
      const asks = new Array<Ask>(parts.length);
      for (let i = 0; i < parts.length; i++) asks[i] = compileCondition(parts[i]!, around, negated);
      return (condition.kind === "and") === negated ? anyOf(asks) : allOf(asks);
    }
    case "not":
      return compileCondition(condition.part, around, !negated);
    default:
      return compileTest(condition, around, negated);
  }
}

export function compileTest(test: Test, around: Surroundings, negated = false): Ask {
  if (test.kind === "cohort") return turned(around.cohort(test.name), negated);
  if (test.kind === "window") return turned(around.window(test.name), negated);
  const { operand } = test;
  switch (operand.kind) {
    case "environment": {
      const answer = decideOf(test, negated)(around.environment);
      return () => answer;
    }
    case "flag": {
      const decide = decideOf(test, negated);
      const read = around.flag(operand.name);
      return (question) => decide(read(question));
    }
    case "path":
      return compilePathTest(test, operand, around, negated);
  }
}

function turned(ask: Ask, negated: boolean): Ask {
  return negated ? (question) => opposite(ask(question)) : ask;
}

function compilePathTest(test: AttributeTest, operand: PathOperand, around: Surroundings, negated: boolean): Ask {
  const read = readerOf(operand.path);
  const seeing = seeingOf(test, operand, around.attribute(printPath(operand.path)));
  if (!seeing) {
    const fused = fusedLeaf(test, read, negated);
    if (fused) return fused;
    const decide = decideOf(test, negated);
    return (question) => decide(read(question.context));
  }
  const decide = decideOf({ operator: test.operator, literal: seeing.literal }, negated);
  return (question) => decide(seeing.see(read(question.context)));
}

/** How a test sees an attribute that is not taken as it stands. */
export interface Seeing {
  see(found: unknown): unknown;
  readonly literal: Literal;
}

/** `missing-as` put in, case taken away; undefined where the value is seen as it is. */
export function seeingOf(
  { operator, literal }: AttributeTest,
  { lower }: { readonly lower: boolean },
  declared: Declared | undefined,
): Seeing | undefined {
  if (asksPresence(operator)) return undefined;
  const missingAs = declared?.missingAs;
  const ignoresCase = declared?.ignoreCase === true;
  if (!lower && !ignoresCase && missingAs === undefined) return undefined;
  const asItStands = ignoresCase && (literal.kind === "version" || literal.kind === "time");
  const see = asItStands ? asIs : lower ? lowered : ignoresCase && literal.kind !== "regex" ? lowerTexts : asIs;
  return {
    see: (found) => see(isMissing(found) && missingAs !== undefined ? missingAs : found),
    literal: ignoresCase ? inLowerCase(literal) : literal,
  };
}

/** The answer of a test as a function of what was found, case and `missing-as` taken into account. */
export function decideFound(test: AttributeTest, declared: Declared | undefined): Decide {
  const seeing = test.operand.kind === "path" ? seeingOf(test, test.operand, declared) : undefined;
  if (!seeing) return decideOf(test);
  const decide = decideOf({ operator: test.operator, literal: seeing.literal });
  return (found) => decide(seeing.see(found));
}

function asIs(value: unknown): unknown {
  return value;
}

/** What `lower()` makes of a value: texts only have a lower case. */
function lowered(value: unknown): unknown {
  return typeof value === "string" ? value.toLowerCase() : undefined;
}

/** A text in lower case, or a list with its texts so. */
function lowerTexts(value: unknown): unknown {
  if (typeof value === "string") return value.toLowerCase();
  if (!Array.isArray(value) || value.length > longestList) return value;
  const copy: unknown[] = [];
  for (let i = 0; i < value.length; i++) {
    const item: unknown = value[i];
    copy.push(typeof item === "string" ? item.toLowerCase() : item);
  }
  return copy;
}

function allOf(asks: readonly Ask[]): Ask {
  if (asks.length === 2) {
    const [first, second] = asks as [Ask, Ask];
    return (question) => {
      const a = first(question);
      if (a === FALSE) return FALSE;
      const b = second(question);
      return b < a ? b : a;
    };
  }
  return (question) => {
    let answer: Answer = TRUE;
    for (let i = 0; i < asks.length; i++) {
      const next = asks[i]!(question);
      if (next === FALSE) return FALSE;
      if (next < answer) answer = next;
    }
    return answer;
  };
}

function anyOf(asks: readonly Ask[]): Ask {
  if (asks.length === 2) {
    const [first, second] = asks as [Ask, Ask];
    return (question) => {
      const a = first(question);
      if (a === TRUE) return TRUE;
      const b = second(question);
      return b > a ? b : a;
    };
  }
  return (question) => {
    let answer: Answer = FALSE;
    for (let i = 0; i < asks.length; i++) {
      const next = asks[i]!(question);
      if (next === TRUE) return TRUE;
      if (next > answer) answer = next;
    }
    return answer;
  };
}
