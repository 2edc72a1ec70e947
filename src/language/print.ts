import type { Literal } from "./literal.ts";
import { type Condition, type Operand, reservedWords, type Test } from "./tree.ts";

/**
 * The canonical text of a condition: one blank between words, double quotes, only the brackets that the tree needs.
 * Reading it gives the same tree back, offsets aside.
 */
export function printCondition(condition: Condition): string {
  switch (condition.kind) {
    case "and":
    case "or":
      return condition.parts.map((part) => printPart(part, condition.kind)).join(` ${condition.kind} `);
    case "not":
      return `not ${printPart(condition.part, "not")}`;
    default:
      return printTest(condition);
  }
}

function printPart(part: Condition, inside: "and" | "or" | "not"): string {
  const needsBrackets = part.kind === "or" || (part.kind === "and" && inside !== "or");
  return needsBrackets ? `(${printCondition(part)})` : printCondition(part);
}

export function printTest(test: Test): string {
  if (test.kind !== "test") return `${test.kind}:${test.name}`;
  const operand = printOperand(test.operand);
  if (test.operator === "is-true") return operand;
  if (test.literal.kind === "none") return `${operand} ${test.operator}`;
  return `${operand} ${test.operator} ${printLiteral(test.literal)}`;
}

export function printOperand(operand: Operand): string {
  switch (operand.kind) {
    case "path":
      return operand.lower ? `lower(${printPath(operand.path)})` : printPath(operand.path);
    case "flag":
      return `flag:${operand.name}`;
    case "environment":
      return "environment";
  }
}

/** `account.id`, `claims["quay:groups"]`, `["2fa"]`: the spelling by which two paths are the same attribute. */
export function printPath(path: readonly string[]): string {
  return path
    .map((segment, i) => {
      if (!isSegment(segment)) return `[${printText(segment)}]`;
      return i === 0 ? segment : `.${segment}`;
    })
    .join("");
}

function isSegment(text: string): boolean {
  return /^[A-Za-z_][A-Za-z0-9_-]*$/.test(text) && !/^v[0-9]/.test(text) && !reservedWords.has(text);
}

export function printLiteral(literal: Literal): string {
  switch (literal.kind) {
    case "none":
      return "";
    case "text":
      return printText(literal.value);
    case "number":
      return literal.source;
    case "yes-no":
      return String(literal.value);
    case "version":
    case "time":
      return literal.value.source;
    case "list":
      return `[${literal.items.map(printLiteral).join(", ")}]`;
    case "regex":
      return `/${printPattern(literal.pattern)}/${literal.ignoreCase ? "i" : ""}`;
  }
}

function printText(text: string): string {
  return JSON.stringify(text);
}

/** Slashes are escaped, and so is nothing else: `\` keeps its own partner. */
function printPattern(pattern: string): string {
  return pattern.replace(/\\[\s\S]|\//g, (part) => (part === "/" ? "\\/" : part));
}
