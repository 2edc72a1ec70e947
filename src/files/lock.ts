import { mkdir, realpath, rmdir, rmdirSync, stat, utimes } from "node:fs";
import { join } from "node:path";
import { diskTime } from "./abandoned.ts";

/** How long a lock is believed in when its holder has died, in milliseconds. */
const staleAfter = 10_000;

/** The right to write in a directory, for one writer at a time. */
export interface Lock {
  /** False once somebody else may have taken it over, after this process had slept for long. */
  readonly isHeld: boolean;
  release(): Promise<void>;
}

/**
 * Waits for its turn to write in a directory.
 *
 * @throws the file system's error where nothing can be written there, and one that says so where others hold the lock for long
 */
export async function lockDirectory(directory: string): Promise<Lock> {
  const { default: lockfile } = await import("proper-lockfile");
  let isHeld = true;
  const unlock = await lockfile.lock(directory, {
    lockfilePath: join(directory, ".iudex.lock"),
    stale: staleAfter,
    retries: { retries: 200, factor: 1.2, minTimeout: 20, maxTimeout: 250, randomize: true },
    fs: byOwnClock(Date.now() - (await diskTime(directory))),
    onCompromised: () => {
      isHeld = false;
    },
  });
  return {
    get isHeld() {
      return isHeld;
    },
    release: async () => {
      if (isHeld) await unlock();
    },
  };
}

type Then<T> = (error: NodeJS.ErrnoException | null, found?: T) => void;

/**
 * What a lock asks of the disk, with times by the clock of this process: it compares them with each other, and the disk
 * may be another machine's.
 *
 * @param apart by how many milliseconds this process is ahead
 */
function byOwnClock(apart: number): object {
  // In whole seconds: some file systems know no others.
  const ahead = Math.round(apart / 1_000) * 1_000;
  return {
    mkdir,
    realpath,
    rmdir,
    rmdirSync,
    stat: (path: string, then: Then<{ readonly mtime: Date }>) =>
      stat(path, (error, found) => then(error, found && { mtime: new Date(found.mtime.getTime() + ahead) })),
    utimes: (path: string, read: Date, changed: Date, then: Then<void>) =>
      utimes(path, new Date(read.getTime() - ahead), new Date(changed.getTime() - ahead), then),
  };
}
