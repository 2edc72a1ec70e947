import { limits } from "../../values/index.ts";
import type { FileFault } from "./parsed-file.ts";

export function tooLarge(size: number): FileFault | undefined {
  if (size <= limits.fileBytes) return undefined;
  return {
    code: "file-too-large",
    range: { start: 0, end: 0 },
    message: "This file is too large.",
    found: `${(size / 2 ** 20).toFixed(1)} MB`,
    expected: `at most ${limits.fileBytes / 2 ** 20} MB`,
    help: "split it, or move ids to a list file",
  };
}

export const folderTooLarge: FileFault = {
  code: "folder-too-large",
  range: { start: 0, end: 0 },
  message: "With this file the definitions are too large.",
  expected: `at most ${limits.folderBytes / 2 ** 20} MB in all files together`,
  help: "move ids to list files",
};
