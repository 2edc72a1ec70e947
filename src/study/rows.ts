import { createReadStream } from "node:fs";
import { stat } from "node:fs/promises";
import type { Readable } from "node:stream";
import { finished } from "node:stream/promises";
import { createGunzip } from "node:zlib";
import { reasonOf, ToolError } from "../files/index.ts";
import { isObject } from "../values/index.ts";

/** Who is told what stands in a file of rows. */
export interface RowReader {
  /** The first record of a CSV file. */
  header(names: readonly string[]): void;
  /** A record of a CSV file, and the line on which it ends. */
  record(cells: readonly string[], line: number): void;
  /** An object of an NDJSON file, its line, and how it is written there. */
  object(object: Readonly<Record<string, unknown>>, line: number, text: string): void;
  /** A line that holds neither. */
  unreadable(line: number, message: string): void;
  /** Bytes that were read since it was called last. */
  progress?(bytes: number): void;
}

/** How a file of rows is read. */
export interface RowOptions {
  /** What a row is, for messages: “context”. */
  readonly row: string;
  /** Whether the lines of a CSV file are told, which takes a while; 0 is told instead. */
  readonly lines: boolean;
}

interface Reading {
  readonly content: Readable;
  readonly path: string;
  /** Tells how much was read. */
  tell(): void;
}

/** No row is longer than this, in UTF-16 units; it bounds what one line can take of memory. */
const longestLine = 2 ** 20;

const chunkBytes = 1 << 14;

/**
 * Reads a file row by row in constant memory: NDJSON (`.ndjson`, `.jsonl`), an object a line, or CSV (`.csv`) with a
 * header; compressed as well (`.gz`). What is added to it meanwhile is not read.
 *
 * @throws {ToolError} for a file that cannot be read, or is of neither kind
 */
export async function readRows(path: string, reader: RowReader, options: RowOptions): Promise<void> {
  const [, kind, isPacked] = /\.(csv|ndjson|jsonl)(\.gz)?$/i.exec(path) ?? [];
  const { size, isFile } = await found(path, options.row);
  if (kind === undefined)
    throw new ToolError(`“${path}” is neither CSV nor NDJSON.`, "name it .csv, .ndjson or .jsonl");
  if (isFile && size === 0) return;
  const file = createReadStream(path, { highWaterMark: chunkBytes, ...(isFile ? { end: size - 1 } : {}) });
  let known = 0;
  const tell = () => {
    reader.progress?.(file.bytesRead - known);
    known = file.bytesRead;
  };
  const content = isPacked ? file.pipe(createGunzip()) : file;
  if (content !== file) file.on("error", (error) => content.destroy(error));
  try {
    await (kind.toLowerCase() === "csv" ? readCsv : readLines)({ content, path, tell }, reader, options);
  } catch (error) {
    if (!/^(?:Z_|E[A-Z]+$)/.test(String((error as NodeJS.ErrnoException).code))) throw error;
    throw new ToolError(
      `“${path}” cannot be read: ${reasonOf(error)}.`,
      `name a file of ${options.row}s, CSV or NDJSON`,
    );
  } finally {
    file.destroy();
  }
}

/** In bytes. @throws {ToolError} */
export async function sizeOf(path: string, row: string): Promise<number> {
  return (await found(path, row)).size;
}

async function found(path: string, row: string): Promise<{ readonly size: number; readonly isFile: boolean }> {
  const help = `name a file of ${row}s, CSV or NDJSON`;
  const stats = await stat(path).catch((error: unknown) => {
    throw new ToolError(`“${path}” cannot be read: ${reasonOf(error)}.`, help);
  });
  if (stats.isDirectory()) throw new ToolError(`“${path}” is a folder.`, help);
  return { size: stats.size, isFile: stats.isFile() };
}

async function readLines({ content, path, tell }: Reading, reader: RowReader, { row }: RowOptions): Promise<void> {
  let line = 0;
  // Pieces of a line that has not ended: joined once, however many there are.
  let begun: string[] = [];
  let length = 0;
  const gather = (piece: string) => {
    begun.push(piece);
    length += piece.length;
    if (length > longestLine)
      throw new ToolError(`Line ${line + 1} of “${path}” is too long.`, `write one JSON object a line, a ${row} each`);
  };
  const end = () => {
    const text = begun.length === 1 ? begun[0]! : begun.join("");
    line++;
    begun = [];
    length = 0;
    if (text !== "" && text.trim() !== "") readLine(text, line, reader);
  };
  let isFirst = true;
  for await (const chunk of content.setEncoding("utf8") as AsyncIterable<string>) {
    let start = isFirst && chunk.charCodeAt(0) === 0xfeff ? 1 : 0;
    isFirst = false;
    for (let at = chunk.indexOf("\n", start); at >= 0; at = chunk.indexOf("\n", start)) {
      gather(chunk.slice(start, at));
      end();
      start = at + 1;
    }
    gather(chunk.slice(start));
    tell();
  }
  end();
}

function readLine(text: string, line: number, reader: RowReader): void {
  let object: unknown;
  try {
    object = JSON.parse(text);
  } catch (error) {
    return reader.unreadable(line, `it is not JSON: ${reasonOf(error)}`);
  }
  if (isObject(object)) reader.object(object, line, text);
  else reader.unreadable(line, "it is not an object");
}

/** Records as they come: waiting for each by itself, and asking on which line it stands, would take as long as reading. */
async function readCsv({ content, path, tell }: Reading, reader: RowReader, options: RowOptions): Promise<void> {
  const { CsvError, parse } = await import("csv-parse");
  const form = { bom: true, skip_empty_lines: true, relax_column_count: true, max_record_size: longestLine };
  const records = content.pipe(parse({ ...form, info: options.lines }));
  content.on("error", (error) => records.destroy(error));
  let isHeader = true;
  const see = (record: readonly string[], line: number) => {
    if (isHeader) reader.header(record);
    else reader.record(record, line);
    isHeader = false;
  };
  /** What fails here ends the reading. */
  const guarded =
    <T>(work: (told: T) => void) =>
    (told: T) => {
      try {
        work(told);
      } catch (error) {
        records.destroy(error as Error);
      }
    };
  type Told = readonly string[] | { readonly record: string[]; readonly info: { readonly lines: number } };
  content.on("data", guarded(tell));
  records.on(
    "data",
    guarded((told: Told) => ("record" in told ? see(told.record, told.info.lines) : see(told, 0))),
  );
  try {
    await finished(records);
  } catch (error) {
    content.destroy();
    if (!(error instanceof CsvError)) throw error;
    throw new ToolError(`“${path}” is not valid CSV: ${error.message}.`, `write a header and a line a ${options.row}`);
  }
}
