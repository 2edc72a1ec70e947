export type { PartChange } from "../core/change/compare.ts";
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
} from "../core/index.ts";
export { type LocatedProblem, type RelatedLocation, renderProblems } from "../files/index.ts";
export { FlagsError } from "./errors.ts";
export type { ChangeEvent, FlagsEvents, ProblemEvent, RejectedEvent } from "./events.ts";
export { type Context, Flags, type FlagsOptions, type FlagValue, openFlags } from "./flags.ts";
