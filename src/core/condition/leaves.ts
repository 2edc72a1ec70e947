import { isInherited, isLiteral, type Reach, reachOf, step, steps } from "../context/reach.ts";
import type { Question } from "../judge/question.ts";
import { type Answer, TRUE } from "./answer.ts";
import type { AttributeTest, Literal } from "./tree.ts";
import {
  type Decide,
  decideOf,
  endsWith,
  equalText,
  isAmong,
  isYes,
  itemsOf,
  type Ordering,
  orderingOf,
  orderNumber,
  orderVersion,
  scalarOf,
  startsWith,
} from "./values.ts";
import type { VersionLiteral } from "./version.ts";

/** A compiled condition or a part of one. */
export type Ask = (question: Question) => Answer;

/**
 * The test of a plain attribute as one closure that reads and decides. The kinds that practice uses most have the
 * read spelt out (see `Reach` for why); the rest shares one.
 */
export function leafOf(test: AttributeTest, path: readonly string[], negated: boolean): Ask {
  if (path.some(isInherited)) return carefulLeaf(path, decideOf(test, negated));
  return fusedLeaf(test, reachOf(path), negated) ?? plainLeaf(reachOf(path), decideOf(test, negated));
}

function fusedLeaf(test: AttributeTest, reach: Reach, negated: boolean): Ask | undefined {
  const { operator, literal } = test;
  switch (operator) {
    case "is-true":
      return yesNoLeaf(reach, !negated);
    case "starts with":
      return negated ? undefined : startLeaf(reach, String(scalarOf(literal)));
    case "ends with":
      return negated ? undefined : endLeaf(reach, String(scalarOf(literal)));
    case "in":
    case "not in":
      return memberLeaf(reach, literal, (operator === "in") !== negated);
    case "==":
    case "!=":
    case "<":
    case "<=":
    case ">":
    case ">=":
      return comparisonLeaf(reach, literal, orderingOf(operator, negated));
    default:
      return undefined;
  }
}

function comparisonLeaf(reach: Reach, literal: Literal, ordering: Ordering): Ask | undefined {
  switch (literal.kind) {
    case "text":
      return textLeaf(reach, literal.value, ordering);
    case "yes-no":
      return yesNoLeaf(reach, literal.value === (ordering.equal === TRUE));
    case "number":
      return numberLeaf(reach, literal.value, ordering);
    case "version":
      return versionLeaf(reach, literal.value, ordering);
    default:
      return undefined;
  }
}

function carefulLeaf(path: readonly string[], decide: Decide): Ask {
  return (question) => decide(steps(question.context, path));
}

function plainLeaf({ head, next, rest }: Reach, decide: Decide): Ask {
  return (question) => {
    let value = question.context[head];
    if (next !== undefined) value = isLiteral(value) ? value[next] : step(value, next);
    if (rest !== undefined) value = steps(value, rest);
    return decide(value);
  };
}

function yesNoLeaf({ head, next, rest }: Reach, wanted: boolean): Ask {
  return (question) => {
    let value = question.context[head];
    if (next !== undefined) value = isLiteral(value) ? value[next] : step(value, next);
    if (rest !== undefined) value = steps(value, rest);
    return isYes(value, wanted);
  };
}

function textLeaf({ head, next, rest }: Reach, literal: string, { equal, less: other }: Ordering): Ask {
  return (question) => {
    let value = question.context[head];
    if (next !== undefined) value = isLiteral(value) ? value[next] : step(value, next);
    if (rest !== undefined) value = steps(value, rest);
    return equalText(value, literal, equal, other);
  };
}

function numberLeaf({ head, next, rest }: Reach, literal: number, ordering: Ordering): Ask {
  return (question) => {
    let value = question.context[head];
    if (next !== undefined) value = isLiteral(value) ? value[next] : step(value, next);
    if (rest !== undefined) value = steps(value, rest);
    return orderNumber(value, literal, ordering);
  };
}

function versionLeaf({ head, next, rest }: Reach, literal: VersionLiteral, ordering: Ordering): Ask {
  return (question) => {
    let value = question.context[head];
    if (next !== undefined) value = isLiteral(value) ? value[next] : step(value, next);
    if (rest !== undefined) value = steps(value, rest);
    return orderVersion(value, literal, ordering);
  };
}

function startLeaf({ head, next, rest }: Reach, text: string): Ask {
  return (question) => {
    let value = question.context[head];
    if (next !== undefined) value = isLiteral(value) ? value[next] : step(value, next);
    if (rest !== undefined) value = steps(value, rest);
    return startsWith(value, text);
  };
}

function endLeaf({ head, next, rest }: Reach, text: string): Ask {
  return (question) => {
    let value = question.context[head];
    if (next !== undefined) value = isLiteral(value) ? value[next] : step(value, next);
    if (rest !== undefined) value = steps(value, rest);
    return endsWith(value, text);
  };
}

function memberLeaf({ head, next, rest }: Reach, literal: Literal, positive: boolean): Ask {
  const items = itemsOf(literal);
  const set: ReadonlySet<unknown> = new Set(items);
  const type = typeof items[0];
  return (question) => {
    let value = question.context[head];
    if (next !== undefined) value = isLiteral(value) ? value[next] : step(value, next);
    if (rest !== undefined) value = steps(value, rest);
    return isAmong(value, set, type, positive);
  };
}
