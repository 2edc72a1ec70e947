// What the commands do, for programs.

export { Git, ToolError } from "../folder/index.ts";
export { agendaCalendar } from "./agenda-calendar.ts";
export { catalogueModule } from "./catalogue-module.ts";
export { type CodeNames, type CodePlace, findCodeNames } from "./code-names.ts";
export {
  type CensusRequest,
  countPositions,
  type FlagsCensus,
  type FlagsCensusRequest,
  type PeopleCensus,
  type PeopleReach,
  type PositionsRequest,
  type ReachRequest,
  reachOfChange,
  takeCensus,
  takeCensusOfFlags,
} from "./count-people.ts";
export { loadCommit, loadSource, type Source } from "./definition-source.ts";
export { type Change, makeChange, type WorkedChange, workOut } from "./edit/change.ts";
export { type ChangeRequest, changeFolder, NothingToChange } from "./edit/change-folder.ts";
export { type CommitRequest, commitChange, commitOnBranch, refuseUncommitted } from "./edit/commit.ts";
export type { Edit } from "./edit/edit.ts";
export { editText } from "./edit/edit-text.ts";
export { type ExampleRequest, setExample } from "./edit/examples.ts";
export { type EditedList, editList } from "./edit/list-edit.ts";
export { type NewFlagRequest, newFlag } from "./edit/new-flag.ts";
export { newWarnings, type Plan, planOf } from "./edit/plan.ts";
export { type ReadIds, readIdsIn } from "./edit/read-ids.ts";
export { type RestoreRequest, restoreFlag } from "./edit/restore-flag.ts";
export { type SetCohortRequest, setCohort } from "./edit/set-cohort.ts";
export { type SetRequest, setFlag } from "./edit/set-flag.ts";
export { type SetIdsRequest, setIds } from "./edit/set-ids.ts";
export { reinstate, type SuspendRequest, suspend } from "./edit/suspend.ts";
export { type FileChange, Workplace } from "./edit/workplace.ts";
export { type HistoryEntry, type HistoryOptions, historyOf } from "./history.ts";
export { optionalPackage } from "./optional-package.ts";
export { type PeopleOptions, type PeopleRead, type Progress, readPeople, type See } from "./people.ts";
export { makeStarter, type Starter } from "./starter.ts";
