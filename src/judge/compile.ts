import { decideOf, isMissing } from "../language/operators.ts";
import { printPath } from "../language/print.ts";
import type { AttributeTest, Condition, PathOperand, Test } from "../language/tree.ts";
import { type Answer, FALSE, opposite, TRUE } from "../values/answer.ts";
import { readerOf } from "./context/reader.ts";
import { type Ask, leafOf } from "./leaves.ts";
import type { Question } from "./question.ts";

/** What a condition refers to, resolved while compiling. */
export interface Surroundings {
  readonly environment: string | undefined;
  cohort(name: string): Ask;
  window(name: string): Ask;
  /** The variant name or value that another flag gives. */
  flag(name: string): (question: Question) => unknown;
  /** What stands in for a missing attribute, by canonical path; undefined where no attribute is declared. */
  readonly missingAs: ((path: string) => unknown) | undefined;
}

export type Read = (question: Question) => unknown;

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
  const asksPresence = test.operator === "is missing" || test.operator === "is present";
  const missingAs = asksPresence ? undefined : around.missingAs?.(printPath(operand.path));
  const lower = operand.lower && !asksPresence;
  if (!lower && missingAs === undefined) return leafOf(test, operand.path, negated);
  const read = readerOf(operand.path);
  const decide = decideOf(test, negated);
  return (question) => decide(seenValue(read(question.context), missingAs, lower));
}

/** The value that a test sees: `missing-as` put in, lower case taken. */
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
