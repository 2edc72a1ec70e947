import { type BigIntStats, lstat as lstatOf } from "node:fs";
import { readdir, realpath, stat } from "node:fs/promises";
import { join, sep } from "node:path";
import { promisify } from "node:util";
import { limits } from "../../values/index.ts";
import { type FileName, isListFile, outside } from "../file-name.ts";
import { type Entry, type EntryFault, type Files, MovedFault, stampOf } from "../files.ts";
import { NotRegularFault, readRegular } from "../read-regular.ts";
import { reasonOf } from "../reason.ts";
import { coarse, Settled } from "../settled.ts";
import { type Found, notRegular, unreadable, walk } from "./walk.ts";

/** At half the cost of the one in `fs/promises`, which is most of a look at a thousand files. */
const lstat = promisify(lstatOf);

/** A folder on disk at one moment. */
export interface DiskFiles extends Files {
  /** Undefined if the folder does not exist. */
  readonly root: string | undefined;
  /** Every directory that was listed, by real path: what a watcher must watch. */
  readonly directories: ReadonlySet<string>;
  /** When the file was changed that was changed last, by the clock of the disk: epoch milliseconds. */
  readonly newest: number;
}

/** A definition folder on disk, looked at again and again. Nothing outside its real path is ever opened. */
export class Disk {
  readonly folder: string;
  readonly #settled = new Settled();

  constructor(folder: string) {
    this.folder = folder;
  }

  /** All files of the folder. */
  async look(): Promise<DiskFiles> {
    const root = await realFolder(this.folder);
    if (typeof root !== "string") return nowhere(root);
    const found: Placed[] = [];
    const { entries, faults, directories, isListed } = await walk(treeIn(root, found), root);
    const newest = this.#settle(entries, found);
    return { stamp: stampWith(entries, faults), entries, faults, isListed, root, directories, newest };
  }

  /** Some files of the folder by their names, without looking at the others. */
  async some(names: Iterable<FileName>): Promise<DiskFiles> {
    const root = await realFolder(this.folder);
    if (typeof root !== "string") return nowhere(root);
    const placed: Placed[] = [];
    const tree = treeIn(root, placed);
    const entries = new Map<FileName, Entry>();
    const faults: EntryFault[] = [];
    let isListed = true;
    for (const name of names) {
      try {
        const found = await tree.look(root, name);
        if (found.kind === "file") entries.set(name, found.entry(name));
        else faults.push({ file: name, fault: found.kind === "outside" ? outside(name) : notRegular(name) });
      } catch (error) {
        if (await isGone(root, name)) continue;
        faults.push({ file: name, fault: unreadable(name, error) });
        isListed = false;
      }
    }
    const newest = this.#settle(entries, placed);
    return { stamp: stampOf(entries), entries, faults, isListed, root, directories: new Set([root]), newest };
  }

  /** Marks that no change can hide behind become stamps. @returns when the last change was */
  #settle(entries: Map<FileName, Entry>, placed: readonly Placed[]): number {
    const newest = placed.reduce((most, { changed }) => Math.max(most, changed), 0);
    const changed = new Map(placed.map((each) => [each.entry, each.changed]));
    for (const [name, entry] of entries) {
      // What is so much older than another file of the disk would show a change by its time.
      const isOld = (changed.get(entry) ?? newest) < newest - coarse;
      const isSettled = this.#settled.has(entry.path!, entry.mark);
      if (isOld || isSettled) entries.set(name, { ...entry, stamp: entry.mark });
    }
    return newest;
  }
}

function stampWith(entries: Files["entries"], faults: readonly EntryFault[]): string | undefined {
  const stamp = stampOf(entries);
  return stamp === undefined ? undefined : `${stamp}\n${JSON.stringify(faults)}`;
}

interface Placed {
  readonly entry: Entry;
  /** By the clock of the disk, in epoch milliseconds. */
  readonly changed: number;
}

function nowhere(fault: EntryFault): DiskFiles {
  return {
    stamp: undefined,
    entries: new Map(),
    faults: [fault],
    isListed: false,
    root: undefined,
    directories: new Set(),
    newest: 0,
  };
}

async function realFolder(folder: string): Promise<string | EntryFault> {
  const fault = (message: string, expected: string): EntryFault => ({
    file: folder,
    fault: { code: "folder-missing", message, expected },
  });
  try {
    const root = await realpath(folder);
    if ((await stat(root)).isDirectory()) return root;
    return fault(`“${folder}” is a file.`, "a folder of definition files");
  } catch (error) {
    return fault(
      `The definition folder “${folder}” cannot be opened: ${reasonOf(error)}.`,
      "a folder with at least one definition file",
    );
  }
}

/** True only if it is certain. */
async function isGone(root: string, name: FileName): Promise<boolean> {
  const path = name.split("/");
  for (let i = 0; i < path.length; i++) {
    try {
      if (!(await readdir(join(root, ...path.slice(0, i)))).includes(path[i]!)) return true;
    } catch {
      return false;
    }
  }
  return false;
}

function treeIn(root: string, placed: Placed[]) {
  const isInside = (real: string) => real === root || real.startsWith(root + sep);
  return {
    names: (directory: string) => readdir(directory),
    async look(directory: string, name: string): Promise<Found> {
      const path = join(directory, name);
      let real = path;
      let found = await lstat(path, { bigint: true });
      // A directory that was found is a real path already; a name with slashes may lead through links.
      if (found.isSymbolicLink() || name.includes("/")) {
        real = await realpath(path);
        found = await stat(real, { bigint: true });
      }
      if (!isInside(real)) return { kind: "outside", isDirectory: found.isDirectory() };
      if (found.isDirectory()) return { kind: "directory", real };
      if (!found.isFile()) return { kind: "other" };
      const entry = (file: string): Entry => {
        const made = entryAt(file, real, found);
        placed.push({ entry: made, changed: Number(found.ctimeNs / 1_000_000n) });
        return made;
      };
      return { kind: "file", identity: `${found.dev}:${found.ino}`, entry };
    },
  };
}

function entryAt(file: string, path: string, found: BigIntStats): Entry {
  const mark = markOf(path, found);
  const most = isListFile(file) ? limits.listBytes : limits.fileBytes;
  return {
    file,
    mark,
    stamp: undefined,
    size: Number(found.size),
    path,
    bytes: () => readUnmoved(path, mark, most),
  };
}

function markOf(path: string, { size, ino, mtimeNs, ctimeNs }: BigIntStats): string {
  return [path, size, ino, mtimeNs, ctimeNs].join(":");
}

/**
 * Reads a regular file that is still what was found, or fails.
 *
 * @throws {MovedFault} where it has changed since it was found, or while it was read
 */
export async function readUnmoved(path: string, mark: string, most: number): Promise<Uint8Array> {
  try {
    return await readRegular(path, most, (found) => markOf(path, found) === mark);
  } catch (error) {
    throw error instanceof NotRegularFault ? new MovedFault() : error;
  }
}
