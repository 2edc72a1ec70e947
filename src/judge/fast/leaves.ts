import {
  type AttributeTest,
  endsWith,
  equalText,
  isAmong,
  isYes,
  itemsOf,
  type Literal,
  type Ordering,
  orderingOf,
  orderNumber,
  orderVersion,
  scalarOf,
  startsWith,
} from "../../language/index.ts";
import { TRUE, type VersionLiteral } from "../../values/index.ts";
import type { Ask } from "../ask.ts";
import type { Reader } from "../context/reader.ts";

/**
 * The tests that practice uses most, read and decided without another call: the plain twin is `decideOf`, and a test holds
 * them together. Undefined for the others.
 */
export function fusedLeaf(test: AttributeTest, read: Reader, negated: boolean): Ask | undefined {
  const { operator, literal } = test;
  switch (operator) {
    case "is-true":
      return yesNoLeaf(read, !negated);
    case "starts with":
      return negated ? undefined : startLeaf(read, String(scalarOf(literal)));
    case "ends with":
      return negated ? undefined : endLeaf(read, String(scalarOf(literal)));
    case "in":
    case "not in":
      return memberLeaf(read, literal, (operator === "in") !== negated);
    case "==":
    case "!=":
    case "<":
    case "<=":
    case ">":
    case ">=":
      return comparisonLeaf(read, literal, orderingOf(operator, negated));
    default:
      return undefined;
  }
}

function comparisonLeaf(read: Reader, literal: Literal, ordering: Ordering): Ask | undefined {
  switch (literal.kind) {
    case "text":
      return textLeaf(read, literal.value, ordering);
    case "yes-no":
      return yesNoLeaf(read, literal.value === (ordering.equal === TRUE));
    case "number":
      return numberLeaf(read, literal.value, ordering);
    case "version":
      return versionLeaf(read, literal.value, ordering);
    default:
      return undefined;
  }
}

function yesNoLeaf(read: Reader, wanted: boolean): Ask {
  return (question) => isYes(read(question.context), wanted);
}

function textLeaf(read: Reader, literal: string, { equal, less: other }: Ordering): Ask {
  return (question) => equalText(read(question.context), literal, equal, other);
}

function numberLeaf(read: Reader, literal: number, ordering: Ordering): Ask {
  return (question) => orderNumber(read(question.context), literal, ordering);
}

function versionLeaf(read: Reader, literal: VersionLiteral, ordering: Ordering): Ask {
  return (question) => orderVersion(read(question.context), literal, ordering);
}

function startLeaf(read: Reader, text: string): Ask {
  const first = text.charCodeAt(0);
  return (question) => startsWith(read(question.context), text, first);
}

function endLeaf(read: Reader, text: string): Ask {
  const first = text.charCodeAt(0);
  return (question) => endsWith(read(question.context), text, first);
}

function memberLeaf(read: Reader, literal: Literal, positive: boolean): Ask {
  const items = itemsOf(literal);
  const set: ReadonlySet<unknown> = new Set(items);
  const type = typeof items[0];
  return (question) => isAmong(read(question.context), set, type, positive);
}
