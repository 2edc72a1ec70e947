import { type AttributeTest, inLowerCase, operators } from "../../language/index.ts";
import type { AttributeWanted } from "./wanted.ts";

/** Tests that infinitely many texts can meet. */
export function isLoose({ operator, literal }: AttributeTest): boolean {
  return operators[operator].tellsApart(literal).includes("parts of texts");
}

/** Do two of these tests exclude each other for every text? Only clashes that are plain to see count. */
export function looseTestsClash(tests: readonly AttributeWanted[], ignoresCase: boolean): boolean {
  const seen = ignoresCase ? tests.map(inLowerCaseToo) : tests;
  return seen.some((a, i) => seen.some((b, j) => i !== j && clash(a, b)));
}

function inLowerCaseToo({ test, mode }: AttributeWanted): AttributeWanted {
  const operand = test.operand.kind === "path" ? { ...test.operand, lower: true } : test.operand;
  return { test: { ...test, operand, literal: inLowerCase(test.literal) }, mode };
}

function clash(a: AttributeWanted, b: AttributeWanted): boolean {
  const aHolds = a.mode === "true" || a.mode === "not-false";
  const bHolds = b.mode === "true" || b.mode === "not-false";
  if (!aHolds || loweredDiffer(a.test, b.test)) return false;
  return bHolds ? excludes(a.test, b.test) : implies(a.test, b.test);
}

function loweredDiffer(a: AttributeTest, b: AttributeTest): boolean {
  const lower = (test: AttributeTest) => test.operand.kind === "path" && test.operand.lower;
  return lower(a) !== lower(b);
}

function textOf({ literal }: AttributeTest): string {
  return literal.kind === "text" ? literal.value : "";
}

/** No text begins, or ends, in two ways of which neither goes on from the other. */
function excludes(a: AttributeTest, b: AttributeTest): boolean {
  if (a.operator !== b.operator) return false;
  const [x, y] = [textOf(a), textOf(b)];
  if (a.operator === "starts with") return !x.startsWith(y) && !y.startsWith(x);
  return a.operator === "ends with" && !x.endsWith(y) && !y.endsWith(x);
}

/** Whenever `a` holds, so does `b`. */
function implies(a: AttributeTest, b: AttributeTest): boolean {
  const [x, y] = [textOf(a), textOf(b)];
  switch (b.operator) {
    case "starts with":
      return a.operator === "starts with" && x.startsWith(y);
    case "ends with":
      return a.operator === "ends with" && x.endsWith(y);
    case "contains":
      return a.operator !== "matches" && x.includes(y);
    case "matches":
      return samePattern(a, b);
    default:
      return false;
  }
}

function samePattern(a: AttributeTest, b: AttributeTest): boolean {
  if (a.literal.kind !== "regex" || b.literal.kind !== "regex") return false;
  return a.literal.pattern === b.literal.pattern && a.literal.ignoreCase === b.literal.ignoreCase;
}
