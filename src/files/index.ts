// Files of a folder, wherever they come from: found, read, parsed, located, kept.

export { diskTime } from "./abandoned.ts";
export { readAtRest } from "./at-rest.ts";
export { entriesOf, type FolderContent, holdsTheSame, putTextsAway } from "./content.ts";
export {
  type FileName,
  fileName,
  isDefinitionFile,
  isListFile,
  localOverridesFile,
  requireFileName,
  suspendedFile,
} from "./file-name.ts";
export { type Entry, type Files, filesFrom, MovedFault, over } from "./files.ts";
export { filesOfCommit } from "./from/commit.ts";
export { Disk, type DiskFiles } from "./from/disk.ts";
export { filesOfEdition, type StoredFile } from "./from/edition.ts";
export { Git } from "./from/git.ts";
export { judgeContent, type Loaded, locateProblems } from "./judge-content.ts";
export type { Blobs } from "./keep/blobs.ts";
export { Keep, type KeptSet, suspendedData } from "./keep/keep.ts";
export { filesOfKept, keepSet, parsedBefore } from "./keep/kept-set.ts";
export { loadFolder, shownPath } from "./load.ts";
export { type LocalOverrides, readLocalOverrides } from "./local-overrides.ts";
export { type Lock, lockDirectory } from "./lock.ts";
export { makeOwnFolder } from "./own-folder.ts";
export { schemaPort } from "./parse/json-schemas.ts";
export { csvParser } from "./parse/lazy-csv.ts";
export { idsIn } from "./parse/packed-list.ts";
export { parseText } from "./parse/parse.ts";
export { yamlOptions } from "./parse/yaml.ts";
export { countOf, type LocatedProblem, type RelatedLocation } from "./places/located.ts";
export { type Paint, type RenderOptions, renderProblems, wrap } from "./places/render.ts";
export { whereListed } from "./places/where-listed.ts";
export { movedIn, mustReadAgain, readFiles, readSet, readSteadily } from "./read.ts";
export { NotRegularFault, readRegular } from "./read-regular.ts";
export { decodeText } from "./read-text.ts";
export { reasonOf } from "./reason.ts";
export { settleRevision } from "./revision.ts";
export { Settled } from "./settled.ts";
export { inSlices } from "./slices.ts";
export { readSuspended, unsaidSuspensions } from "./suspended.ts";
export { ToolError } from "./tool-error.ts";
export { versionOf } from "./version.ts";
export { writeAside, writeNew } from "./write-aside.ts";
