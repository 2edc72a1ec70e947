import { createHash, randomUUID } from "node:crypto";
import { createReadStream, existsSync } from "node:fs";
import { copyFile, mkdir, open, readdir, readFile, rename, rm, stat } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { type Blobs, makeOwnFolder, reasonOf, type StoredFile } from "../../files/index.ts";
import { type EditionFile, ShelfFault } from "../../shelf/index.ts";

/** A folder in memory, where a machine has one: the last resort when no disk takes anything. */
const inMemory = "/dev/shm";

/** A file of an edition that stands on this machine. */
export interface FileOnDisk extends StoredFile {
  readonly path: string;
}

/** Where the files of editions are found on this machine, and taken in. */
export interface Store {
  /** A file that is here already, and is what its name says. */
  find(file: EditionFile): Promise<StoredFile | undefined>;
  /** Takes a file in while it is fetched. @throws {ShelfFault} where it is not what the edition says, or cannot be stored */
  take(file: EditionFile, fetch: () => AsyncIterable<Uint8Array>): Promise<StoredFile>;
}

/**
 * The files of editions on this machine, each under its digest, whole or not at all. They stand in the folder for good
 * copies; where there is none, or it takes nothing (a full disk, say), in a folder of this process's own that goes with
 * it.
 */
export class FileStore implements Store {
  readonly #kept: Blobs | undefined;
  /** The paths of files whose bytes are known to be what their names say. */
  readonly #sound = new Set<string>();
  /** By the folder that it is made in; made when first needed. */
  readonly #own = new Map<string, Promise<string | undefined>>();

  /** @param kept where good copies are */
  constructor(kept: Blobs | undefined) {
    this.#kept = kept;
  }

  /** Where a file stands, if it does and is what its name says: its bytes are read once in a process. */
  async find(file: EditionFile): Promise<FileOnDisk | undefined> {
    for (const directory of await this.#directories()) {
      const path = join(directory, file.sha256);
      const found = await stat(path).catch(() => undefined);
      if (found?.size !== file.bytes) continue;
      if (!this.#sound.has(path) && (await digestOf(path)) !== file.sha256) continue;
      this.#sound.add(path);
      return onDisk(file, path);
    }
    return undefined;
  }

  async take(file: EditionFile, fetch: () => AsyncIterable<Uint8Array>): Promise<FileOnDisk> {
    let refused: unknown = new Error("no folder for it can be made");
    for await (const directory of this.#places()) {
      try {
        const stored = await takeInto(directory, file, fetch(), this.#isKept(directory));
        this.#sound.add(stored.path);
        return stored;
      } catch (error) {
        if (!isOfStorage(error)) throw error;
        refused = error;
      }
    }
    throw new ShelfFault(`“${file.path}” cannot be stored on this machine: ${reasonOf(refused)}.`);
  }

  /** Makes sure that the files of an edition stand in the folder for good copies. @throws where they cannot */
  async keep(files: readonly EditionFile[]): Promise<void> {
    if (this.#kept === undefined) return;
    const { directory } = this.#kept;
    await mkdir(directory, { recursive: true, mode: 0o700 });
    for (const file of files) {
      const path = join(directory, file.sha256);
      const there = await stat(path).catch(() => undefined);
      if (there?.size === file.bytes) continue;
      const elsewhere = await this.find(file);
      if (!elsewhere) throw new Error(`the file ${file.path} is not there any more`);
      const aside = join(directory, `.${randomUUID()}.tmp`);
      try {
        await copyFile(elsewhere.path, aside);
        await rename(aside, path);
      } finally {
        await rm(aside, { force: true });
      }
    }
  }

  /** Removes what this process has fetched for itself and does not need any more. */
  async forget(wanted: ReadonlySet<string>): Promise<void> {
    for (const directory of await this.#owns()) {
      for (const name of await readdir(directory).catch(() => [])) {
        if (wanted.has(name)) continue;
        const path = join(directory, name);
        this.#sound.delete(path);
        await rm(path, { force: true });
      }
    }
  }

  async close(): Promise<void> {
    for (const own of await this.#owns()) await rm(own, { recursive: true, force: true });
  }

  #isKept(directory: string): boolean {
    return directory === this.#kept?.directory;
  }

  async #owns(): Promise<string[]> {
    return (await Promise.all(this.#own.values())).filter((own) => own !== undefined);
  }

  async #directories(): Promise<string[]> {
    return [...(this.#kept ? [this.#kept.directory] : []), ...(await this.#owns())];
  }

  /** Where files may be put, the best first; what cannot be made is passed over. */
  async *#places(): AsyncGenerator<string> {
    if (this.#kept !== undefined) {
      const { directory } = this.#kept;
      const isThere = await mkdir(directory, { recursive: true, mode: 0o700 }).then(
        () => true,
        () => false,
      );
      if (isThere) yield directory;
    }
    for (const above of [tmpdir(), ...(existsSync(inMemory) ? [inMemory] : [])]) {
      const own = await this.#ownIn(above);
      if (own !== undefined) yield own;
    }
  }

  /** Several files may want it at once, and a machine that clears its temporary files may have taken it away. */
  async #ownIn(above: string): Promise<string | undefined> {
    const known = this.#own.get(above);
    const own = await known;
    if (own !== undefined && existsSync(own)) return own;
    if (this.#own.get(above) === known)
      this.#own.set(
        above,
        makeOwnFolder(above, "editions").catch(() => undefined),
      );
    return this.#own.get(above);
  }
}

/** Faults of the disk, not of what was fetched. */
function isOfStorage(error: unknown): boolean {
  return !(error instanceof ShelfFault);
}

function onDisk({ path: file, sha256, bytes: size }: EditionFile, path: string): FileOnDisk {
  return { file, path, sha256, size, bytes: () => readFile(path) };
}

/** @param isKept whether it is to outlast this process, and the machine */
async function takeInto(
  directory: string,
  file: EditionFile,
  pieces: AsyncIterable<Uint8Array>,
  isKept: boolean,
): Promise<FileOnDisk> {
  const aside = join(directory, `.${randomUUID()}.tmp`);
  const handle = await open(aside, "wx", 0o600);
  try {
    for await (const piece of verified(file, pieces)) await handle.write(piece);
    if (isKept) await handle.sync();
    await handle.close();
    const path = join(directory, file.sha256);
    await rename(aside, path);
    return onDisk(file, path);
  } finally {
    await handle.close().catch(() => {});
    await rm(aside, { force: true });
  }
}

/** The pieces of a file as they come. @throws {ShelfFault} at the end of what is not the file that its edition lists */
export async function* verified(
  { path, bytes, sha256 }: EditionFile,
  pieces: AsyncIterable<Uint8Array>,
): AsyncGenerator<Uint8Array> {
  const hash = createHash("sha256");
  let size = 0;
  for await (const piece of pieces) {
    size += piece.length;
    if (size > bytes) throw new ShelfFault(`“${path}” is longer than its edition says.`);
    hash.update(piece);
    yield piece;
  }
  if (size < bytes) throw new ShelfFault(`“${path}” is cut off: ${size} of ${bytes} bytes came.`);
  if (hash.digest("hex") !== sha256) throw new ShelfFault(`“${path}” is not what its edition says.`);
}

async function digestOf(path: string): Promise<string | undefined> {
  try {
    const hash = createHash("sha256");
    for await (const piece of createReadStream(path)) hash.update(piece as Buffer);
    return hash.digest("hex");
  } catch {
    return undefined;
  }
}
