import { createHash } from "node:crypto";
import { IdSet, type PackedIds } from "../../ids/index.ts";
import { type ListRequest, piecesOfIds } from "../../model/index.ts";
import type { Fault } from "../../problems/index.ts";
import { nearest, sentenceList } from "../../values/index.ts";
import { decodeText } from "../read-text.ts";
import { csvParser } from "./lazy-csv.ts";

/** A list file to be read. */
export interface ListJob {
  readonly bytes: Uint8Array;
  readonly request: ListRequest;
}

/** A list that was read, as plain data that another thread can hand over. */
export type PackedList =
  | { readonly packed: PackedIds; readonly digest: string }
  | {
      readonly fault: Fault;
      /** It could not be read at all, for a reason that may pass. */
      readonly failed: boolean;
    };

/** What a list says: a `ListResult` whose ids can be gone through. */
export type ReadList =
  | { readonly ids: IdSet; readonly digest: string; readonly fault?: undefined }
  | { readonly fault: Fault };

/** Reads the bytes of a list: its ids, and their digest. */
export function readPackedList({ bytes, request }: ListJob): PackedList {
  const text = decodeText(bytes);
  if (text !== undefined) return packIds(text, request);
  const fault: Fault = { code: "list-missing", message: "This file is not UTF-8 text.", expected: "UTF-8" };
  return { fault, failed: false };
}

/** What a packed list says, unpacked. */
export function resultOf(list: PackedList): ReadList {
  return "fault" in list ? { fault: list.fault } : { ids: IdSet.unpack(list.packed), digest: list.digest };
}

export function packIds(text: string, request: ListRequest): PackedList {
  const ids = idsIn(text, request);
  if (!Array.isArray(ids)) return { fault: ids, failed: false };
  return { packed: IdSet.from(ids).pack(), digest: digestOf(ids) };
}

/** The ids of a list as they stand in its text, or what is wrong with it. */
export function idsIn(text: string, { file, column }: ListRequest): string[] | Fault {
  if (text.trim() === "") return emptyList(file);
  if (isPointer.test(text)) return pointerList(file);
  return file.endsWith(".csv") ? csvColumn(text, column) : lines(text);
}

/** What stands in the place of a large file that a repository keeps elsewhere. */
const isPointer = /^version https:\/\/\S+\/spec\/v1\r?\noid sha256:[0-9a-f]{64}\r?\nsize \d+\s*$/;

function pointerList(file: string): Fault {
  return {
    code: "list-syntax",
    message: `“${file}” only points to a large file that is kept elsewhere.`,
    expected: "the list itself",
    help: "fetch the large files of the repository",
  };
}

/** The digest of a list by the platform's own hash, which is faster than the core's. */
function digestOf(ids: readonly string[]): string {
  const hash = createHash("sha256");
  for (const piece of piecesOfIds(ids)) hash.update(piece);
  return hash.digest("hex");
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
