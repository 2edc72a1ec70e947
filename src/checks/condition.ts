import {
  type AttributeTest,
  type AttributeType,
  type Condition,
  type Literal,
  type Operand,
  operators,
  printOperand,
  printPath,
  textsOf,
  type ValueClass,
} from "../language/index.ts";
import type { ProblemCode, ProblemDetails, Span } from "../problems/index.ts";
import { didYouMean, nearest, noSuch, parseTime, parseVersion, sentenceList } from "../values/index.ts";
import type { NamedKind, Unread } from "./unread.ts";

/** What a condition may name. */
export interface Scope {
  /** The declaration of an attribute by canonical path; undefined where it is not declared. */
  attribute(path: string): DeclaredAttribute | undefined;
  readonly attributeNames: readonly string[];
  readonly cohorts: ReadonlySet<string>;
  readonly windows: ReadonlySet<string>;
  readonly environments: ReadonlySet<string>;
  /** The type of what `flag:name` is, or undefined for a flag that nobody defines. */
  flag(name: string): FlagOperandType | undefined;
  readonly flagNames: readonly string[];
  /** True of what a file names and could not be read, or may name in a file that is missing: that proves nothing. */
  mayExist(kind: NamedKind, name: string): boolean;
  readonly unread: Unread;
}

export interface DeclaredAttribute {
  readonly type: AttributeType;
  readonly ignoreCase: boolean;
}

/** Variant names where a flag has variants; "unknown" when its definition is itself at fault. */
export type FlagOperandType = "yes-no" | "number" | "text" | "data" | "unknown" | readonly string[];

export type Report = (code: ProblemCode, span: Span, details: ProblemDetails) => void;

/** Checks names and types of every test; what cannot be decided by any value of its declared type is an error. */
export function checkCondition(condition: Condition, scope: Scope, report: Report): void {
  switch (condition.kind) {
    case "and":
    case "or":
      for (const part of condition.parts) checkCondition(part, scope, report);
      return;
    case "not":
      return checkCondition(condition.part, scope, report);
    case "cohort":
      return reportUnknown("cohort", condition.name, scope.cohorts, condition, scope, report);
    case "window":
      return reportUnknown("window", condition.name, scope.windows, condition, scope, report);
    case "test":
      return checkTest(condition, scope, report);
  }
}

function reportUnknown(
  what: "cohort" | "window" | "flag",
  name: string,
  known: ReadonlySet<string>,
  span: Span,
  scope: Scope,
  report: Report,
): void {
  if (known.has(name) || scope.mayExist(what, name)) return;
  report(`unknown-${what}`, span, {
    message: noSuch(what, name),
    found: name,
    expected: `the name of a ${what} of this set`,
    help: didYouMean(name, known, `${what}:`),
  });
}

function checkTest(test: AttributeTest, scope: Scope, report: Report): void {
  if (!ignoresCase(test.operand, scope)) warnOfCapitals(test, report);
  const type = typeOfOperand(test.operand, scope, report);
  if (type === undefined) return;
  if (test.operand.kind === "environment") checkEnvironmentLiteral(test, scope, report);
  const reason = whyNeverDecided(test, type);
  if (reason) report(reason.code, test.literal.kind === "none" ? test : test.literal, reason.details);
  else if (Array.isArray(type)) warnOfUnlistedText(test, type, ignoresCase(test.operand, scope), report);
}

function ignoresCase(operand: Operand, scope: Scope): boolean {
  return operand.kind === "path" && scope.attribute(printPath(operand.path))?.ignoreCase === true;
}

function warnOfCapitals(test: AttributeTest, report: Report): void {
  if (test.operand.kind !== "path" || !test.operand.lower) return;
  for (const literal of textsOf(test.literal)) {
    const lowered = literal.value.toLowerCase();
    if (lowered === literal.value) continue;
    report("lower-with-capitals", literal, {
      message: "A lower-case text is never equal to one with capitals.",
      found: literal.value,
      expected: "a text without capitals",
      help: `write ${JSON.stringify(lowered)}`,
    });
  }
}

type OperandType = AttributeType | FlagOperandType;

function typeOfOperand(operand: Operand, scope: Scope, report: Report): OperandType | undefined {
  switch (operand.kind) {
    case "environment":
      return "text";
    case "flag": {
      const type = scope.flag(operand.name);
      if (type === undefined) reportUnknown("flag", operand.name, new Set(scope.flagNames), operand, scope, report);
      return type === "unknown" ? undefined : type;
    }
    case "path": {
      if (scope.attributeNames.length === 0) return undefined;
      const path = printPath(operand.path);
      const declared = scope.attribute(path);
      if (declared === undefined) reportUndeclared(path, operand, scope, report);
      return declared?.type;
    }
  }
}

export function reportUndeclared(path: string, span: Span, scope: Scope, report: Report): void {
  if (scope.mayExist("attribute", path)) return;
  const near = nearest(path, scope.attributeNames) ?? scope.attributeNames.find((name) => name.endsWith(`.${path}`));
  report("undeclared-attribute", span, {
    message: `The attribute “${path}” is not declared.`,
    found: path,
    expected: `one of ${sentenceList(scope.attributeNames, "or")}`,
    help: near ? `did you mean ${near}?` : "declare it under “attributes”",
  });
}

function checkEnvironmentLiteral(test: AttributeTest, scope: Scope, report: Report): void {
  if (!operators[test.operator].equates) return;
  for (const { value, start, end } of textsOf(test.literal)) {
    if (scope.environments.has(value) || scope.mayExist("environment", value)) continue;
    report("unknown-environment", { start, end }, noEnvironment(value, scope.environments));
  }
}

/** What to say of an environment that nobody declares. */
export function noEnvironment(name: string, known: ReadonlySet<string>): ProblemDetails {
  return {
    message: noSuch("environment", name),
    found: name,
    expected: known.size ? `one of ${sentenceList([...known], "or")}` : "an environment declared under “environments”",
    help: didYouMean(name, known),
  };
}

function classesOf(type: OperandType): readonly ValueClass[] {
  switch (type) {
    case "number":
      return ["number"];
    case "yes-no":
      return ["yes-no"];
    case "list":
      return ["list"];
    case "data":
      return ["list", "object"];
    case "time":
      return ["date", "text", "number"];
    default:
      return ["text"];
  }
}

interface Reason {
  readonly code: ProblemCode;
  readonly details: ProblemDetails;
}

function whyNeverDecided(test: AttributeTest, type: OperandType): Reason | undefined {
  const decided = operators[test.operator].decides(test.literal);
  if (decided === "all") return undefined;
  const lowered = test.operand.kind === "path" && test.operand.lower;
  const classes = lowered ? classesOf(type).filter((c) => c === "text") : classesOf(type);
  if (!classes.some((c) => decided.includes(c))) return impossible(test, type);
  if (Array.isArray(type) && !someTextReadable(test.literal, type)) return impossible(test, type);
  return undefined;
}

/** Against a version or a time, at least one of a closed set of texts must be readable as one. */
function someTextReadable(literal: Literal, texts: readonly string[]): boolean {
  if (literal.kind === "version") return texts.some((text) => parseVersion(text) !== undefined);
  if (literal.kind === "time") return texts.some((text) => !Number.isNaN(parseTime(text)));
  return true;
}

function impossible(test: AttributeTest, type: OperandType): Reason {
  const operand = printOperand(test.operand);
  const { literal } = test;
  if (test.operator === "is-true" && test.operand.kind === "flag") {
    return {
      code: "impossible-test",
      details: {
        message: `“${operand}” stands alone, but that flag gives ${describeGiven(type)}, not a yes-no.`,
        found: describeGiven(type),
        expected: "a comparison with a value",
      },
    };
  }
  if (type === "version" && literal.kind === "number") {
    return {
      code: "number-for-version",
      details: {
        message: `“${operand}” is declared as a version, which a number is not.`,
        found: literal.source,
        expected: "a version",
        help: `write v${literal.source.replace(/^-/, "")}`,
      },
    };
  }
  const described =
    test.operand.kind === "flag" ? `the flag gives ${describeGiven(type)}` : `it is declared as ${describeType(type)}`;
  return {
    code: "impossible-test",
    details: {
      message: `No value of “${operand}” can decide this: ${described}.`,
      found: literal.kind === "none" ? "a yes-no on its own" : `${test.operator} with ${describeLiteral(literal)}`,
      expected: `a test that fits ${describeType(type)}`,
    },
  };
}

function describeType(type: OperandType): string {
  return typeof type === "string" ? type : `one of ${sentenceList([...type], "or")}`;
}

/** What a flag gives, in words. */
function describeGiven(type: OperandType): string {
  return type === "yes-no" || type === "number" || type === "text" ? `a ${type}` : describeType(type);
}

function describeLiteral(literal: Literal): string {
  switch (literal.kind) {
    case "list":
      return `a list of ${literal.items[0]!.kind === "yes-no" ? "yes-nos" : `${literal.items[0]!.kind}s`}`;
    case "regex":
      return "a regular expression";
    default:
      return `a ${literal.kind}`;
  }
}

function warnOfUnlistedText(test: AttributeTest, texts: readonly string[], ignoreCase: boolean, report: Report): void {
  if (!operators[test.operator].equates) return;
  const lowered = ignoreCase || (test.operand.kind === "path" && test.operand.lower);
  const held = lowered ? texts.map((text) => text.toLowerCase()) : texts;
  for (const literal of textsOf(test.literal)) {
    if (held.includes(ignoreCase ? literal.value.toLowerCase() : literal.value)) continue;
    const near = nearest(literal.value, held);
    report("unlisted-text", literal, {
      message: `“${printOperand(test.operand)}” is never ${JSON.stringify(literal.value)}: ${
        test.operand.kind === "flag" ? "that is none of its variants" : "its declaration does not list it"
      }.`,
      found: literal.value,
      expected: `one of ${sentenceList([...held], "or")}`,
      help: near && `did you mean ${JSON.stringify(near)}?`,
    });
  }
}
