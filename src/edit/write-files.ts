import {
  type Loaded,
  type Lock,
  loadFolder,
  lockDirectory,
  MovedFault,
  reasonOf,
  suspendedFile,
  ToolError,
  versionOf,
} from "../files/index.ts";
import { type FileChange, nameOf } from "./edit-session.ts";
import { withStops } from "./suspended-text.ts";
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
    for (const { file, text } of inOrder(now, files)) {
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

/**
 * Files are put into their places one after the other, and somebody may read between two of them: where a change ends stops
 * beside others, a flag's new name among them, `suspended.yaml` first holds the old ones with the new.
 */
function inOrder({ content }: Loaded, files: readonly FileChange[]): readonly FileChange[] {
  const last = files.find(({ file }) => file === suspendedFile);
  const before = content.files.get(suspendedFile);
  if (!last || !before || files.length === 1) return files;
  const text = withStops(last.text, before.text);
  return [{ file: suspendedFile, text }, ...files.filter((each) => each !== last), last];
}

async function locked(root: string): Promise<Lock> {
  try {
    return await lockDirectory(root);
  } catch (error) {
    throw new ToolError(`The folder cannot be locked for writing: ${reasonOf(error)}.`, "nothing was changed");
  }
}
