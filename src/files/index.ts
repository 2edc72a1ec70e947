export { localOverridesFile, scanFolder, shownPath, signatureOf, suspendedFile } from "./folder.ts";
export {
  currentSignature,
  type FolderContent,
  judgeContent,
  type Loaded,
  loadFolder,
  readFolder,
} from "./load.ts";
export type { LocatedProblem, RelatedLocation } from "./located.ts";
export { renderProblems } from "./render.ts";
