import type { ListRequest } from "../model/index.ts";
import type { Fault } from "../problems/index.ts";
import { limits } from "../values/index.ts";
import { type FileName, fileName, isListFile, twinKey } from "./file-name.ts";
import type { Entry, Files } from "./files.ts";
import { type ReadList, resultOf } from "./parse/packed-list.ts";
import type { ReadingWorker } from "./parse/reading-worker.ts";

/** A list that has been read, with what tells whether it must be read again. */
export interface LoadedList {
  readonly request: ListRequest;
  readonly result: ReadList;
  /** Undefined if the file does not exist. */
  readonly name?: FileName;
  readonly entry?: Entry;
  /** Reading failed for a reason that may pass: it is tried again at every look. */
  readonly failed?: boolean;
}

export function listKey({ file, column }: ListRequest): string {
  return JSON.stringify([file, column ?? null]);
}

/**
 * Reads the ids of a cohort's list file.
 *
 * @param room who reads large ones, and how many bytes of lists there may still be
 */
export async function loadList(
  files: Files,
  request: ListRequest,
  room: { readonly worker: ReadingWorker; readonly left: number },
  before?: LoadedList,
): Promise<LoadedList> {
  const found = findList(files, request.file);
  if ("code" in found) return { request, result: keptFault({ fault: found }, before), ...placeOf(files, request.file) };
  const { name, entry } = found;
  if (entry.size > room.left)
    return { request, result: keptFault({ fault: tooLarge(request.file) }, before), name, entry };
  if (before && !before.failed && isSame(before.entry, entry))
    return before.entry === entry ? before : { ...before, entry };
  const read = await room.worker.list({ request, entry });
  if ("code" in read) return { request, result: { fault: read }, name, entry };
  if ("fault" in read && read.failed) return { request, result: keptFault(read, before), name, entry, failed: true };
  const result = resultOf(read);
  return { request, result: before && sameIds(before.result, result) ? before.result : result, name, entry };
}

/** True if the bytes are certainly the same. */
export function isSame(one: Entry | undefined, other: Entry): boolean {
  return one === other || (other.stamp !== undefined && one?.stamp === other.stamp);
}

/** A fault that is still the same is one and the same object, so that nothing is judged again for it. */
function keptFault({ fault }: { readonly fault: Fault }, before: LoadedList | undefined): ReadList {
  const earlier = before?.result;
  return earlier?.fault && JSON.stringify(earlier.fault) === JSON.stringify(fault) ? earlier : { fault };
}

function sameIds(one: ReadList, other: ReadList): boolean {
  return "digest" in one && "digest" in other && one.digest === other.digest;
}

/** What is there, where it cannot be used: it is looked at again when it changes. */
export function placeOf({ entries }: Files, written: string): { readonly name?: FileName; readonly entry?: Entry } {
  const name = fileName(written);
  const entry = typeof name === "string" ? entries.get(name) : undefined;
  return typeof name === "string" && entry ? { name, entry } : {};
}

/** Finds a file by the path that somebody has written, or says what is wrong with it. */
export function findEntry(
  { entries, faults }: Files,
  written: string,
): { readonly name: FileName; readonly entry: Entry } | Fault | undefined {
  const name = fileName(written);
  if (typeof name !== "string") return name;
  const entry = entries.get(name);
  if (entry) return { name, entry };
  return faults.find(({ file }) => file === name)?.fault;
}

function findList(files: Files, file: string): { readonly name: FileName; readonly entry: Entry } | Fault {
  const name = fileName(file);
  if (typeof name !== "string") return name;
  if (!isListFile(name))
    return {
      code: "list-kind",
      message: `“${file}” is not a list file.`,
      found: file,
      expected: "a .csv or .txt file",
    };
  const found = findEntry(files, name) ?? noSuchList(file, files);
  if ("code" in found) return found.code === "file-unreadable" ? { ...found, code: "list-missing" } : found;
  if (found.entry.size <= limits.listBytes) return found;
  return {
    code: "list-too-large",
    message: `“${file}” is too large.`,
    found: `${(found.entry.size / 2 ** 20).toFixed(1)} MB`,
    expected: `at most ${limits.listBytes / 2 ** 20} MB`,
  };
}

function noSuchList(file: string, { entries }: Files): Fault {
  const name = fileName(file);
  const near = [...entries.keys()].find((other) => typeof name === "string" && twinKey(other) === twinKey(name));
  return {
    code: "list-missing",
    message: `There is no list file “${file}”.`,
    found: file,
    expected: "a path relative to the definition folder",
    help: near && `did you mean ${near}?`,
  };
}

function tooLarge(file: string): Fault {
  return {
    code: "lists-too-large",
    message: `With “${file}” the list files are too large.`,
    found: file,
    expected: `at most ${limits.allListBytes / 2 ** 20} MB in all lists together`,
  };
}
