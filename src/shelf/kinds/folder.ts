import { createReadStream, watch } from "node:fs";
import { mkdir, readFile, stat } from "node:fs/promises";
import { join } from "node:path";
import { lockDirectory, reasonOf, Settled } from "../../files/index.ts";
import { endless } from "../deadline.ts";
import { claimedNumber, type Edition, type EditionFile, longestList, tooLong } from "../edition.ts";
import { EditionFault, ShelfFault } from "../faults.ts";
import type { Heard, Hearing, Looked, NewFile, Place, PublishingPlace } from "../place.ts";

// A folder: a mounted volume, a synchronised directory, or what a web server serves.
//
//   edition.json              the newest list; it changes last
//   editions/<number>.json    every list
//   files/<sha256>            the files, each once

const defaultEvery = 1_000;

/** How a shelf in a folder is followed. */
export interface FolderShelfOptions {
  /** The name of the definition set; that of the first edition seen if left out. */
  readonly set?: string | undefined;
  /** Milliseconds between two looks for what the file system did not tell; one second by default. */
  readonly every?: number | undefined;
}

export function folderPlace(directory: string, { set, every = defaultEvery }: FolderShelfOptions = {}): Place {
  const settled = new Settled();
  return {
    called: directory,
    set,
    every,
    newest: (mark, signal) => newest(directory, mark, settled, signal),
    list: (number, signal) => listAt(join(directory, "editions", `${number}.json`), signal),
    bytes: (file, signal) => bytesOf(directory, file, signal),
    hear: (heard) => hear(directory, heard),
    publishing: publishingIn(directory),
  };
}

async function newest(
  directory: string,
  mark: string | undefined,
  settled: Settled,
  signal: AbortSignal,
): Promise<Looked> {
  const path = join(directory, "edition.json");
  const found = await stampOf(path, directory);
  if (found === undefined) return { kind: "empty" };
  const stamp = settled.has(path, found) ? found : `${found}, read at ${performance.now()}`;
  if (stamp === mark) return { kind: "same" };
  const text = await listAt(path, signal);
  return text === undefined ? { kind: "empty" } : { kind: "list", text, mark: stamp };
}

async function stampOf(path: string, directory: string): Promise<string | undefined> {
  try {
    const { size, ino, mtimeNs, ctimeNs } = await stat(path, { bigint: true });
    return `${size}:${ino}:${mtimeNs}:${ctimeNs}`;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw unreadable(path, error);
    // A folder that is away is no empty shelf.
    await stat(directory).catch((away: unknown) => {
      throw unreadable(directory, away);
    });
    return undefined;
  }
}

async function listAt(path: string, signal: AbortSignal): Promise<string | undefined> {
  try {
    const { size } = await stat(path);
    if (size > longestList) throw new EditionFault(tooLong);
    return await readFile(path, { encoding: "utf8", signal });
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "ENOENT") return undefined;
    throw unreadable(path, error);
  }
}

async function* bytesOf(directory: string, file: EditionFile, signal: AbortSignal): AsyncGenerator<Uint8Array> {
  const path = join(directory, "files", file.sha256);
  try {
    yield* createReadStream(path, { signal, highWaterMark: 262_144 }) as AsyncIterable<Uint8Array>;
  } catch (error) {
    throw unreadable(path, error);
  }
}

function unreadable(path: string, error: unknown): Error {
  return error instanceof ShelfFault || error instanceof EditionFault
    ? error
    : new ShelfFault(`“${path}” cannot be read: ${reasonOf(error)}.`);
}

function hear(directory: string, heard: Heard): Hearing {
  try {
    const watcher = watch(directory, { persistent: false }, (_, name) => {
      if (name === null || name === "edition.json") heard.changed();
    });
    // The slow look finds what is not told of.
    watcher.on("error", () => watcher.close());
    return { close: async () => watcher.close() };
  } catch {
    return { close: async () => {} };
  }
}

function publishingIn(directory: string): PublishingPlace {
  return {
    prepare: async () => void (await mkdir(directory, { recursive: true })),
    // Only the last part of a path: the rest of it may be a mount that is away.
    begin: () => mkdir(directory).catch(() => {}),
    publish: async (edition, list, files, base) => {
      await mkdir(join(directory, "files"), { recursive: true });
      await mkdir(join(directory, "editions"), { recursive: true });
      const lock = await lockDirectory(directory);
      try {
        return await put(directory, edition, list, files, base);
      } finally {
        await lock.release();
      }
    },
  };
}

async function put(
  directory: string,
  edition: Edition,
  list: string,
  files: readonly NewFile[],
  base: number | undefined,
): Promise<boolean> {
  if ((await numberIn(directory)) !== base) return false;
  const { default: writeFileAtomic } = await import("write-file-atomic");
  for (const file of files) {
    const path = join(directory, "files", file.sha256);
    const there = await stat(path).catch(() => undefined);
    if (there?.size !== file.bytes) await writeFileAtomic(path, Buffer.from(await file.read()));
  }
  await writeFileAtomic(join(directory, "editions", `${edition.number}.json`), list);
  await writeFileAtomic(join(directory, "edition.json"), list);
  return true;
}

async function numberIn(directory: string): Promise<number | undefined> {
  const text = await listAt(join(directory, "edition.json"), endless());
  return text === undefined ? undefined : claimedNumber(text);
}
