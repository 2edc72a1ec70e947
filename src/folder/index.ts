export {
  currentSignature,
  type FolderContent,
  FolderTools,
  judgeContent,
  type Loaded,
  type LoadedFile,
  loadFolder,
  readAhead,
  readFolder,
} from "./load.ts";
export type { LocatedProblem, RelatedLocation } from "./located.ts";
export { renderProblems } from "./render.ts";
export { localOverridesFile, scanFolder, shownPath, signatureOf, suspendedFile } from "./scan.ts";
