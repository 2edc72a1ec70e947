import { isAbsolute, join, relative } from "node:path";
import { printable } from "../values/index.ts";
import type { FolderContent } from "./content.ts";
import { Disk } from "./from/disk.ts";
import { judgeContent, type Loaded } from "./judge-content.ts";
import { readSteadily } from "./read.ts";

/** Reads, merges and checks a definition folder. Nothing of it throws for what the folder holds. */
export async function loadFolder(folder: string, before?: FolderContent): Promise<Loaded> {
  const disk = new Disk(folder);
  const loaded = await judgeContent(await readSteadily(() => disk.look(), { before }));
  // A single reading is followed by none that could use the thread again; a follower starts another.
  if (!before) loaded.content.tools.worker.close();
  return loaded;
}

/** A path as people write it: relative to where they are, if that is shorter. */
export function shownPath(folder: string, file: string): string {
  const path = file === folder || isAbsolute(file) ? file : join(folder, file);
  const near = relative(process.cwd(), path);
  return printable(near.startsWith("..") ? path : near);
}
