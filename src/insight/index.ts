// What a set says, to people: explanations, sentences, changes, census, agenda, leftovers.
export { Agenda, type AgendaEntry, type AgendaOptions, agendaOf } from "./agenda.ts";
export {
  type CauseCount,
  Census,
  type CensusResult,
  type DivisionCount,
  type Expected,
  type ExpectedShare,
  type GroupedCount,
  type ValueCount,
} from "./census/census.ts";
export { type PositionCounts, Positions } from "./census/positions.ts";
export { compareInSteps, compareSets, type PartChange, whereStopped } from "./change/compare.ts";
export { type FlagReach, type Given, type Move, Reach } from "./change/reach.ts";
export { type ExplainOptions, explain } from "./explain/explain.ts";
export { type ConditionExplanation, explainCondition } from "./explain/explain-condition.ts";
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
} from "./explain/explanation.ts";
export {
  causeWords,
  type ExplanationPaint,
  type FormatOptions,
  formatCondition,
  formatExplanation,
} from "./explain/format.ts";
export { showPosition, type WhereListed } from "./explain/trace-condition.ts";
export { type Leftover, type LeftoverOptions, type LeftoverReason, leftoversOf } from "./leftovers.ts";
export { alikeIn } from "./sentence/alike.ts";
export {
  describeCohort,
  describeFlag,
  describeFlagIn,
  describeRule,
  type RuleWords,
  type SentenceIn,
} from "./sentence/describe.ts";
export { type Completion, type Completions, completionsAt } from "./writing/completions.ts";
export {
  type ConditionLine,
  conditionLines,
  type Joint,
  replacedAt,
  turned,
  withoutTest,
  withTest,
} from "./writing/condition-lines.ts";
export { conditionProblems } from "./writing/condition-problems.ts";
