// Flags in a running service: stored, overridden, pinned, told.

export { catalogueProblems, localOverrides, overrideProblems } from "./beforehand.ts";
export { checkOptions, either, mustBe, type OptionShape, type OptionShapes } from "./check-options.ts";
export { FlagsError } from "./errors.ts";
export type {
  AuditEvent,
  AuditFacts,
  ChangeEvent,
  ClosingEvent,
  FlagsEvents,
  OverridesEvent,
  ProblemEvent,
  RecoveredEvent,
  RejectedEvent,
} from "./events.ts";
export type { Feeding } from "./feed.ts";
export { Flags } from "./flags.ts";
export { type Followable, type Opened, open, type StartedFeed } from "./followable.ts";
export type { PossibleOutcomes } from "./guard.ts";
export type { Health, HealthProblem } from "./health.ts";
export type { JWK, KeySet, Keys } from "./keys.ts";
export { checkFolderOptions, checkShelfOptions, checkTestOptions } from "./option-shapes.ts";
export type {
  AskingOptions,
  CodeOverrides,
  Context,
  FlagsOptions,
  OverrideBlock,
  PinOptions,
  ShelfOptions,
} from "./options.ts";
export { readOverrideVariable, Written } from "./override-variable.ts";
export { type OverrideValue, resolveOverrides, textLayerValue, type Variant, variant } from "./overrides.ts";
export {
  type Pass,
  type PassKey,
  type PassRequest,
  type PassRules,
  type PassSubject,
  type RevokedPasses,
  signPass,
} from "./pass.ts";
export { PinnedFlags, type ValuesOptions } from "./pinned.ts";
export { requireEnvironment } from "./require-environment.ts";
export {
  accepted,
  DefinitionStore,
  type Origin,
  opened,
  type PastRevision,
  type RefusedEdition,
  rejected,
  type ShelfOrigin,
  type State,
  sameSuspensions,
  stopped,
  suspended,
  withSuspensions,
} from "./store.ts";
export { summariseProblems } from "./summary.ts";
export { type FlagCounts, verdictCounter } from "./verdict-counter.ts";
export {
  type ActiveSpan,
  type AskedBy,
  type DrawnId,
  type LineSink,
  type OutsideRule,
  spanEvents,
  type TraceApi,
  type VerdictEvent,
  type VerdictOptions,
  verdictLog,
} from "./verdict-events.ts";
export { defaultTimes, type WatchTimes } from "./watch-times.ts";
