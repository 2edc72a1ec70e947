import { realpath, stat } from "node:fs/promises";
import { isAbsolute, resolve, sep } from "node:path";
import { IdSet } from "../ids/index.ts";
import { digestOfIds, type ListRequest, type ListResult } from "../model/index.ts";
import type { Fault } from "../problems/index.ts";
import { limits, nearest, sentenceList } from "../values/index.ts";
import { csvParser } from "./rarely.ts";
import { readText } from "./read-text.ts";
import { coarse } from "./scan.ts";

/** A list that has been read, with what tells whether it must be read again. */
export interface LoadedList {
  readonly request: ListRequest;
  readonly result: ListResult;
  /** Real path and stamp; undefined where there is no file. */
  readonly stamp: string | undefined;
  /** The real path; undefined where there is no file. */
  readonly path: string | undefined;
  /** Reading failed for a reason that may pass: it is tried again at every look. */
  readonly failed?: boolean;
  /** When it changed, where it was read so soon after that it may change again under the same time stamp. */
  readonly young?: number | undefined;
}

export function listKey({ file, column }: ListRequest): string {
  return JSON.stringify([file, column ?? null]);
}

/** Reads the ids of a cohort's list file, which must lie inside the definition folder. */
export async function loadList(root: string, request: ListRequest, before?: LoadedList): Promise<LoadedList> {
  const found = await findList(root, request.file);
  if ("code" in found) return { request, result: { fault: found }, stamp: undefined, path: undefined };
  const { path, stamp, changed } = found;
  const known = before?.stamp === stamp && !before.failed ? before : undefined;
  if (known && known.young === undefined) return known;
  const young = Date.now() - changed < coarse ? changed : undefined;
  const text = await readText(path);
  if (typeof text !== "string") {
    const { message, expected } = text;
    return { request, result: { fault: { code: "list-missing", message, expected } }, path, stamp, failed: true };
  }
  const result = readIds(text, request);
  return { request, result: known && sameIds(known.result, result) ? known.result : result, path, stamp, young };
}

function sameIds(one: ListResult, other: ListResult): boolean {
  return "digest" in one && "digest" in other && one.digest === other.digest;
}

/** What tells whether a list file has changed; undefined where there is none. */
export async function stampOf(root: string, file: string): Promise<string | undefined> {
  const found = await findList(root, file);
  return "code" in found ? undefined : found.stamp;
}

async function findList(root: string, file: string): Promise<{ path: string; stamp: string; changed: number } | Fault> {
  if (isAbsolute(file) || file.split(/[\\/]/).includes("..")) return outside(file);
  if (!/\.(?:csv|txt)$/.test(file)) {
    return { code: "list-kind", message: `“${file}” is no list file.`, found: file, expected: "a .csv or .txt file" };
  }
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
    return { path, stamp: [path, size, ino, mtimeMs, ctimeMs].join(":"), changed: mtimeMs };
  } catch {
    return {
      code: "list-missing",
      message: `There is no list file “${file}”.`,
      found: file,
      expected: "a path relative to the definition folder",
    };
  }
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

export function readIds(text: string, request: ListRequest): ListResult {
  if (text.trim() === "") return { fault: emptyList(request.file) };
  const ids = request.file.endsWith(".csv") ? csvColumn(text, request.column) : lines(text);
  return Array.isArray(ids) ? { ids: IdSet.from(ids), digest: digestOfIds(ids) } : { fault: ids };
}

/** A list that was cut off must not empty a cohort. */
function emptyList(file: string): Fault {
  const isCsv = file.endsWith(".csv");
  return {
    code: "list-empty",
    message: `“${file}” holds nothing at all.`,
    expected: isCsv ? "a header, and a line for each id" : "one id a line",
    help: isCsv ? "a header alone is a list of nobody" : "for a list of nobody write ids: [] in the cohort",
  };
}

function lines(text: string): string[] {
  return text
    .split(/\r\n|\n|\r/)
    .map((line) => line.trim())
    .filter((line) => line !== "");
}

function csvColumn(text: string, column: string | undefined): string[] | Fault {
  let header: string[] | undefined;
  let index = 0;
  const ids: string[] = [];
  const { CsvError, parse } = csvParser();
  try {
    parse(text, {
      trim: true,
      skip_empty_lines: true,
      relax_column_count: true,
      on_record: (record: string[]) => {
        if (header) {
          const id = record[index];
          if (id) ids.push(id);
        } else {
          header = record;
          index = column === undefined ? 0 : record.indexOf(column);
        }
        return null;
      },
    });
  } catch (error) {
    if (!(error instanceof CsvError)) throw error;
    return {
      code: "list-syntax",
      message: `This list is not valid CSV: ${error.message}.`,
      expected: "CSV with a header",
    };
  }
  if (index >= 0) return ids;
  const near = nearest(column!, header!);
  return {
    code: "list-column",
    message: `The list has no column “${column}”.`,
    found: column,
    expected: `one of ${sentenceList(header!, "or")}`,
    help: near && `did you mean ${near}?`,
  };
}
