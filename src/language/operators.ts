import {
  type Answer,
  compareWithVersion,
  compilePattern,
  FALSE,
  opposite,
  readTime,
  TRUE,
  UNDECIDED,
  type VersionLiteral,
  yes,
} from "../values/index.ts";
import { itemsOf, type Literal, type Scalar, scalarOf } from "./literal.ts";
import type { AttributeType } from "./types.ts";

/** Answers a test for a value that has been read; missing is `undefined` or `null`. */
export type Decide = (value: unknown) => Answer;

/** Classes of values, as a test tells them apart. */
export type ValueClass = "text" | "number" | "yes-no" | "list" | "date" | "object";

/** What an operator takes behind it. */
export type Takes = "nothing" | "comparand" | "ordered" | "list" | "scalar" | "text" | "regex";

/** Everything that is known of one operator: a new one is a row of `operators`, and nothing else of the language. */
export interface Operator {
  readonly takes: Takes;
  /** The classes of values that it can decide; of any other it is undecided. */
  readonly decides: (literal: Literal) => readonly ValueClass[] | "all";
  /** Its answer as a function of the value: the one meaning that judging, explaining and proving share. */
  readonly decide: (literal: Literal) => Decide;
  /** How people say it, and how they say its opposite. */
  readonly says: readonly [string, string];
  /** Which values could tell its answers apart, so that the prover tries them. */
  readonly tellsApart: (literal: Literal) => readonly Telling[];
  /** Behind what it is offered while somebody writes; the type is undefined where it is not known. */
  readonly offeredFor: (type: OperandType) => boolean;
  /** Whether it asks for equality, so that a text which can never stand there is a slip. */
  readonly equates?: true;
}

/**
 * Values that could tell the answers of a test apart: those that its literal names, with their neighbours; lists of the
 * items that it names; lists with an item besides; texts that hold something, which are too many to try.
 */
export type Telling = "named" | "lists of items" | "lists with others" | "parts of texts";

/** What is known of what is asked: the type of an attribute or a flag, one of listed texts, nothing. */
export type OperandType = AttributeType | undefined;

const named = (): readonly Telling[] => ["named"];
const ofItems = (): readonly Telling[] => ["lists of items"];
const ofParts = (): readonly Telling[] => ["parts of texts"];

const always = () => true;
const never = () => false;
const unlessList = (type: OperandType) => type !== "list";
const listOnly = (type: OperandType) => type === "list" || type === undefined;
const orderedOnly = (type: OperandType) =>
  type === "number" || type === "version" || type === "time" || type === undefined;
const anyText = (type: OperandType) => type === "text" || Array.isArray(type) || type === undefined;
const freeText = (type: OperandType) => type === "text" || type === undefined;

const texts = (): readonly ValueClass[] => ["text"];
const lists = (): readonly ValueClass[] => ["list"];

/** By the words in which they are written; `is-true` is a yes-no that stands alone. */
const table = {
  "is-true": {
    takes: "nothing",
    decides: () => ["yes-no"],
    decide: () => (value) => isYes(value, true),
    says: ["holds", "does not hold"],
    tellsApart: named,
    offeredFor: never,
  },
  "is missing": {
    takes: "nothing",
    decides: () => "all",
    decide: () => (value) => yes(isMissing(value)),
    says: ["is missing", "is given"],
    tellsApart: named,
    offeredFor: always,
  },
  "is present": {
    takes: "nothing",
    decides: () => "all",
    decide: () => (value) => yes(!isMissing(value)),
    says: ["is given", "is missing"],
    tellsApart: named,
    offeredFor: always,
  },
  "==": comparison("==", "comparand", ["is", "is not"]),
  "!=": comparison("!=", "comparand", ["is not", "is"]),
  "<": comparison("<", "ordered", ["is less than", "is at least"]),
  "<=": comparison("<=", "ordered", ["is at most", "is more than"]),
  ">": comparison(">", "ordered", ["is more than", "is at most"]),
  ">=": comparison(">=", "ordered", ["is at least", "is less than"]),
  in: membership(true, ["is one of", "is none of"]),
  "not in": membership(false, ["is none of", "is one of"]),
  contains: {
    takes: "scalar",
    decides: ({ kind }) => (kind === "text" ? ["text", "list"] : ["list"]),
    decide: (literal) => {
      const item = scalarOf(literal);
      return (value) => contains(value, item);
    },
    says: ["contains", "does not contain"],
    tellsApart: ({ kind }) => (kind === "text" ? ["lists of items", "parts of texts"] : ["lists of items"]),
    offeredFor: (type) => type === "list" || type === "text" || type === undefined,
  },
  overlaps: {
    takes: "list",
    decides: lists,
    decide: (literal) => {
      const items = itemsOf(literal);
      return (value) => (isList(value) ? yes(items.some((item) => holds(value, item))) : UNDECIDED);
    },
    says: ["holds one of", "holds none of"],
    tellsApart: ofItems,
    offeredFor: listOnly,
  },
  covers: {
    takes: "list",
    decides: lists,
    decide: (literal) => {
      const items = itemsOf(literal);
      return (value) => (isList(value) ? yes(items.every((item) => holds(value, item))) : UNDECIDED);
    },
    says: ["holds all of", "does not hold all of"],
    tellsApart: ofItems,
    offeredFor: listOnly,
  },
  "starts with": {
    takes: "text",
    decides: texts,
    decide: (literal) => {
      const text = String(scalarOf(literal));
      const first = text.charCodeAt(0);
      return (value) => startsWith(value, text, first);
    },
    says: ["starts with", "does not start with"],
    tellsApart: ofParts,
    offeredFor: anyText,
  },
  "ends with": {
    takes: "text",
    decides: texts,
    decide: (literal) => {
      const text = String(scalarOf(literal));
      const first = text.charCodeAt(0);
      return (value) => endsWith(value, text, first);
    },
    says: ["ends with", "does not end with"],
    tellsApart: ofParts,
    offeredFor: anyText,
  },
  matches: {
    takes: "regex",
    decides: texts,
    decide: (literal) => {
      if (literal.kind !== "regex") throw new TypeError(`matches takes a regular expression, not ${literal.kind}`);
      const pattern = compilePattern(literal.pattern, literal.ignoreCase);
      return (value) => (typeof value === "string" ? yes(pattern.test(value)) : UNDECIDED);
    },
    says: ["matches", "does not match"],
    tellsApart: ofParts,
    offeredFor: freeText,
  },
} as const satisfies Record<string, Operator>;

export type OperatorName = keyof typeof table;

export const operators: Readonly<Record<OperatorName, Operator>> = table;

/** The answer of a test, or of its negation, as a function of the value. */
export function decideOf({ operator, literal }: Written, negated = false): Decide {
  const decide = operators[operator].decide(literal);
  return negated ? (value) => opposite(decide(value)) : decide;
}

/** The part of a test that says what is asked of a value. */
interface Written {
  readonly operator: OperatorName;
  readonly literal: Literal;
}

export function asksPresence(operator: OperatorName): boolean {
  return operator === "is missing" || operator === "is present";
}

export function isMissing(value: unknown): boolean {
  return value === undefined || value === null;
}

/** What a comparison answers when the value is smaller than the literal, equal to it, or greater. */
export interface Ordering {
  readonly less: Answer;
  readonly equal: Answer;
  readonly more: Answer;
}

type Comparison = "==" | "!=" | "<" | "<=" | ">" | ">=";

const orderings: Readonly<Record<Comparison, Ordering>> = {
  "==": { less: FALSE, equal: TRUE, more: FALSE },
  "!=": { less: TRUE, equal: FALSE, more: TRUE },
  "<": { less: TRUE, equal: FALSE, more: FALSE },
  "<=": { less: TRUE, equal: TRUE, more: FALSE },
  ">": { less: FALSE, equal: FALSE, more: TRUE },
  ">=": { less: FALSE, equal: TRUE, more: TRUE },
};

/** The ordering of a comparison, or of its negation. */
export function orderingOf(operator: Comparison, negated = false): Ordering {
  const { less, equal, more } = orderings[operator];
  return negated ? { less: opposite(less), equal: opposite(equal), more: opposite(more) } : orderings[operator];
}

function comparison(operator: Comparison, takes: "comparand" | "ordered", says: readonly [string, string]) {
  return {
    takes,
    decides: comparedClasses,
    decide: (literal: Literal) => compared(literal, orderings[operator]),
    says,
    tellsApart: named,
    offeredFor: takes === "ordered" ? orderedOnly : unlessList,
    ...(takes === "comparand" ? { equates: true as const } : {}),
  };
}

function membership(positive: boolean, says: readonly [string, string]) {
  return {
    takes: "list" as const,
    decides: (literal: Literal) => comparedClasses(literal.kind === "list" ? literal.items[0]! : literal),
    decide: (literal: Literal): Decide => {
      const items = itemsOf(literal);
      const set: ReadonlySet<unknown> = new Set(items);
      const type = typeof items[0];
      return (value) => isAmong(value, set, type, positive);
    },
    says,
    tellsApart: named,
    offeredFor: unlessList,
    equates: true as const,
  };
}

function comparedClasses({ kind }: Literal): readonly ValueClass[] {
  switch (kind) {
    case "number":
    case "yes-no":
      return [kind];
    case "time":
      return ["date", "text", "number"];
    default:
      return ["text"];
  }
}

function compared(literal: Literal, ordering: Ordering): Decide {
  switch (literal.kind) {
    case "text": {
      const { equal, less: other } = ordering;
      return (value) => equalText(value, literal.value, equal, other);
    }
    case "yes-no": {
      const wanted = literal.value === (ordering.equal === TRUE);
      return (value) => isYes(value, wanted);
    }
    case "number":
      return (value) => orderNumber(value, literal.value, ordering);
    case "version":
      return (value) => orderVersion(value, literal.value, ordering);
    case "time":
      return (value) => place(readTime(value) - literal.value.epoch, ordering);
    default:
      throw new TypeError(`nothing compares with a ${literal.kind}`);
  }
}

/** NaN, which is what an unreadable value compares as, is undecided. */
function place(difference: number, ordering: Ordering): Answer {
  if (difference < 0) return ordering.less;
  if (difference > 0) return ordering.more;
  return difference === 0 ? ordering.equal : UNDECIDED;
}

export function orderNumber(value: unknown, literal: number, ordering: Ordering): Answer {
  if (typeof value !== "number" || !Number.isFinite(value)) return UNDECIDED;
  return value < literal ? ordering.less : value > literal ? ordering.more : ordering.equal;
}

export function orderVersion(value: unknown, literal: VersionLiteral, ordering: Ordering): Answer {
  return typeof value === "string" ? place(compareWithVersion(value, literal), ordering) : UNDECIDED;
}

/** Equality of texts; another type is undecided. */
export function equalText(value: unknown, literal: string, equal: Answer, other: Answer): Answer {
  if (value === literal) return equal;
  return typeof value === "string" ? other : UNDECIDED;
}

export function isAmong(value: unknown, items: ReadonlySet<unknown>, type: string, positive: boolean): Answer {
  if (typeof value !== type || (type === "number" && !Number.isFinite(value))) return UNDECIDED;
  return items.has(value) === positive ? TRUE : FALSE;
}

export function isYes(value: unknown, wanted: boolean): Answer {
  return typeof value === "boolean" ? (value === wanted ? TRUE : FALSE) : UNDECIDED;
}

// `first` is the code of the first character of `text`: most values differ there, which is seen without a call into the
// engine's own search.

export function startsWith(value: unknown, text: string, first: number): Answer {
  if (typeof value !== "string") return UNDECIDED;
  if (value.length < text.length || (text.length > 0 && value.charCodeAt(0) !== first)) return FALSE;
  return yes(value.startsWith(text));
}

export function endsWith(value: unknown, text: string, first: number): Answer {
  if (typeof value !== "string") return UNDECIDED;
  const start = value.length - text.length;
  if (start < 0 || (text.length > 0 && value.charCodeAt(start) !== first)) return FALSE;
  return yes(value.endsWith(text));
}

/**
 * A list that can be looked into. Longer ones count as of the wrong type: real lists are short, and hostile ones claim
 * any length.
 */
function isList(value: unknown): value is readonly unknown[] {
  return Array.isArray(value) && value.length <= longestList;
}

/** Items of the longest list that is looked into. */
export const longestList = 100_000;

function contains(value: unknown, item: Scalar): Answer {
  if (typeof value === "string") return typeof item === "string" ? yes(value.includes(item)) : UNDECIDED;
  return isList(value) ? yes(holds(value, item)) : UNDECIDED;
}

function holds(list: readonly unknown[], item: unknown): boolean {
  for (let i = 0; i < list.length; i++) if (list[i] === item) return true;
  return false;
}
