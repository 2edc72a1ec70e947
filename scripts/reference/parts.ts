/**
 * What public names are made of. None of these is handed out under a name of its own: a program has them by the name that
 * holds them, such as `Explanation["steps"][number]`, or `Extract<Change, { change: "flag" }>`.
 *
 * @module parts
 */
export type { CatalogueEntries } from "../../src/catalogue/catalogue.ts";
export type { ExampleFault, TriedExample } from "../../src/checks/index.ts";
export type { DeskShelf, DeskWeighing } from "../../src/desk/index.ts";
export type {
  ExampleRequest,
  NewFlagRequest,
  OwnRulesRequest,
  RemoveRequest,
  RenameRequest,
  RestoreRequest,
  SetCohortRequest,
  SetIdsRequest,
  SetRequest,
  StopsPut,
  VariantRequest,
} from "../../src/edit/index.ts";
export type { Paint, RelatedLocation } from "../../src/files/index.ts";
export type {
  ActiveSpan,
  AskedBy,
  AuditFacts,
  DrawnId,
  FlagCounts,
  HealthProblem,
  LineSink,
  OutsideRule,
  OverrideBlock,
  PassSubject,
  PossibleOutcomes,
  RevokedPasses,
  TraceApi,
} from "../../src/flags/index.ts";
export type { GaugeMeter, GaugeResult, ObservableGauge } from "../../src/follow/index.ts";
export type { FlagsProviderProps } from "../../src/hooks/index.ts";
export type {
  Answering,
  Closed,
  Diversion,
  HeldResponse,
  JoinedOpenWhen,
  Middleware,
  RequestLike,
  ResponseLike,
  ResponseOf,
  Ways,
} from "../../src/http/index.ts";
export type {
  CauseCount,
  Completion,
  ConditionTrace,
  DivisionCount,
  Expected,
  ExpectedShare,
  ExplanationPaint,
  FlagReach,
  Given,
  GroupedCount,
  Lack,
  LeftoverReason,
  Move,
  OtherwiseStep,
  OverrideStep,
  PositionCounts,
  ProvidedStep,
  RuleStep,
  SentenceIn,
  ShareTrace,
  SplitTrace,
  SubjectTrace,
  SuspendedStep,
  TestTrace,
  ValueCount,
  WhereListed,
} from "../../src/insight/index.ts";
export type { AttributeTypeName, Group, Negation, Test } from "../../src/language/index.ts";
export type {
  AttributeDefinition,
  ConditionCohort,
  EnvironmentDefinition,
  ListCohort,
  ListRequest,
  ListResult,
  LotCohort,
  SchemaFault,
  SchemaProblem,
  Stop,
  Suspension,
  WindowDefinition,
} from "../../src/model/index.ts";
export type { ProblemKind, RelatedPlace, Span, TextFault } from "../../src/problems/index.ts";
export type {
  EditionFile,
  Noted,
  PostgresClient,
  RedisSubscriber,
} from "../../src/shelf/index.ts";
export type { JsonSchema } from "../../src/source/index.ts";
export type { CodePlace, PositionsTrial, Progress, See } from "../../src/study/index.ts";
export type { AfterEnd, FinishedEnd, MakeTest } from "../../src/testing/index.ts";
export type { AnswerWord, Range } from "../../src/values/index.ts";
export type {
  Columns,
  Difference,
  Direction,
  Figure,
  Guard,
  Interval,
  LeftOut,
  Margin,
  MeasureKind,
  Saying,
  WeighedMeasure,
} from "../../src/weigh/index.ts";
