// The resolved model: flags, rules, cohorts, windows, who refers to whom, the revision.
export { type AskedAttributes, askedAttributes } from "./asked-attributes.ts";
export { putAt, readDeclared, readUndeclared } from "./attribute-text.ts";
export { isOfType } from "./attribute-type.ts";
export { ConditionBook } from "./condition-book.ts";
export { DefinitionSet } from "./definition-set.ts";
export {
  type Division,
  isDivided,
  isInside,
  partsOf,
  rangeAt,
  rangesFrom,
  type Share,
  type ShareStep,
  type Split,
  showShare,
  stepsOf,
  subjectOf,
} from "./division.ts";
export { flagsBehind, Graph, pathOf, type Reference, type Use } from "./graph.ts";
export { digestForm, isListed, listedAs, saltedDigest } from "./listed.ts";
export { type NodeKey, type NodeKind, nodeKey, partsOfKey } from "./node.ts";
export { readAttributes } from "./read-attributes.ts";
export { type ListReader, type ListRequest, type ListResult, listRequests, readCohorts } from "./read-cohorts.ts";
export { FlagReader } from "./read-flags.ts";
export { readSuspensions, saysSuspensions } from "./read-suspensions.ts";
export { readWindows, readZone } from "./read-windows.ts";
export {
  blockOf,
  CanonicalMemory,
  canonicalFlag,
  canonicalNode,
  digestOfIds,
  type EntryKind,
  entryText,
  piecesOfIds,
  revisionInSteps,
  shortRevision,
} from "./revision.ts";
export {
  conditionsOf,
  eachCondition,
  type FlagIn,
  flagIn,
  givenBy,
  placeOfCondition,
  placeOfRule,
  Rule,
  ruleCalled,
  settingsIn,
  writtenRules,
} from "./rules.ts";
export type { CompiledSchema, SchemaFault, SchemaPort, SchemaProblem } from "./schemas.ts";
export { holdsIn, joinedStops, type Stop, type Suspension, type Suspensions, stopIn, writtenStop } from "./stops.ts";
export type {
  AttributeDefinition,
  CohortDefinition,
  ConditionCohort,
  Definitions,
  EnvironmentDefinition,
  FlagDefinition,
  ListCohort,
  LotCohort,
  WindowDefinition,
} from "./types.ts";
