/**
 * Flags in a service: followed from a folder, asked, overridden, pinned, watched.
 *
 * @module iudex
 */
export * from "./catalogue/index.ts";
export {
  type Cause,
  type Explanation,
  type FormatOptions,
  formatExplanation,
  type OverrideLayer,
  type ProblemCode,
  type Step,
  type Verdict,
} from "./core.ts";
export {
  type LocatedProblem,
  type RenderOptions,
  renderProblems,
} from "./files/index.ts";
export {
  type AskingOptions,
  type AuditEvent,
  type ChangeEvent,
  type ClosingEvent,
  type CodeOverrides,
  type Context,
  Flags,
  FlagsError,
  type FlagsEvents,
  type FlagsOptions,
  type Followable,
  type Health,
  type JWK,
  type KeySet,
  type Keys,
  type Origin,
  type OverridesEvent,
  type Pass,
  type PassKey,
  type PassRequest,
  type PassRules,
  type PastRevision,
  PinnedFlags,
  type PinOptions,
  type ProblemEvent,
  type RecoveredEvent,
  type RefusedEdition,
  type RejectedEvent,
  type ShelfOptions,
  type ShelfOrigin,
  signPass,
  spanEvents,
  type ValuesOptions,
  type Variant,
  type VerdictEvent,
  type VerdictOptions,
  variant,
  verdictCounter,
  verdictLog,
  type WatchTimes,
} from "./flags/index.ts";
export { followFlags } from "./follow/index.ts";
export type { PartChange } from "./insight/index.ts";
export type {} from "./values/index.ts";
