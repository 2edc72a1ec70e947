import { readdir, rm, stat } from "node:fs/promises";
import { join } from "node:path";

/** Half-written files older than this were left by a process that died; younger ones may be another's work. Milliseconds. */
const abandonedAfter = 60_000;

/**
 * Removes what was being written aside in a directory by processes that died meanwhile. What cannot be removed stays: the
 * copy beside it is kept all the same.
 */
export async function removeAbandoned(directory: string): Promise<void> {
  for (const name of await readdir(directory).catch(() => [])) {
    if (!/^\..*\.tmp$/.test(name)) continue;
    const path = join(directory, name);
    const found = await stat(path).catch(() => undefined);
    if (found && Date.now() - found.mtimeMs > abandonedAfter) await rm(path, { force: true }).catch(() => {});
  }
}
