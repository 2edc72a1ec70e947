import { type Condition, type Group, parseCondition, type Test } from "../../language/index.ts";
import { testInWords } from "../sentence/condition-words.ts";

/** A test of a condition as a word of a sentence: what leads to it, what it says, and its own place in the text. */
export interface ConditionLine {
  /** What joins it to the one before; undefined for the first. */
  readonly joint: Joint | undefined;
  /** Said in front of the first of some that belong together: “either”, “both”. */
  readonly opens: string | undefined;
  /** “whose”, “who are” or “while”. */
  readonly lead: string;
  readonly words: string;
  /** Its place in the text, with the `not` before it. */
  readonly start: number;
  readonly end: number;
  readonly isNot: boolean;
  /** How many groups it stands in. */
  readonly depth: number;
}

/** The word between two parts of a group, which can be turned for the whole group. */
export interface Joint {
  readonly kind: "and" | "or";
  readonly group: Group;
}

/** Groups in groups deeper than this are not told line by line. */
const deepest = 3;

/** A condition test by test, in the order written; undefined for one that has no such words. */
export function conditionLines(condition: Condition): readonly ConditionLine[] | undefined {
  const lines: ConditionLine[] = [];
  return collect(condition, undefined, undefined, 1, lines) ? lines : undefined;
}

function collect(
  node: Condition,
  joint: Joint | undefined,
  opens: string | undefined,
  depth: number,
  into: ConditionLine[],
): boolean {
  if (node.kind === "and" || node.kind === "or") {
    if (depth > deepest) return false;
    const inner = depth === 1 ? undefined : node.kind === "or" ? "either" : "both";
    return node.parts.every((part, i) =>
      collect(
        part,
        i === 0 ? joint : { kind: node.kind, group: node },
        i === 0 ? (opens ?? inner) : undefined,
        depth + 1,
        into,
      ),
    );
  }
  const isNot = node.kind === "not";
  const test = isNot ? node.part : node;
  if (!isTest(test)) return false;
  const { start, end } = node;
  into.push({ joint, opens, ...testInWords(test, isNot), start, end, isNot, depth: Math.max(1, depth - 1) });
  return true;
}

function isTest(node: Condition): node is Test {
  return node.kind !== "and" && node.kind !== "or" && node.kind !== "not";
}

/** The text with another one at a place; the rest stays letter by letter. */
export function replacedAt(
  text: string,
  { start, end }: { readonly start: number; readonly end: number },
  by: string,
): string {
  return `${text.slice(0, start)}${by}${text.slice(end)}`;
}

/** The text with one test more, which must hold as well. */
export function withTest(text: string, test: string): string {
  if (text.trim() === "") return test;
  return parseCondition(text).condition?.kind === "or" ? `(${text}) and ${test}` : `${text} and ${test}`;
}

/** The text without the test at this place; empty where it was the only one. */
export function withoutTest(text: string, start: number): string {
  const { condition } = parseCondition(text);
  const group = condition && groupAround(condition, start);
  if (!group) return "";
  const index = group.parts.findIndex((part) => part.start === start);
  const [gone, before, after] = [group.parts[index]!, group.parts[index - 1], group.parts[index + 1]];
  const from = before ? before.end : gone.start;
  const to = before ? gone.end : after!.start;
  return replacedAt(text, { start: from, end: to }, "");
}

/** The text with the parts of a group joined by the other word. */
export function turned(text: string, { kind, parts }: Group): string {
  let made = text;
  for (let i = parts.length - 1; i > 0; i--) {
    const gap = { start: parts[i - 1]!.end, end: parts[i]!.start };
    const said = text.slice(gap.start, gap.end).replace(kind, kind === "and" ? "or" : "and");
    made = replacedAt(made, gap, said);
  }
  return made;
}

/** The group one of whose own parts begins there. */
function groupAround(node: Condition, start: number): Group | undefined {
  if (node.kind !== "and" && node.kind !== "or") return undefined;
  for (const part of node.parts) {
    const inner = groupAround(part, start);
    if (inner) return inner;
  }
  return node.parts.some((part) => part.start === start && part.kind !== "and" && part.kind !== "or")
    ? node
    : undefined;
}
