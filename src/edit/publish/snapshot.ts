import { checkDefinitions } from "../../checks/index.ts";
import {
  Disk,
  type Entry,
  entriesOf,
  type FileName,
  type Files,
  type FolderContent,
  type Loaded,
  type LocatedProblem,
  locateProblems,
  readSet,
  readSteadily,
  reasonOf,
  ToolError,
} from "../../files/index.ts";
import { errorsIn } from "../../follow/index.ts";
import type { NewFile } from "../../shelf/index.ts";

/** The files of an edition to be, byte for byte, read and checked as they will be on the shelf. */
export interface Snapshot {
  readonly files: readonly NewFile[];
  readonly loaded: Loaded;
  /** Errors for which `check` refuses them. */
  readonly errors: readonly LocatedProblem[];
}

/** The bytes of files by their names in the folder. */
export type Contents = ReadonlyMap<FileName, Uint8Array>;

/**
 * Reads files and checks them.
 *
 * @param contents their stamps are their digests
 * @param at epoch milliseconds, for the checks
 * @param before what was read of such files last, of which what has not changed is not read again
 */
export async function takeSnapshot(contents: Files, at: number, before: FolderContent | undefined): Promise<Snapshot> {
  const loaded = await readSet(contents, { before });
  loaded.content.tools.worker.close();
  const later = loaded.definitions ? checkDefinitions(loaded.definitions, { at }) : [];
  const errors = errorsIn(await locateProblems(loaded, later));
  const files = [...loaded.content.source.entries].map(([path, { stamp, size, bytes }]) => ({
    path,
    sha256: stamp!,
    bytes: size,
    read: () => bytes(),
  }));
  return { files, loaded, errors };
}

/**
 * The files of a folder that belong to its set: definitions, suspensions, and the lists and schemas that they name.
 *
 * @throws {ToolError} if the folder does not exist or one of its files cannot be read
 */
export async function contentsOfFolder(folder: string): Promise<Contents> {
  const disk = new Disk(folder);
  const content = await readSteadily(async () => remembering(await disk.look()));
  content.tools.worker.close();
  if (content.source.root === undefined)
    throw new ToolError(`There is no folder “${folder}”.`, "make one with iudex new");
  const files = new Map<FileName, Uint8Array>();
  for (const [name, entry] of entriesOf(content)) {
    try {
      files.set(name, await entry.bytes());
    } catch (error) {
      throw new ToolError(`“${name}” cannot be read: ${reasonOf(error)}.`, "nothing was published");
    }
  }
  return files;
}

/** Files of which the bytes that were read are kept, since they are asked for twice. */
function remembering<F extends Files>(files: F): F {
  const entries = new Map([...files.entries].map(([name, entry]) => [name, rememberingOne(entry)]));
  return { ...files, entries };
}

function rememberingOne(entry: Entry): Entry {
  let read: Promise<Uint8Array> | undefined;
  return { ...entry, bytes: (signal) => (read ??= entry.bytes(signal)) };
}
