export { type CheckOptions, checkDefinitions } from "./checks/check.ts";
export { explain } from "./insight/explain/explain.ts";
export { type ConditionExplanation, explainCondition } from "./insight/explain/explain-condition.ts";
export type {
  ConditionTrace,
  Explanation,
  ShareTrace,
  SplitTrace,
  Step,
  TestTrace,
} from "./insight/explain/explanation.ts";
export {
  type ExplanationPaint,
  type FormatOptions,
  formatCondition,
  formatExplanation,
} from "./insight/explain/format.ts";
export { describeFlag } from "./insight/explain/sentence.ts";
export { type AskOptions, FlagSet } from "./judge/flag-set.ts";
export type { Cause, OverrideLayer, Verdict } from "./judge/outcome.ts";
export { type ConditionFault, type ParsedCondition, parseCondition } from "./language/parser.ts";
export { printCondition } from "./language/print.ts";
export type { Condition } from "./language/tree.ts";
export type { ListFault, ListReader, ListRequest, ListResult } from "./model/read-cohorts.ts";
export { listRequests } from "./model/read-cohorts.ts";
export type {
  AttributeDefinition,
  CohortDefinition,
  Definitions,
  EnvironmentDefinition,
  FlagDefinition,
  Suspension,
  WindowDefinition,
} from "./model/types.ts";
export { type ProblemCode, type ProblemKind, problemCatalogue } from "./problems/catalogue.ts";
export type { Path, Place, Problem, RelatedPlace } from "./problems/problem.ts";
export { type Reading, type ReadOptions, readDefinitions, readInSteps } from "./reading/read.ts";
export type { Document } from "./source/entries.ts";
export { definitionSchema } from "./source/schema.ts";
export type { Data, ValueType } from "./values/data.ts";
export { limits } from "./values/limits.ts";
