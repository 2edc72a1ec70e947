// What is found out about definitions and people, for programs and commands.

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
  type PositionsTrial,
  type ReachRequest,
  reachOfChange,
  takeCensus,
  takeCensusOfFlags,
} from "./count-people.ts";
export { loadCommit, loadSource, type Source } from "./definition-source.ts";
export { type HistoryEntry, type HistoryOptions, historyOf } from "./history.ts";
export { optionalPackage } from "./optional-package.ts";
export { type PeopleOptions, type PeopleRead, type Progress, readPeople, type See } from "./people.ts";
export { type RowReader, readRows } from "./rows.ts";
export { makeStarter, type Starter } from "./starter.ts";
