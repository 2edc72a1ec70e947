/**
 * The core: definitions in, verdicts out. Nothing of a platform, no I/O, no timers; it runs wherever JavaScript does.
 *
 * @module iudex/core
 */
export { type CheckOptions, checkDefinitions } from "./checks/index.ts";
export { IdSet } from "./ids/index.ts";
export {
  type ConditionExplanation,
  type ConditionTrace,
  describeFlag,
  type ExplainOptions,
  type Explanation,
  type ExplanationPaint,
  explain,
  explainCondition,
  type FormatOptions,
  formatCondition,
  formatExplanation,
  type Lack,
  type OtherwiseStep,
  type OverrideStep,
  type ProvidedStep,
  type RuleStep,
  type ShareTrace,
  type SplitTrace,
  type Step,
  type SubjectTrace,
  type SuspendedStep,
  type TestTrace,
  type WhereListed,
} from "./insight/index.ts";
export type { Clock } from "./judge/index.ts";
export { type AskOptions, type Cause, FlagSet, type OverrideLayer, type Verdict } from "./judge/index.ts";
export type { AttributeTypeName, Group, Negation, Test } from "./language/index.ts";
export {
  type AttributeType,
  type Condition,
  type ParsedCondition,
  parseCondition,
  printCondition,
} from "./language/index.ts";
export type { ConditionCohort, ListCohort, LotCohort } from "./model/index.ts";
export {
  type AttributeDefinition,
  type CohortDefinition,
  type CompiledSchema,
  type Definitions,
  type EnvironmentDefinition,
  type FlagDefinition,
  type ListReader,
  type ListRequest,
  type ListResult,
  type SchemaFault,
  type SchemaPort,
  type SchemaProblem,
  type Suspension,
  shortRevision,
  type WindowDefinition,
} from "./model/index.ts";
export {
  type Fault,
  type Path,
  type Place,
  type Problem,
  type ProblemCode,
  type ProblemKind,
  problemCatalogue,
  type RelatedPlace,
  type Span,
  type TextFault,
} from "./problems/index.ts";
export {
  listRequests,
  type Reading,
  ReadingMemory,
  type ReadOptions,
  readDefinitions,
  readInSteps,
  schemaRequests,
} from "./reading/index.ts";
export type { JsonSchema, SchemaSource } from "./source/index.ts";
export { type Document, definitionSchema } from "./source/index.ts";
export type { AnswerWord, Range } from "./values/index.ts";
export { type Data, limits, type ValueType } from "./values/index.ts";
