import type { Literal, Spanned } from "./literal.ts";
import { type OperatorName, operators } from "./operators.ts";

/** A condition, read: a tree whose leaves are tests. Every node knows its place in the text. */
export type Condition = Group | Negation | Test;

/** Parts joined by `and` or `or`. */
export interface Group extends Spanned {
  readonly kind: "and" | "or";
  readonly parts: readonly Condition[];
}

/** `not` and what it turns round. */
export interface Negation extends Spanned {
  readonly kind: "not";
  readonly part: Condition;
}

/** A test: of an attribute, flag or environment against a literal, of a cohort, or of a window. */
export type Test = AttributeTest | MembershipTest | WindowTest;

export interface MembershipTest extends Spanned {
  readonly kind: "cohort";
  readonly name: string;
}

export interface WindowTest extends Spanned {
  readonly kind: "window";
  readonly name: string;
}

export interface AttributeTest extends Spanned {
  readonly kind: "test";
  readonly operator: OperatorName;
  readonly operand: Operand;
  readonly literal: Literal;
}

export type Operand = PathOperand | FlagOperand | EnvironmentOperand;

export interface PathOperand extends Spanned {
  readonly kind: "path";
  readonly path: readonly string[];
  readonly lower: boolean;
}

export interface FlagOperand extends Spanned {
  readonly kind: "flag";
  readonly name: string;
}

export interface EnvironmentOperand extends Spanned {
  readonly kind: "environment";
}

const grammarWords = ["and", "or", "not", "true", "false", "lower", "environment", "cohort", "window", "flag"];
const operatorWords = Object.keys(operators).flatMap((name) => (/^[a-z ]+$/.test(name) ? name.split(" ") : []));

/** Words that are no names of attributes, unless in brackets. */
export const reservedWords: ReadonlySet<string> = new Set([...grammarWords, ...operatorWords]);

/** Every test of a condition, in the order written. */
export function testsOf(condition: Condition): readonly Test[] {
  const tests: Test[] = [];
  collectTests(condition, tests);
  return tests;
}

function collectTests(condition: Condition, tests: Test[]): void {
  switch (condition.kind) {
    case "and":
    case "or":
      for (const part of condition.parts) collectTests(part, tests);
      return;
    case "not":
      return collectTests(condition.part, tests);
    default:
      tests.push(condition);
  }
}
