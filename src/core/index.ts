export { type CheckOptions, checkDefinitions } from "./checking/check.ts";
export { type ConditionFault, type ParsedCondition, parseCondition } from "./condition/parser.ts";
export { printCondition } from "./condition/print.ts";
export type { Condition } from "./condition/tree.ts";
export type { Data, ValueType } from "./data.ts";
export type { Document } from "./definition/entries.ts";
export { type Reading, type ReadOptions, readDefinitions, readInSteps } from "./definition/read.ts";
export type { ListFault, ListReader, ListRequest, ListResult } from "./definition/read-cohorts.ts";
export { listRequests } from "./definition/read-cohorts.ts";
export { definitionSchema } from "./definition/schema.ts";
export type {
  AttributeDefinition,
  CohortDefinition,
  Definitions,
  EnvironmentDefinition,
  FlagDefinition,
  Suspension,
  WindowDefinition,
} from "./definition/types.ts";
export { explain } from "./explain/explain.ts";
export { type ConditionExplanation, explainCondition } from "./explain/explain-condition.ts";
export type { ConditionTrace, Explanation, ShareTrace, SplitTrace, Step, TestTrace } from "./explain/explanation.ts";
export { type ExplanationPaint, type FormatOptions, formatCondition, formatExplanation } from "./explain/format.ts";
export { describeFlag } from "./explain/sentence.ts";
export { type AskOptions, FlagSet } from "./judge/flag-set.ts";
export type { Cause, OverrideLayer, Verdict } from "./judge/outcome.ts";
export { limits } from "./limits.ts";
export { type ProblemCode, type ProblemKind, problemCatalogue } from "./problems/catalogue.ts";
export type { Path, Place, Problem, RelatedPlace } from "./problems/problem.ts";
