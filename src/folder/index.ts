// A folder of files: found, read, parsed, located, kept.

export { diskTime, removeAbandoned } from "./abandoned.ts";
export { entriesOf, type FolderContent, FolderTools, holdsTheSame, putTextsAway } from "./content.ts";
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
export { parseJson } from "./json.ts";
export { type SchemaFile, schemaPort } from "./json-schemas.ts";
export { judgeContent, type Loaded, locateProblems } from "./judge-content.ts";
export { Blobs } from "./keep/blobs.ts";
export { Keep, type KeptRecord, type KeptSet, suspendedData } from "./keep/keep.ts";
export { filesOfKept, keepSet, parsedBefore } from "./keep/kept-set.ts";
export { listKey } from "./lists.ts";
export { loadFolder, shownPath } from "./load.ts";
export { type LocalOverrides, readLocalOverrides } from "./local-overrides.ts";
export { countOf, type LocatedProblem, type RelatedLocation } from "./located.ts";
export { type Lock, lockDirectory } from "./lock.ts";
export { makeOwnFolder } from "./own-folder.ts";
export { idsIn } from "./packed-list.ts";
export { parseText } from "./parse.ts";
export { csvParser } from "./rarely.ts";
export { mustReadAgain, type ReadOptions, readFiles, readSet, readSteadily } from "./read.ts";
export { decodeText } from "./read-text.ts";
export { reasonOf } from "./reason.ts";
export { type Paint, type RenderOptions, renderProblems, wrap } from "./render.ts";
export { settleRevision } from "./revision.ts";
export { Settled } from "./settled.ts";
export { inSlices } from "./slices.ts";
export { readSuspended, unsaidSuspensions } from "./suspended.ts";
export { ToolError } from "./tool-error.ts";
export { versionOf } from "./version.ts";
export { whereListed } from "./where-listed.ts";
export { yamlOptions } from "./yaml.ts";
