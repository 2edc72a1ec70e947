import { type Answer, FALSE, opposite, TRUE, UNDECIDED, yes } from "../values/answer.ts";
import { compilePattern } from "../values/pattern.ts";
import { readTime } from "../values/time.ts";
import { compareWithVersion, type VersionLiteral } from "../values/version.ts";
import type { AttributeTest, Literal, Scalar } from "./tree.ts";

/** Answers a test for a value that has been read; missing is `undefined` or `null`. */
export type Decide = (value: unknown) => Answer;

/** What a comparison answers when the value is smaller than the literal, equal to it, or greater. */
export interface Ordering {
  readonly less: Answer;
  readonly equal: Answer;
  readonly more: Answer;
}

const orderings: Readonly<Record<string, Ordering>> = {
  "==": { less: FALSE, equal: TRUE, more: FALSE },
  "!=": { less: TRUE, equal: FALSE, more: TRUE },
  "<": { less: TRUE, equal: FALSE, more: FALSE },
  "<=": { less: TRUE, equal: TRUE, more: FALSE },
  ">": { less: FALSE, equal: FALSE, more: TRUE },
  ">=": { less: FALSE, equal: TRUE, more: TRUE },
};

const negations: Readonly<Record<string, string>> = {
  "==": "!=",
  "!=": "==",
  "<": ">=",
  ">=": "<",
  ">": "<=",
  "<=": ">",
};

export function orderingOf(operator: string, negated = false): Ordering {
  return orderings[negated ? negations[operator]! : operator]!;
}

/** NaN, which is what an unreadable value compares as, is undecided. */
export function place(difference: number, ordering: Ordering): Answer {
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

export function orderTime(value: unknown, epoch: number, ordering: Ordering): Answer {
  return place(readTime(value) - epoch, ordering);
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

function contains(value: unknown, item: Scalar): Answer {
  if (typeof value === "string") return typeof item === "string" ? yes(value.includes(item)) : UNDECIDED;
  return Array.isArray(value) ? yes(holds(value, item)) : UNDECIDED;
}

function holds(list: readonly unknown[], item: unknown): boolean {
  for (let i = 0; i < list.length; i++) if (list[i] === item) return true;
  return false;
}

export function isMissing(value: unknown): boolean {
  return value === undefined || value === null;
}

/** The answer of a test, or of its negation, as a function of the value: the one meaning that everything shares. */
export function decideOf(test: AttributeTest, negated = false): Decide {
  if (negated) {
    const decide = decideOf(test);
    return (value) => opposite(decide(value));
  }
  const { operator, literal } = test;
  switch (operator) {
    case "is-true":
      return (value) => isYes(value, true);
    case "is missing":
      return (value) => yes(isMissing(value));
    case "is present":
      return (value) => yes(!isMissing(value));
    case "in":
    case "not in":
      return decideMembership(literal, operator === "in");
    case "contains": {
      const item = scalarOf(literal);
      return (value) => contains(value, item);
    }
    case "overlaps": {
      const items = itemsOf(literal);
      return (value) => (Array.isArray(value) ? yes(items.some((item) => holds(value, item))) : UNDECIDED);
    }
    case "covers": {
      const items = itemsOf(literal);
      return (value) => (Array.isArray(value) ? yes(items.every((item) => holds(value, item))) : UNDECIDED);
    }
    case "starts with": {
      const text = String(scalarOf(literal));
      const first = text.charCodeAt(0);
      return (value) => startsWith(value, text, first);
    }
    case "ends with": {
      const text = String(scalarOf(literal));
      const first = text.charCodeAt(0);
      return (value) => endsWith(value, text, first);
    }
    case "matches":
      return decideMatch(literal);
    default:
      return decideComparison(literal, orderingOf(operator));
  }
}

function decideMembership(literal: Literal, positive: boolean): Decide {
  const items = itemsOf(literal);
  const set: ReadonlySet<unknown> = new Set(items);
  const type = typeof items[0];
  return (value) => isAmong(value, set, type, positive);
}

function decideMatch(literal: Literal): Decide {
  if (literal.kind !== "regex") throw new TypeError(`matches takes a regular expression, not ${literal.kind}`);
  const pattern = compilePattern(literal.pattern, literal.ignoreCase);
  return (value) => (typeof value === "string" ? yes(pattern.test(value)) : UNDECIDED);
}

function decideComparison(literal: Literal, ordering: Ordering): Decide {
  switch (literal.kind) {
    case "text": {
      const { equal, less: other } = ordering;
      return (value) => equalText(value, literal.value, equal, other);
    }
    case "yes-no": {
      const wanted = literal.value === (ordering.equal === TRUE);
      return (value) => isYes(value, wanted);
    }
    case "number": {
      const number = literal.value;
      return (value) => orderNumber(value, number, ordering);
    }
    case "version": {
      const version = literal.value;
      return (value) => orderVersion(value, version, ordering);
    }
    case "time": {
      const { epoch } = literal.value;
      return (value) => orderTime(value, epoch, ordering);
    }
    default:
      throw new TypeError(`nothing compares with a ${literal.kind}`);
  }
}

export function scalarOf(literal: Literal): Scalar {
  if (literal.kind === "text" || literal.kind === "number" || literal.kind === "yes-no") return literal.value;
  throw new TypeError(`a ${literal.kind} is no scalar`);
}

export function itemsOf(literal: Literal): readonly Scalar[] {
  return literal.kind === "list" ? literal.items.map((item) => item.value) : [scalarOf(literal)];
}
