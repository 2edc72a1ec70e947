export {
  type Cause,
  type ConditionTrace,
  type Explanation,
  type ExplanationPaint,
  type FormatOptions,
  formatExplanation,
  type OverrideLayer,
  type ProblemCode,
  type ShareTrace,
  type SplitTrace,
  type Step,
  type TestTrace,
  type Verdict,
} from "../core.ts";
export { type LocatedProblem, type RelatedLocation, renderProblems } from "../folder/index.ts";
export type { PartChange } from "../insight/change/compare.ts";
export {
  type Catalogue,
  type CatalogueEntry,
  data,
  defineCatalogue,
  type FlagValue,
  type NameOf,
  number,
  text,
  type ValueOf,
  yesNo,
} from "./catalogue.ts";
export { FlagsError } from "./errors.ts";
export type { ChangeEvent, ClosingEvent, FlagsEvents, OverridesEvent, ProblemEvent, RejectedEvent } from "./events.ts";
export {
  type AskingOptions,
  type CodeOverrides,
  type Context,
  Flags,
  type OverrideBlock,
  type PinOptions,
} from "./flags.ts";
export { type FlagsOptions, followFlags } from "./follow-flags.ts";
export { type Variant, variant } from "./overrides.ts";
export { type Pass, type PassKey, type PassKeys, type PassRequest, signPass } from "./pass.ts";
export { PinnedFlags, type ValuesOptions } from "./pinned.ts";
export type { StandardSchemaV1 } from "./standard-schema.ts";
export type { HistoryEntry, Origin } from "./store.ts";
export {
  type AskedBy,
  type FlagCounts,
  type LineSink,
  type OutsideRule,
  spanEvents,
  type TraceApi,
  type VerdictEvent,
  type VerdictOptions,
  verdictCounter,
  verdictLog,
} from "./verdict-events.ts";
