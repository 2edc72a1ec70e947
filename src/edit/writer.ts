import { randomUUID } from "node:crypto";
import { constants, existsSync } from "node:fs";
import { type FileHandle, link, lstat, mkdir, open, rename, rm } from "node:fs/promises";
import { join, relative, sep } from "node:path";
import { type Entry, type FileName, MovedFault, NotRegularFault, readRegular, ToolError } from "../files/index.ts";

/**
 * Writes files of a definition folder, and nothing else: directories are opened without following links, a new file never
 * takes the place of anything that is there, and a file that is replaced is still the one that was read.
 */
export class FolderWriter {
  readonly #root: string;
  readonly #directories: OpenDirectory[] = [];
  readonly #undo: (() => Promise<void>)[] = [];
  /** What files hold that were written once already. */
  readonly #written = new Map<FileName, Uint8Array>();

  /** @param root the folder's real path */
  constructor(root: string) {
    this.#root = root;
  }

  /**
   * Writes a file aside and puts it into its place; one that is there may be written several times.
   *
   * @param before what is there; undefined for a new file
   * @throws {MovedFault} if something else is there by now
   * @throws {ToolError} if a new file would take the place of something
   */
  async write(name: FileName, bytes: Uint8Array, before: Entry | undefined): Promise<void> {
    const place = before?.path === undefined ? name : relative(this.#root, before.path).replaceAll(sep, "/");
    const parts = place.split("/");
    const directory = await openDirectory(this.#root, parts.slice(0, -1), before === undefined);
    this.#directories.push(directory);
    const last = parts.at(-1)!;
    const path = directory.path(last);
    if (before) {
      const { old, mode } = await stillThere(path, Buffer.from(this.#written.get(name) ?? (await before.bytes())));
      const now = withMark(bytes, old);
      const put = async (content: Uint8Array) => rename(await writtenAside(directory, content, mode), path);
      await put(now);
      this.#written.set(name, now);
      this.#undo.push(() => put(old));
    } else this.#undo.push(await created(directory, last, bytes, name));
  }

  /** Gives the files back what they held, the last one first, through the directories in which they were written. */
  async undo(): Promise<void> {
    for (const each of this.#undo.splice(0).reverse()) await each().catch(() => {});
  }

  /** Closes the directories; nothing can be undone afterwards. */
  async close(): Promise<void> {
    for (const directory of this.#directories.splice(0)) await directory.close();
  }
}

/** An open directory, through which files are reached whatever is put in its place. */
interface OpenDirectory {
  path(name: string): string;
  close(): Promise<void>;
}

/** Where the system lets an open directory be reached by its number. */
const byNumber = existsSync("/proc/self/fd");

async function openDirectory(root: string, parts: readonly string[], mayMake: boolean): Promise<OpenDirectory> {
  const flags = constants.O_RDONLY | (constants.O_DIRECTORY ?? 0) | (constants.O_NOFOLLOW ?? 0);
  let handle = await open(root, flags);
  let real = root;
  const path = (name: string) => (byNumber ? `/proc/self/fd/${handle.fd}/${name}` : join(real, name));
  for (const part of parts) {
    const within = path(part);
    try {
      if (mayMake)
        await mkdir(within).catch((error: NodeJS.ErrnoException) => {
          if (error.code !== "EEXIST") throw error;
        });
      const next = await open(within, flags);
      await handle.close();
      handle = next;
      real = join(real, part);
    } catch (error) {
      await handle.close();
      const { code } = error as NodeJS.ErrnoException;
      if (code !== "ELOOP" && code !== "ENOTDIR") throw error;
      throw new ToolError(`“${part}” is a link or a file, not a folder.`, "nothing was changed");
    }
  }
  return { path, close: () => handle.close() };
}

async function created(
  directory: OpenDirectory,
  last: string,
  bytes: Uint8Array,
  name: FileName,
): Promise<() => Promise<void>> {
  const path = directory.path(last);
  const taken = () => new ToolError(`There is something called “${name}” already.`, "choose another name");
  if (await lstat(path).catch(() => undefined)) throw taken();
  const aside = await writtenAside(directory, bytes);
  try {
    // A link is made only where nothing is; a rename would replace what has come in between.
    await link(aside, path);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "EEXIST") throw taken();
    // File systems without hard links.
    await writeExclusively(path, bytes);
  } finally {
    await rm(aside, { force: true });
  }
  return () => rm(path, { force: true });
}

async function writeExclusively(path: string, bytes: Uint8Array): Promise<void> {
  const file = await open(path, "wx");
  await written(file, bytes);
}

/** @throws {MovedFault} if something else is there than was read, a link or a pipe included */
async function stillThere(path: string, read: Buffer): Promise<{ readonly old: Buffer; readonly mode: number }> {
  let mode = 0;
  const old = await readRegular(path, read.length, (found) => {
    mode = Number(found.mode) & 0o7777;
    return true;
  }).catch((error: NodeJS.ErrnoException) => {
    const isElse = error instanceof NotRegularFault || error.code === "ELOOP" || error.code === "ENOENT";
    throw isElse ? new MovedFault() : error;
  });
  if (!old.equals(read)) throw new MovedFault();
  return { old, mode };
}

/** A byte order mark stays where somebody's editor put it. */
function withMark(bytes: Uint8Array, before: Buffer): Uint8Array {
  const mark = Buffer.from([0xef, 0xbb, 0xbf]);
  return before.subarray(0, 3).equals(mark) ? Buffer.concat([mark, bytes]) : bytes;
}

/** @param mode that of the file which it replaces, whatever the process lets new ones have */
async function writtenAside(directory: OpenDirectory, bytes: Uint8Array, mode?: number): Promise<string> {
  const aside = directory.path(`.${randomUUID()}.tmp`);
  const file = await open(aside, "wx");
  try {
    if (mode !== undefined) await file.chmod(mode);
    await written(file, bytes);
  } catch (error) {
    await rm(aside, { force: true });
    throw error;
  }
  return aside;
}

async function written(file: FileHandle, bytes: Uint8Array): Promise<void> {
  try {
    await file.writeFile(bytes);
    await file.sync();
  } finally {
    await file.close();
  }
}
