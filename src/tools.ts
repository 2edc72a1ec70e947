/**
 * What the commands do, for programs.
 *
 * @module iudex/tools
 */
export { type Loaded, type LocatedProblem, loadFolder, renderProblems } from "./folder/index.ts";
export type { ExpectedShare } from "./insight/index.ts";
export {
  type AgendaEntry,
  type AgendaOptions,
  agendaOf,
  type CauseCount,
  type CensusResult,
  compareSets,
  type DivisionCount,
  type Expected,
  type FlagReach,
  type Given,
  type GroupedCount,
  type Leftover,
  type LeftoverOptions,
  type LeftoverReason,
  leftoversOf,
  type Move,
  type PartChange,
  type ValueCount,
} from "./insight/index.ts";
export { flagsBehind, Graph, type NodeKey, type NodeKind, type Reference, type Use } from "./model/index.ts";
export type { See } from "./tools/index.ts";
export {
  agendaCalendar,
  type CensusRequest,
  type ChangeRequest,
  type CodeNames,
  type CodePlace,
  catalogueModule,
  changeFolder,
  commitChange,
  type FileChange,
  findCodeNames,
  type HistoryEntry,
  type HistoryOptions,
  historyOf,
  loadSource,
  makeStarter,
  NothingToChange,
  type PeopleCensus,
  type PeopleOptions,
  type PeopleReach,
  type PeopleRead,
  type Plan,
  type Progress,
  type ReachRequest,
  reachOfChange,
  readPeople,
  refuseUncommitted,
  reinstate,
  type SetIdsRequest,
  type SetRequest,
  type Source,
  type Starter,
  type SuspendRequest,
  setFlag,
  setIds,
  suspend,
  ToolError,
  takeCensus,
} from "./tools/index.ts";
