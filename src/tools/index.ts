// What the commands do, for programs.
export { agendaCalendar } from "./agenda-calendar.ts";
export { putAt, readDeclared } from "./attribute-values.ts";
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
export {
  type ChangeRequest,
  changeFolder,
  commitChange,
  type FileChange,
  NothingToChange,
  type Plan,
  refuseUncommitted,
} from "./edit/change-folder.ts";
export type { Edit } from "./edit/edit.ts";
export { editText } from "./edit/edit-text.ts";
export { type SetRequest, setFlag } from "./edit/set-flag.ts";
export { type SetIdsRequest, setIds } from "./edit/set-ids.ts";
export { reinstate, type SuspendRequest, suspend } from "./edit/suspend.ts";
export { Git } from "./git/git.ts";
export { type HistoryEntry, type HistoryOptions, historyOf } from "./history.ts";
export { optionalPackage } from "./optional-package.ts";
export { type PeopleOptions, type PeopleRead, type Progress, readPeople, type See } from "./people.ts";
export { makeStarter, type Starter } from "./starter.ts";
export { ToolError } from "./tool-error.ts";
