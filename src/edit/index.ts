// Changes: worked out, shown, written, recorded, published.

export { type Change, makeChange, type WorkedChange, workOut } from "./change.ts";
export {
  type ChangeField,
  type ChangeForms,
  changeFields,
  changeForms,
  type FieldForm,
  type FieldKind,
} from "./change-fields.ts";
export { type ChangeRequest, changeFolder, NothingToChange } from "./change-folder.ts";
export { changeWords, subjectOfChange } from "./change-words.ts";
export { type CommitRequest, commitChange, commitOnBranch, mayBeAuthor, refuseUncommitted } from "./commit.ts";
export { EditSession, type FileChange } from "./edit-session.ts";
export { type ExampleRequest, setExample } from "./examples.ts";
export type { RemoveRequest, RenameRequest } from "./flag-life.ts";
export { type EditedList, editList } from "./list-edit.ts";
export { type NewFlagRequest, newFlag } from "./new-flag.ts";
export type { OwnRulesRequest } from "./own-rules.ts";
export { newWarnings, type Plan, planOf } from "./plan.ts";
export { loadEdition } from "./publish/load-edition.ts";
export type { FolderRequest, Published, PublishPlan, PublishRequest } from "./publish/publish.ts";
export { historyOfShelf, type ShelfEntry } from "./publish/shelf-history.ts";
export type { StopsPlan, StopsPut, StopsRequest } from "./publish/stops-at-shelf.ts";
export { publishAgain, publishFolder, reinstateAtShelf, signStopsAgain, suspendAtShelf } from "./publish/when-asked.ts";
export { type ReadIds, readIdsIn } from "./read-ids.ts";
export { type RestoreRequest, restoreFlag } from "./restore-flag.ts";
export { type SetCohortRequest, setCohort } from "./set-cohort.ts";
export { type SetRequest, setFlag } from "./set-flag.ts";
export { type SetIdsRequest, setIds } from "./set-ids.ts";
export type { VariantRequest } from "./set-variant.ts";
export type { StopRequest } from "./stops.ts";
export { reinstate, type SuspendRequest, suspend } from "./suspend.ts";
