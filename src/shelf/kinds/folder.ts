import { constants, watch } from "node:fs";
import { open, stat } from "node:fs/promises";
import { join } from "node:path";
import { Settled } from "../../files/index.ts";
import type { EditionFile } from "../edition.ts";
import { ShelfFault } from "../faults.ts";
import { mustBeInterval } from "../interval.ts";
import { claimedIn } from "../list-text.ts";
import type { Heard, Hearing, ListName, Looked, Place } from "../place.ts";
import { listAt, shelved, unreadable } from "./folder-lists.ts";
import { publishingIn } from "./folder-publishing.ts";

// A folder: a mounted volume, a synchronised directory, or what a web server serves.
//
//   edition.json              the newest edition's list; it changes last
//   editions/<number>.json    every edition's list, each made exclusively
//   stops.json                what is stopped
//   stops/<number>.json       every list of stops, each made exclusively
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
  mustBeInterval(every);
  const settled = new Settled();
  const look = (name: ListName, mark: string | undefined) => newest(directory, name, mark, settled);
  return {
    called: directory,
    set,
    every,
    newest: (marks) => ({ stops: look("stops", marks.stops), edition: look("edition", marks.edition) }),
    list: (name, number) => listAt(join(directory, shelved[name], `${number}.json`)),
    bytes: (file, signal) => bytesOf(directory, file, signal),
    hear: (heard) => hear(directory, heard),
    publishing: publishingIn(directory),
  };
}

async function newest(directory: string, name: ListName, mark: string | undefined, settled: Settled): Promise<Looked> {
  const path = join(directory, `${name}.json`);
  const found = await stampOf(path, directory);
  if (found === undefined) return { kind: "empty" };
  const stamp = settled.has(path, found) ? found : `${found}, read at ${performance.now()}`;
  if (stamp === mark) return { kind: "same" };
  const text = await listAt(path);
  if (text === undefined) return { kind: "empty" };
  return { kind: "list", text: await furthest(directory, name, text), mark: stamp };
}

/** A publisher that slept may have put an older list in the place of a newer one, which stands beside it. */
async function furthest(directory: string, name: ListName, text: string): Promise<string> {
  const { number } = claimedIn(text);
  if (number === undefined) return text;
  const next = await listAt(join(directory, shelved[name], `${number + 1}.json`)).catch(() => undefined);
  return next !== undefined && claimedIn(next).number === number + 1 ? furthest(directory, name, next) : text;
}

async function stampOf(path: string, directory: string): Promise<string | undefined> {
  try {
    const { size, ino, mtimeNs, ctimeNs } = await stat(path, { bigint: true });
    return `${size}:${ino}:${mtimeNs}:${ctimeNs}`;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "ENOENT") throw unreadable(path, error);
    // A folder that is away is not an empty shelf.
    await stat(directory).catch((away: unknown) => {
      throw unreadable(directory, away);
    });
    return undefined;
  }
}

/** Bytes that are read at once. */
const pieceBytes = 262_144;

async function* bytesOf(directory: string, file: EditionFile, signal: AbortSignal): AsyncGenerator<Uint8Array> {
  const path = join(directory, "files", file.sha256);
  const opened = await open(path, constants.O_RDONLY | (constants.O_NONBLOCK ?? 0)).catch((error: unknown) => {
    throw unreadable(path, error);
  });
  try {
    const found = await opened.stat();
    if (!found.isFile() || found.size !== file.bytes)
      throw new ShelfFault(`“${path}” is not the file that its edition lists.`);
    for (let at = 0; at < found.size; ) {
      signal.throwIfAborted();
      const piece = Buffer.allocUnsafe(Math.min(found.size - at, pieceBytes));
      const { bytesRead } = await opened.read(piece, 0, piece.length, at);
      if (bytesRead === 0) return;
      at += bytesRead;
      yield piece.subarray(0, bytesRead);
    }
  } catch (error) {
    throw unreadable(path, error);
  } finally {
    await opened.close();
  }
}

function hear(directory: string, heard: Heard): Hearing {
  try {
    const watcher = watch(directory, { persistent: false }, (_, name) => {
      if (name === null || name === "edition.json" || name === "stops.json") heard.changed();
    });
    // The slow look finds what is not told of.
    watcher.on("error", () => watcher.close());
    return { close: async () => watcher.close() };
  } catch {
    return { close: async () => {} };
  }
}
