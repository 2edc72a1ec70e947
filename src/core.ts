/**
 * The core: definitions in, verdicts out. Nothing of a platform, no I/O, no timers; it runs wherever JavaScript does.
 *
 * @module iudex/core
 */
export { type CheckOptions, checkDefinitions } from "./checks/check.ts";
export { type ExplainOptions, explain } from "./insight/explain/explain.ts";
export { type ConditionExplanation, explainCondition } from "./insight/explain/explain-condition.ts";
export type {
  ConditionTrace,
  Explanation,
  Lack,
  OtherwiseStep,
  OverrideStep,
  ProvidedStep,
  RuleStep,
  ShareTrace,
  SplitTrace,
  Step,
  SubjectTrace,
  SuspendedStep,
  TestTrace,
} from "./insight/explain/explanation.ts";
export {
  type ExplanationPaint,
  type FormatOptions,
  formatCondition,
  formatExplanation,
} from "./insight/explain/format.ts";
export { describeFlag } from "./insight/explain/sentence.ts";
export type { WhereListed } from "./insight/explain/trace-condition.ts";
export { type AskOptions, FlagSet } from "./judge/flag-set.ts";
export type { Cause, OverrideLayer, Verdict } from "./judge/outcome.ts";
export { type ParsedCondition, parseCondition } from "./language/parser.ts";
export { printCondition } from "./language/print.ts";
export type { Condition } from "./language/tree.ts";
export type { AttributeType } from "./language/types.ts";
export type { ListReader, ListRequest, ListResult } from "./model/read-cohorts.ts";
export { shortRevision } from "./model/revision.ts";
export type { CompiledSchema, SchemaFault, SchemaPort, SchemaProblem } from "./model/schemas.ts";
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
export type { Fault, Path, Place, Problem, RelatedPlace, Span, TextFault } from "./problems/problem.ts";
export { ReadingMemory } from "./reading/memory.ts";
export {
  listRequests,
  type Reading,
  type ReadOptions,
  readDefinitions,
  readInSteps,
  schemaRequests,
} from "./reading/read.ts";
export type { Document } from "./source/entries.ts";
export { definitionSchema } from "./source/schema.ts";
export type { Data, ValueType } from "./values/data.ts";
export { limits } from "./values/limits.ts";
