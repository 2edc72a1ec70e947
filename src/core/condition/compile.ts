import { isInherited } from "../context/reach.ts";
import { readPath } from "../context/subject.ts";
import type { Question } from "../judge/question.ts";
import { type Answer, FALSE, opposite, TRUE } from "./answer.ts";
import { type Ask, leafOf } from "./leaves.ts";
import { printPath } from "./print.ts";
import type { AttributeTest, Condition, PathOperand, Test } from "./tree.ts";
import { decideOf, isMissing } from "./values.ts";

/** What a condition refers to, resolved while compiling. */
export interface Surroundings {
  readonly environment: string | undefined;
  cohort(name: string): Ask;
  window(name: string): Ask;
  /** The variant name or value that another flag gives. */
  flag(name: string): (question: Question) => unknown;
  /** What stands in for a missing attribute, by canonical path. */
  missingAs(path: string): unknown;
}

export type Read = (question: Question) => unknown;

/** Turns a condition into a closure; everything that can be settled before asking is settled here. */
export function compileCondition(condition: Condition, around: Surroundings): Ask {
  switch (condition.kind) {
    case "and":
      return allOf(condition.parts.map((part) => compileCondition(part, around)));
    case "or":
      return anyOf(condition.parts.map((part) => compileCondition(part, around)));
    case "not": {
      const ask = compileCondition(condition.part, around);
      return (question) => opposite(ask(question));
    }
    default:
      return compileTest(condition, around);
  }
}

export function compileTest(test: Test, around: Surroundings): Ask {
  if (test.kind === "cohort") return around.cohort(test.name);
  if (test.kind === "window") return around.window(test.name);
  const { operand } = test;
  const decide = decideOf(test);
  switch (operand.kind) {
    case "environment": {
      const answer = decide(around.environment);
      return () => answer;
    }
    case "flag": {
      const read = around.flag(operand.name);
      return (question) => decide(read(question));
    }
    case "path":
      return compilePathTest(test, operand, around);
  }
}

function compilePathTest(test: AttributeTest, operand: PathOperand, around: Surroundings): Ask {
  const asksPresence = test.operator === "is missing" || test.operator === "is present";
  const missingAs = asksPresence ? undefined : around.missingAs(printPath(operand.path));
  const lower = operand.lower && !asksPresence;
  if (!lower && missingAs === undefined) return leafOf(test, operand.path);
  const read = reader(operand, missingAs, lower);
  const decide = decideOf(test);
  return (question) => decide(read(question));
}

/** The value that a test sees: `missing-as` put in, lower case taken. */
function reader(operand: PathOperand, missingAs: unknown, lower: boolean): Read {
  const { path } = operand;
  const direct = path.length === 1 && !isInherited(path[0]!) ? path[0]! : undefined;
  return (question) => {
    const found = direct === undefined ? readPath(question.context, path) : question.context[direct];
    return seenValue(found, missingAs, lower);
  };
}

export function seenValue(found: unknown, missingAs: unknown, lower: boolean): unknown {
  const value = isMissing(found) && missingAs !== undefined ? missingAs : found;
  if (!lower) return value;
  return typeof value === "string" ? value.toLowerCase() : undefined;
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
