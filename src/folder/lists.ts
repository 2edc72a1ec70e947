import { realpath, stat } from "node:fs/promises";
import { isAbsolute, resolve, sep } from "node:path";
import type { ListRequest } from "../model/index.ts";
import type { Fault } from "../problems/index.ts";
import { limits } from "../values/index.ts";
import type { Aside } from "./aside.ts";
import { type ReadList, resultOf } from "./packed-list.ts";
import type { Settled } from "./settled.ts";

/** A list that has been read, with what tells whether it must be read again. */
export interface LoadedList {
  readonly request: ListRequest;
  readonly result: ReadList;
  /** Real path and stamp; undefined where there is no file. */
  readonly stamp: string | undefined;
  /** The real path; undefined where there is no file. */
  readonly path: string | undefined;
  /** In bytes; undefined where there is no file. */
  readonly size?: number;
  /** Reading failed for a reason that may pass: it is tried again at every look. */
  readonly failed?: boolean;
  /** It may change again under the same stamp. */
  readonly young?: boolean;
}

export function listKey({ file, column }: ListRequest): string {
  return JSON.stringify([file, column ?? null]);
}

/** What a list is read with. */
export interface ListRoom {
  readonly aside: Aside;
  /** How many bytes of lists there may still be. */
  readonly left: number;
  readonly settled: Settled;
  /** What changed before this instant of the disk's clock would show a change since. */
  readonly settledBefore: number;
}

/**
 * Reads the ids of a cohort's list file.
 *
 * @param find looks where the file is
 * @param room who reads large ones, how many bytes of lists there may still be, and which stamps can be relied on
 */
export async function loadList(
  find: FindList,
  request: ListRequest,
  room: ListRoom,
  before?: LoadedList,
): Promise<LoadedList> {
  const found = await find(request.file);
  if ("code" in found)
    return { request, result: keptFault({ fault: found }, before), stamp: undefined, path: undefined };
  const { path, stamp, size, changed } = found;
  if (size > room.left) return { request, result: keptFault({ fault: tooLarge(request.file) }, before), path, stamp };
  const known = before?.stamp === stamp && !before.failed ? before : undefined;
  if (known && !known.young) return known;
  const young = !room.settled.has(path, stamp) && changed >= room.settledBefore;
  const read = await room.aside.list({ path, request }, size);
  if ("code" in read) return { request, result: { fault: read }, path, stamp, size };
  if ("fault" in read && read.failed) return { request, result: keptFault(read, before), path, stamp, failed: true };
  const result = resultOf(read);
  return { request, result: known && sameIds(known.result, result) ? known.result : result, path, stamp, size, young };
}

/** A fault that is still the same is one and the same object, so that nothing is judged again for it. */
function keptFault({ fault }: { readonly fault: Fault }, before: LoadedList | undefined): ReadList {
  const earlier = before?.result;
  return earlier?.fault && JSON.stringify(earlier.fault) === JSON.stringify(fault) ? earlier : { fault };
}

function sameIds(one: ReadList, other: ReadList): boolean {
  return "digest" in one && "digest" in other && one.digest === other.digest;
}

/** What tells whether a list file has changed; undefined where there is none. */
export async function stampOf(root: string, file: string): Promise<string | undefined> {
  return (await foundAt(root, file))?.stamp;
}

/** A list file as it is found now; undefined where there is none. */
export async function foundAt(root: string, file: string): Promise<FoundList | undefined> {
  const found = await findList(root, file);
  return "code" in found ? undefined : found;
}

export interface FoundList {
  readonly path: string;
  readonly stamp: string;
  /** In bytes. */
  readonly size: number;
  /** By the clock of its disk, in epoch milliseconds. */
  readonly changed: number;
}

/** Finds a list file by the path that a cohort gives, or says what is wrong with it. */
export type FindList = (file: string) => Promise<FoundList | Fault>;

/** Finds list files inside a definition folder. */
export function listsIn(root: string): FindList {
  return (file) => findList(root, file);
}

/** What is wrong with the path of a list, before it is looked for. */
export function faultOfListPath(file: string): Fault | undefined {
  if (isAbsolute(file) || file.split(/[\\/]/).includes("..")) return outside(file);
  if (/\.(?:csv|txt)$/.test(file)) return undefined;
  return { code: "list-kind", message: `“${file}” is no list file.`, found: file, expected: "a .csv or .txt file" };
}

export function noSuchList(file: string): Fault {
  return {
    code: "list-missing",
    message: `There is no list file “${file}”.`,
    found: file,
    expected: "a path relative to the definition folder",
  };
}

async function findList(root: string, file: string): Promise<FoundList | Fault> {
  const fault = faultOfListPath(file);
  if (fault) return fault;
  try {
    const path = await realpath(resolve(root, file));
    if (!path.startsWith(root + sep)) return outside(file);
    const found = await stat(path);
    if (!found.isFile()) return notAFile(file);
    const { size, ino, mtimeMs, ctimeMs } = found;
    if (size > limits.listBytes) {
      return {
        code: "list-too-large",
        message: `“${file}” is too large.`,
        found: `${(size / 2 ** 20).toFixed(1)} MB`,
        expected: `at most ${limits.listBytes / 2 ** 20} MB`,
      };
    }
    return { path, stamp: [path, size, ino, mtimeMs, ctimeMs].join(":"), size, changed: Math.floor(ctimeMs) };
  } catch {
    return noSuchList(file);
  }
}

function tooLarge(file: string): Fault {
  return {
    code: "lists-too-large",
    message: `With “${file}” the list files are too large.`,
    found: file,
    expected: `at most ${limits.allListBytes / 2 ** 20} MB in all lists together`,
  };
}

/** A pipe or a device could keep a reader waiting for ever. */
function notAFile(file: string): Fault {
  return { code: "list-kind", message: `“${file}” is no regular file.`, found: file, expected: "a .csv or .txt file" };
}

function outside(file: string): Fault {
  return {
    code: "outside-folder",
    message: `“${file}” leads out of the definition folder.`,
    found: file,
    expected: "a path inside the folder, relative to its top",
  };
}
