import { readFileSync } from "node:fs";
import { listedAs } from "../../model/index.ts";
import { pointer } from "../../problems/index.ts";
import type { Loaded } from "../judge-content.ts";
import { listKey } from "../lists.ts";
import { csvParser } from "../parse/lazy-csv.ts";
import { locatorFor } from "../parse/parse.ts";
import { LineIndex } from "./lines.ts";

/**
 * Tells where an id stands in the list of a cohort: the file and line of the list, or of the ids in the definition.
 * It reads the list again, so it is for explanations only.
 */
export function whereListed({ content, definitions }: Loaded): (cohort: string, id: string) => string | undefined {
  return (name, id) => {
    const cohort = definitions?.cohorts.get(name);
    if (cohort?.kind !== "list") return undefined;
    const written = listedAs(cohort, id);
    if (cohort.file === undefined) return inDefinition(content, cohort.place, written);
    const path = content.lists.get(listKey({ file: cohort.file, column: cohort.column }))?.entry?.path;
    const line = path === undefined ? undefined : lineOf(path, cohort.file, cohort.column, written);
    return line === undefined ? undefined : `${cohort.file}:${line}`;
  };
}

type Place = { readonly file: string; readonly path: readonly (string | number)[] };

function inDefinition({ files }: Loaded["content"], place: Place, id: string): string | undefined {
  const file = files.get(place.file);
  const ids = file && valueAt(file.parsed.data, [...place.path, "ids"]);
  if (!file || !Array.isArray(ids)) return undefined;
  const index = ids.findIndex(
    (each, i) => (file.parsed.spellings.get(pointer([...place.path, "ids", i])) ?? String(each)) === id,
  );
  if (index < 0) return undefined;
  const { start } = locatorFor(place.file, file.text).locate([...place.path, "ids", index], "value", undefined);
  const { line } = new LineIndex(file.text).position(start);
  return `${place.file}:${line}`;
}

function valueAt(data: unknown, path: Place["path"]): unknown {
  return path.reduce<unknown>((value, step) => (value as Record<string | number, unknown> | undefined)?.[step], data);
}

/** The line of an id in a list; of a CSV record, the line on which it ends. The bytes are searched, and few decoded. */
function lineOf(path: string, file: string, column: string | undefined, id: string): number | undefined {
  const bytes = readFileSync(path);
  const isCsv = file.endsWith(".csv");
  const isRecord = isCsv ? recordTest(bytes, column, id) : (line: string) => line.trim() === id;
  const wanted = Buffer.from(id);
  for (let at = bytes.indexOf(wanted); at >= 0; at = bytes.indexOf(wanted, at + 1)) {
    if (!isEdge(bytes[at - 1]) || !isEdge(bytes[at + wanted.length])) continue;
    const [start, end] = [startOfLine(bytes, at), endOfLine(bytes, at)];
    // Inside of quotes a line break ends no record: such a file is read from its beginning.
    if (isCsv && isQuoted(bytes, start)) return lineByReading(bytes.toString(), column, id);
    if (isRecord(bytes.toString("utf8", start, end))) return linesBefore(bytes, start) + 1;
  }
  return isCsv && bytes.includes(quote) ? lineByReading(bytes.toString(), column, id) : undefined;
}

const [tab, lineFeed, carriageReturn, space, quote, comma] = [9, 10, 13, 32, 34, 44];

/** What can stand beside an id that is a cell or a line; 0xbf ends a byte order mark. */
function isEdge(byte: number | undefined): boolean {
  return byte === undefined || [tab, lineFeed, carriageReturn, space, quote, comma, 0xbf].includes(byte);
}

function recordTest(bytes: Buffer, column: string | undefined, id: string): (line: string) => boolean {
  const { parse } = csvParser();
  const form = { bom: true, trim: true, skip_empty_lines: true, relax_column_count: true };
  const read = (line: string) => (parse(line, { ...form, to: 1 }) as string[][])[0] ?? [];
  const header = bytes.toString("utf8", 0, endOfLine(bytes, 0));
  const index = column === undefined ? 0 : read(header).indexOf(column);
  return (line) => {
    try {
      return read(line)[index] === id;
    } catch {
      return false;
    }
  };
}

function startOfLine(bytes: Buffer, at: number): number {
  let start = at;
  while (start > 0 && !isBreak(bytes[start - 1]!)) start--;
  return start;
}

function endOfLine(bytes: Buffer, at: number): number {
  let end = at;
  while (end < bytes.length && !isBreak(bytes[end]!)) end++;
  return end;
}

function isBreak(byte: number): boolean {
  return byte === lineFeed || byte === carriageReturn;
}

function isQuoted(bytes: Buffer, end: number): boolean {
  let quotes = 0;
  for (let i = bytes.indexOf(quote); i >= 0 && i < end; i = bytes.indexOf(quote, i + 1)) quotes++;
  return quotes % 2 === 1;
}

function linesBefore(bytes: Buffer, end: number): number {
  let lines = 0;
  for (let i = 0; i < end; i++) {
    const byte = bytes[i]!;
    if (byte === lineFeed || (byte === carriageReturn && bytes[i + 1] !== lineFeed)) lines++;
  }
  return lines;
}

function lineByReading(text: string, column: string | undefined, id: string): number | undefined {
  let header: string[] | undefined;
  let found: number | undefined;
  csvParser().parse(text, {
    bom: true,
    trim: true,
    skip_empty_lines: true,
    relax_column_count: true,
    on_record: (record: string[], { lines }: { lines: number }) => {
      if (!header) header = record;
      else if (found === undefined && record[column === undefined ? 0 : header.indexOf(column)] === id) found = lines;
      return null;
    },
  });
  return found;
}
