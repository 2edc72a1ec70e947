/**
 * The core: definitions in, verdicts out. Nothing of a platform, no I/O, no timers; it runs wherever JavaScript does.
 *
 * @module iudex/core
 */
export { type CheckOptions, checkDefinitions } from "./checks/index.ts";
export { type IdLookup, IdSet } from "./ids/index.ts";
export {
  type ConditionExplanation,
  describeFlag,
  type ExplainOptions,
  type Explanation,
  explain,
  explainCondition,
  type FormatOptions,
  formatCondition,
  formatExplanation,
  type Step,
} from "./insight/index.ts";
export { type AskOptions, type Cause, type Clock, FlagSet, type OverrideLayer, type Verdict } from "./judge/index.ts";
export {
  type AttributeType,
  type Condition,
  type ParsedCondition,
  parseCondition,
  printCondition,
} from "./language/index.ts";
export {
  type CohortDefinition,
  type CompiledSchema,
  type Definitions,
  type FlagDefinition,
  type ListReader,
  type SchemaPort,
  shortRevision,
} from "./model/index.ts";
export {
  type Fault,
  type Path,
  type Place,
  type Problem,
  type ProblemCode,
  problemCatalogue,
} from "./problems/index.ts";
export { openDefinitions, type Reading, type ReadOptions, readDefinitions } from "./reading/index.ts";
export { type Document, definitionSchema, type SchemaSource } from "./source/index.ts";
export { type Data, limits, type ValueType } from "./values/index.ts";
