import { isInherited, isLiteral, type Reach, reachOf, step, steps } from "../context/reach.ts";
import type { Question } from "../judge/question.ts";
import type { Answer } from "./answer.ts";
import type { AttributeTest, Literal } from "./tree.ts";
import {
  type Decide,
  decideOf,
  endsWith,
  equalScalar,
  isAmong,
  isTrue,
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
export function leafOf(test: AttributeTest, path: readonly string[]): Ask {
  if (path.some(isInherited)) return carefulLeaf(path, decideOf(test));
  return fusedLeaf(test, reachOf(path)) ?? plainLeaf(reachOf(path), decideOf(test));
}

function fusedLeaf(test: AttributeTest, reach: Reach): Ask | undefined {
  const { operator, literal } = test;
  switch (operator) {
    case "is-true":
      return yesNoLeaf(reach);
    case "starts with":
      return startLeaf(reach, String(scalarOf(literal)));
    case "ends with":
      return endLeaf(reach, String(scalarOf(literal)));
    case "in":
    case "not in":
      return memberLeaf(reach, literal, operator === "in");
    case "==":
    case "!=":
    case "<":
    case "<=":
    case ">":
    case ">=":
      return comparisonLeaf(reach, literal, orderingOf(operator));
    default:
      return undefined;
  }
}

function comparisonLeaf(reach: Reach, literal: Literal, ordering: Ordering): Ask | undefined {
  switch (literal.kind) {
    case "text":
    case "yes-no":
      return equalLeaf(reach, literal.value, ordering);
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

function yesNoLeaf({ head, next, rest }: Reach): Ask {
  return (question) => {
    let value = question.context[head];
    if (next !== undefined) value = isLiteral(value) ? value[next] : step(value, next);
    if (rest !== undefined) value = steps(value, rest);
    return isTrue(value);
  };
}

function equalLeaf({ head, next, rest }: Reach, literal: string | boolean, ordering: Ordering): Ask {
  return (question) => {
    let value = question.context[head];
    if (next !== undefined) value = isLiteral(value) ? value[next] : step(value, next);
    if (rest !== undefined) value = steps(value, rest);
    return equalScalar(value, literal, ordering);
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
