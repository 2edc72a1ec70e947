import { mkdir, readFile, realpath, rm } from "node:fs/promises";
import { dirname, join, sep } from "node:path";
import { type Loaded, type Lock, loadFolder, lockDirectory, reasonOf, versionOf } from "../../folder/index.ts";
import { ToolError } from "../tool-error.ts";
import type { FileChange } from "./workplace.ts";

/**
 * Writes files aside and renames them, unless the folder has changed since it was read. Writers take turns; where one
 * file cannot be written, those before it get back what they held.
 *
 * @returns false where the folder has changed, so that the change must be worked out anew
 * @throws {ToolError} that says so where a file cannot be written
 */
export async function writeUnlessChanged(
  root: string,
  folder: string,
  loaded: Loaded,
  files: readonly FileChange[],
): Promise<boolean> {
  const lock = await locked(root);
  try {
    const now = await loadFolder(folder, loaded.content);
    if (versionOf(now.content) !== versionOf(loaded.content)) return false;
    await writeAll(root, loaded, files);
    return true;
  } finally {
    await lock.release();
  }
}

async function writeAll(root: string, loaded: Loaded, files: readonly FileChange[]): Promise<void> {
  const { default: writeFileAtomic } = await import("write-file-atomic");
  const undo: (() => Promise<void>)[] = [];
  for (const { file, text } of files) {
    try {
      const path = await pathOf(root, loaded, file);
      const before = await readFile(path).catch(() => undefined);
      await writeFileAtomic(path, hasMark(before) ? `\ufeff${text}` : text);
      undo.push(() => (before ? writeFileAtomic(path, before) : rm(path, { force: true })));
    } catch (error) {
      for (const each of undo.reverse()) await each().catch(() => {});
      if (error instanceof ToolError) throw error;
      throw new ToolError(`${file} cannot be written: ${reasonOf(error)}.`, "nothing was changed");
    }
  }
}

/** Where a file stands; a new one stands in the folder and nowhere else, links on the way notwithstanding. */
async function pathOf(root: string, loaded: Loaded, file: string): Promise<string> {
  const list = [...loaded.content.lists.values()].find(({ request }) => request.file === file);
  const known = loaded.content.files.get(file)?.found.path ?? list?.path;
  if (known !== undefined) return known;
  const path = join(root, file);
  if (!path.startsWith(root + sep)) throw new ToolError(`“${file}” leads out of the definition folder.`);
  await mkdir(dirname(path), { recursive: true });
  const home = await realpath(dirname(path));
  if (home !== root && !home.startsWith(root + sep))
    throw new ToolError(`“${file}” leads out of the definition folder.`, "nothing was changed");
  return path;
}

/** A byte order mark stays where somebody's editor put it. */
function hasMark(bytes: Buffer | undefined): boolean {
  return bytes?.subarray(0, 3).equals(Buffer.from([0xef, 0xbb, 0xbf])) ?? false;
}

async function locked(root: string): Promise<Lock> {
  try {
    return await lockDirectory(root);
  } catch (error) {
    throw new ToolError(`The folder cannot be locked for writing: ${reasonOf(error)}.`);
  }
}
