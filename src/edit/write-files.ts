import {
  type Loaded,
  type Lock,
  loadFolder,
  lockDirectory,
  MovedFault,
  reasonOf,
  ToolError,
  versionOf,
} from "../files/index.ts";
import { type FileChange, nameOf } from "./edit-session.ts";
import { FolderWriter } from "./writer.ts";

/**
 * Writes files aside and puts them into their places, unless the folder has changed since it was read. Writers take turns;
 * where one file cannot be written, those before it get back what they held.
 *
 * @returns false where the folder has changed, so that the change must be worked out again
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
    return await writeAll(root, now, files, lock);
  } finally {
    await lock.release();
  }
}

async function writeAll(root: string, now: Loaded, files: readonly FileChange[], lock: Lock): Promise<boolean> {
  const writer = new FolderWriter(root);
  try {
    for (const { file, text } of files) {
      const name = nameOf(file);
      try {
        // This process may have slept, and somebody else be writing.
        if (!lock.isHeld) throw new MovedFault();
        await writer.write(name, new TextEncoder().encode(text), now.content.source.entries.get(name));
      } catch (error) {
        await writer.undo();
        if (error instanceof MovedFault) return false;
        if (error instanceof ToolError) throw error;
        throw new ToolError(`${file} cannot be written: ${reasonOf(error)}.`, "nothing was changed");
      }
    }
    return true;
  } finally {
    await writer.close();
  }
}

async function locked(root: string): Promise<Lock> {
  try {
    return await lockDirectory(root);
  } catch (error) {
    throw new ToolError(`The folder cannot be locked for writing: ${reasonOf(error)}.`, "nothing was changed");
  }
}
