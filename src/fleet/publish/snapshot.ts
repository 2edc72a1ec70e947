import { createHash } from "node:crypto";
import { readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { checkDefinitions } from "../../checks/index.ts";
import {
  type FolderContent,
  judgeContent,
  type Loaded,
  type LocatedProblem,
  listsIn,
  loadSchemas,
  locateProblems,
  makeOwnFolder,
  nameInFolder,
  readStored,
  reasonOf,
  type StoredFile,
  scanFolder,
} from "../../folder/index.ts";
import { errorsIn } from "../../runtime/index.ts";
import { ToolError } from "../../tools/index.ts";
import type { NewFile } from "../shelf.ts";

/** The files of an edition to be, byte for byte, read and checked as they will stand on the shelf. */
export interface Snapshot {
  readonly files: readonly NewFile[];
  readonly loaded: Loaded;
  /** Errors for which `check` refuses them. */
  readonly errors: readonly LocatedProblem[];
}

/** Files by their paths in the folder. */
export type Files = ReadonlyMap<string, Uint8Array>;

/** Where snapshots stand until what is done with them is done. */
export class Snapshots {
  readonly #directory: string;
  /** What was read last, on top of what is on the shelf. */
  #known: FolderContent | undefined;

  private constructor(directory: string) {
    this.#directory = directory;
  }

  static async make(): Promise<Snapshots> {
    return new Snapshots(await makeOwnFolder(tmpdir(), "publish"));
  }

  /**
   * Reads files and checks them.
   *
   * @param at epoch milliseconds, for the checks
   * @param before what is on the shelf, of which what has not changed is not read again
   */
  async take(files: Files, at: number, before: FolderContent | undefined): Promise<Snapshot> {
    const stored = await this.#store(files);
    const loaded = await judgeContent(await readStored(stored, this.#known ?? before));
    loaded.content.tools.aside.close();
    const later = loaded.definitions ? checkDefinitions(loaded.definitions, { at }) : [];
    const errors = errorsIn(await locateProblems(loaded, later));
    const read = (path: string) => () => readFile(path);
    return {
      files: stored.map(({ file, path, sha256, size }) => ({ path: file, sha256, bytes: size, read: read(path) })),
      loaded,
      errors,
    };
  }

  /**
   * The files of a folder that belong to its set: definitions, suspensions, and the lists and schemas that they name.
   *
   * @param before what is on the shelf, of which what has not changed is not read again
   * @throws {ToolError} where there is no such folder, or one of the files cannot be read
   */
  async filesOf(folder: string, before: FolderContent | undefined): Promise<Files> {
    const { root, definitions, suspended } = await scanFolder(folder);
    if (root === undefined) throw new ToolError(`There is no folder “${folder}”.`, "make one with iudex new");
    const files = new Map<string, Uint8Array>();
    for (const { file, path } of [...definitions, ...(suspended ? [suspended] : [])])
      files.set(nameInFolder(file), await bytesOf(path));
    this.#known = await readStored(await this.#store(files), before);
    const { lists, schemas } = this.#known;
    for (const { request } of lists.values()) {
      const found = await listsIn(root)(request.file);
      if ("path" in found) files.set(nameInFolder(request.file), await bytesOf(found.path));
    }
    for (const [file, { fault }] of await loadSchemas(root, schemas.keys()))
      if (!fault) files.set(nameInFolder(file), await bytesOf(join(root, file)));
    return files;
  }

  async #store(files: Files): Promise<StoredFile[]> {
    const stored: StoredFile[] = [];
    for (const [file, bytes] of files) {
      const sha256 = createHash("sha256").update(bytes).digest("hex");
      const path = join(this.#directory, sha256);
      await writeFile(path, bytes, { mode: 0o600 });
      stored.push({ file, path, sha256, size: bytes.length });
    }
    return stored;
  }

  async close(): Promise<void> {
    await rm(this.#directory, { recursive: true, force: true });
  }
}

async function bytesOf(path: string): Promise<Uint8Array> {
  try {
    return await readFile(path);
  } catch (error) {
    throw new ToolError(`“${path}” cannot be read: ${reasonOf(error)}.`, "nothing was published");
  }
}

/** The files of a snapshot or a fetched edition again. */
export async function filesOfStored(stored: readonly StoredFile[]): Promise<Map<string, Uint8Array>> {
  const files = new Map<string, Uint8Array>();
  for (const { file, path } of stored) files.set(file, await readFile(path));
  return files;
}
