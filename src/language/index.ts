// Conditions as text: lexer, parser, tree, printing, and the table of operators.
export { inLowerCase, itemsOf, type Literal, scalarOf, textsOf } from "./literal.ts";
export {
  asksPresence,
  type Decide,
  decideOf,
  endsWith,
  equalText,
  isAmong,
  isMissing,
  isYes,
  longestList,
  type Ordering,
  operators,
  orderingOf,
  orderNumber,
  orderVersion,
  startsWith,
  type ValueClass,
} from "./operators.ts";
export { type ParsedCondition, Parser, parseCondition, parsePath } from "./parser.ts";
export { printCondition, printLiteral, printOperand, printPath } from "./print.ts";
export {
  type AttributeTest,
  type Condition,
  type Group,
  type Negation,
  type Operand,
  type PathOperand,
  type Test,
  testsOf,
} from "./tree.ts";
export { type AttributeType, type AttributeTypeName, attributeTypes } from "./types.ts";
