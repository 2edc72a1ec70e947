import type { TimeLiteral } from "../values/time.ts";
import type { VersionLiteral } from "../values/version.ts";

/** Offsets into the condition's text, in UTF-16 units; the end is not included. */
export interface Spanned {
  readonly start: number;
  readonly end: number;
}

export type Condition = Group | Negation | Test;

export interface Group extends Spanned {
  readonly kind: "and" | "or";
  readonly parts: readonly Condition[];
}

export interface Negation extends Spanned {
  readonly kind: "not";
  readonly part: Condition;
}

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

export type OperatorName =
  | "is-true"
  | "is missing"
  | "is present"
  | "=="
  | "!="
  | "<"
  | "<="
  | ">"
  | ">="
  | "in"
  | "not in"
  | "contains"
  | "overlaps"
  | "covers"
  | "starts with"
  | "ends with"
  | "matches";

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

export type Scalar = string | number | boolean;

export type Literal =
  | ({ readonly kind: "none" } & Spanned)
  | ({ readonly kind: "text"; readonly value: string } & Spanned)
  | ({ readonly kind: "number"; readonly value: number; readonly source: string } & Spanned)
  | ({ readonly kind: "yes-no"; readonly value: boolean } & Spanned)
  | ({ readonly kind: "version"; readonly value: VersionLiteral } & Spanned)
  | ({ readonly kind: "time"; readonly value: TimeLiteral } & Spanned)
  | ({ readonly kind: "list"; readonly items: readonly ScalarLiteral[] } & Spanned)
  | ({ readonly kind: "regex"; readonly pattern: string; readonly ignoreCase: boolean } & Spanned);

export type ScalarLiteral = Extract<Literal, { kind: "text" | "number" | "yes-no" }>;

export const reservedWords: ReadonlySet<string> = new Set(
  "and or not in is contains overlaps covers starts ends with matches missing present true false lower environment cohort window flag".split(
    " ",
  ),
);

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
