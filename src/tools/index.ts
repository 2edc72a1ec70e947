export { type AgendaEntry, type AgendaOptions, agendaOf } from "../core/agenda/agenda.ts";
export type {
  CauseCount,
  CensusResult,
  DivisionCount,
  Expected,
  GroupedCount,
  ValueCount,
} from "../core/census/census.ts";
export { compareSets, type PartChange } from "../core/change/compare.ts";
export type { FlagReach, Given, Move } from "../core/change/reach.ts";
export { type Leftover, type LeftoverOptions, type LeftoverReason, leftoversOf } from "../core/leftovers/leftovers.ts";
export { attributesBehind, flagsBehind, type Node, type Use, usesOf } from "../core/usage/uses.ts";
export { type Loaded, type LocatedProblem, loadFolder, renderProblems } from "../files/index.ts";
export { agendaCalendar } from "./agenda-calendar.ts";
export { catalogueModule } from "./catalogue-module.ts";
export { type CodeNames, type CodePlace, findCodeNames } from "./code-names.ts";
export {
  type CensusRequest,
  type PeopleCensus,
  type PeopleReach,
  type ReachRequest,
  reachOfChange,
  takeCensus,
} from "./count-people.ts";
export { loadSource, type Source } from "./definition-source.ts";
export { type ChangeRequest, changeFolder, commitChange, type FileChange, type Plan } from "./edit/change-folder.ts";
export { type SetRequest, setFlag } from "./edit/set-flag.ts";
export { NothingToChange, reinstate, type SuspendRequest, suspend } from "./edit/suspend.ts";
export { type HistoryEntry, type HistoryOptions, historyOf } from "./history.ts";
export { type PeopleOptions, type PeopleRead, type Progress, readPeople } from "./people.ts";
export { makeStarter, type Starter } from "./starter.ts";
export { ToolError } from "./tool-error.ts";
