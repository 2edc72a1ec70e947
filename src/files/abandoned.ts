import { randomUUID } from "node:crypto";
import { open, readdir, rm, stat } from "node:fs/promises";
import { join } from "node:path";

/** Half-written files older than this were left by a process that died; younger ones may be another's work. Milliseconds. */
const abandonedAfter = 60_000;

/**
 * Removes what was being written aside in a directory by processes that have died. What cannot be removed stays: the
 * copy beside it is kept all the same.
 */
export async function removeAbandoned(directory: string): Promise<void> {
  const now = await diskTime(directory).catch(() => Number.NEGATIVE_INFINITY);
  for (const name of await readdir(directory).catch(() => [])) {
    if (!/^\..*\.tmp$/.test(name)) continue;
    const path = join(directory, name);
    const found = await stat(path).catch(() => undefined);
    if (found && now - found.mtimeMs > abandonedAfter) await rm(path, { force: true }).catch(() => {});
  }
}

/**
 * The time by the clock of the disk on which a directory lies, in epoch milliseconds: it may be another machine's.
 *
 * @throws where nothing can be written
 */
export async function diskTime(directory: string): Promise<number> {
  const probe = join(directory, `.${randomUUID()}.tmp`);
  const file = await open(probe, "wx", 0o600);
  try {
    return (await file.stat()).mtimeMs;
  } finally {
    await file.close();
    await rm(probe, { force: true });
  }
}
