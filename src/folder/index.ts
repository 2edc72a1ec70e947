// A folder of files: found, read, parsed, located, kept.

export { diskTime, removeAbandoned } from "./abandoned.ts";
export { currentSignature, type FolderContent, FolderTools, putTextsAway } from "./content.ts";
export { keyOf, knownKeyOf } from "./copy-file.ts";
export { parseJson } from "./json.ts";
export { type SchemaFile, schemaPort } from "./json-schemas.ts";
export { judgeContent, type Loaded, locateProblems } from "./judge-content.ts";
export { keepSuspensions, suspendedData } from "./kept-suspensions.ts";
export { keepCopy, loadKept, parsedBefore } from "./last-good.ts";
export { type LoadedList, listKey, listsIn, loadList } from "./lists.ts";
export { loadFolder, readFolder } from "./load.ts";
export { readAhead } from "./load-files.ts";
export { LoadedFile } from "./loaded-file.ts";
export { type LocalOverrides, readLocalOverrides } from "./local-overrides.ts";
export { countOf, type LocatedProblem, type RelatedLocation } from "./located.ts";
export { type Lock, lockDirectory } from "./lock.ts";
export { makeOwnFolder } from "./own-folder.ts";
export { idsIn, packIds, resultOf } from "./packed-list.ts";
export { parseText } from "./parse.ts";
export { csvParser } from "./rarely.ts";
export { decodeText, readText, reasonOf } from "./read-text.ts";
export { type Paint, type RenderOptions, renderProblems, wrap } from "./render.ts";
export { settleRevision } from "./revision.ts";
export {
  type FolderScan,
  type FoundFile,
  isDefinitionFile,
  localOverridesFile,
  lookAtFile,
  scanFolder,
  shownPath,
  suspendedFile,
} from "./scan.ts";
export { loadSchemas } from "./schema-files.ts";
export { Settled } from "./settled.ts";
export { inSlices } from "./slices.ts";
export { nameInFolder, readStored, type StoredFile } from "./stored.ts";
export { readSuspended, unsaidSuspensions } from "./suspended.ts";
export { versionOf } from "./version.ts";
export { whereListed } from "./where-listed.ts";
export { yamlOptions } from "./yaml.ts";
