/**
 * The core: definitions in, verdicts out. Nothing of a platform, no I/O, no timers; it runs wherever JavaScript does.
 *
 * @module iudex/core
 */
export { type CheckOptions, checkDefinitions } from "./checks/index.ts";
export { type IdLookup, IdSet } from "./ids/index.ts";
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
export { type AskOptions, type Cause, type Clock, FlagSet, type OverrideLayer, type Verdict } from "./judge/index.ts";
export {
  type AttributeType,
  type AttributeTypeName,
  type Condition,
  type Group,
  type Negation,
  type ParsedCondition,
  parseCondition,
  printCondition,
  type Test,
} from "./language/index.ts";
export {
  type AttributeDefinition,
  type CohortDefinition,
  type CompiledSchema,
  type ConditionCohort,
  type Definitions,
  type EnvironmentDefinition,
  type FlagDefinition,
  type ListCohort,
  type ListReader,
  type ListRequest,
  type ListResult,
  type LotCohort,
  type SchemaFault,
  type SchemaPort,
  type SchemaProblem,
  type Stop,
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
export { openDefinitions, type Reading, type ReadOptions, readDefinitions } from "./reading/index.ts";
export { type Document, definitionSchema, type JsonSchema, type SchemaSource } from "./source/index.ts";
export { type AnswerWord, type Data, limits, type Range, type ValueType } from "./values/index.ts";
