import { createReadStream } from "node:fs";
import { stat } from "node:fs/promises";
import { finished } from "node:stream/promises";
import { reasonOf, ToolError } from "../files/index.ts";
import { type AttributeType, parsePath, printPath } from "../language/index.ts";
import { askedAttributes, type Definitions, putAt, readDeclared, readUndeclared } from "../model/index.ts";
import { isObject, nearest } from "../values/index.ts";

/** How far the reading of a file has come. */
export interface Progress {
  readonly bytes: number;
  readonly totalBytes: number;
  readonly contexts: number;
}

/** How a file of people is read. */
export interface PeopleOptions {
  /** Called now and then while reading. */
  readonly progress?: ((progress: Progress) => void) | undefined;
  /** Whether the lines of a CSV file are told, which takes a while; 0 is told instead. True by default. */
  readonly lines?: boolean | undefined;
}

/** What was read, and what was not. */
export interface PeopleRead {
  readonly contexts: number;
  /** Lines that hold no context; they are not counted. */
  readonly unreadableLines: number;
  /** The first of them. */
  readonly firstUnreadable: { readonly line: number; readonly message: string } | undefined;
  /** CSV values that are not of their attribute's declared type and so count as missing, by attribute. */
  readonly unreadableValues: Readonly<Record<string, number>>;
  /** Columns of a CSV file that nothing reads, with the attribute of a like name that is read. */
  readonly unreadColumns: Readonly<Record<string, string>>;
}

/** Called with each context and the line on which it stands, from 1. */
export type See = (context: unknown, line: number) => void;

/** No context is longer than this, in UTF-16 units; it bounds what one line can take of memory. */
const longestLine = 2 ** 20;

/**
 * Reads a file of contexts, one after the other, in constant memory: NDJSON (`.ndjson`, `.jsonl`), an object a line;
 * or CSV (`.csv`), whose header names attributes by their paths and whose values are read by declared types; where nobody declares one, as the set asks for it.
 *
 * @throws {ToolError} for a file that cannot be read, or is of neither kind
 */
export async function readPeople(
  path: string,
  definitions: Definitions,
  see: See,
  options: PeopleOptions = {},
): Promise<PeopleRead> {
  const reading = new Reading(path, await sizeOf(path), see, options.progress);
  if (/\.csv$/i.test(path)) await readCsv(reading, definitions, options.lines ?? true);
  else if (/\.(?:ndjson|jsonl)$/i.test(path)) await readLines(reading);
  else throw new ToolError(`“${path}” is neither CSV nor NDJSON.`, "name it .csv, .ndjson or .jsonl");
  return reading.done();
}

async function sizeOf(path: string): Promise<number> {
  try {
    const found = await stat(path);
    if (found.isDirectory()) throw new ToolError(`“${path}” is a folder.`, "name a file of contexts, CSV or NDJSON");
    return found.size;
  } catch (error) {
    if (error instanceof ToolError) throw error;
    throw new ToolError(`“${path}” cannot be read: ${reasonOf(error)}.`, "name a file of contexts, CSV or NDJSON");
  }
}

class Reading {
  readonly path: string;
  readonly unreadableValues = new Map<string, number>();
  readonly unread = new Map<string, string>();
  bytes = 0;
  readonly #totalBytes: number;
  readonly #see: See;
  readonly #progress: ((progress: Progress) => void) | undefined;
  #contexts = 0;
  #unreadable = 0;
  #first: PeopleRead["firstUnreadable"];

  constructor(path: string, totalBytes: number, see: See, progress: ((progress: Progress) => void) | undefined) {
    this.path = path;
    this.#totalBytes = totalBytes;
    this.#see = see;
    this.#progress = progress;
  }

  context(context: unknown, line: number): void {
    this.#contexts++;
    this.#see(context, line);
  }

  unreadable(line: number, message: string): void {
    this.#unreadable++;
    this.#first ??= { line, message };
  }

  progress(bytes: number): void {
    this.bytes += bytes;
    this.#progress?.({ bytes: this.bytes, totalBytes: this.#totalBytes, contexts: this.#contexts });
  }

  done(): PeopleRead {
    return {
      contexts: this.#contexts,
      unreadableLines: this.#unreadable,
      firstUnreadable: this.#first,
      unreadableValues: Object.fromEntries(this.unreadableValues),
      unreadColumns: Object.fromEntries(this.unread),
    };
  }
}

const chunkBytes = 1 << 14;

async function readLines(reading: Reading): Promise<void> {
  let line = 0;
  // Pieces of a line that has not ended: joined once, however many there are.
  let begun: string[] = [];
  let length = 0;
  const gather = (piece: string) => {
    begun.push(piece);
    length += piece.length;
    if (length > longestLine)
      throw new ToolError(`Line ${line + 1} of “${reading.path}” is too long.`, "write one JSON object a line");
  };
  const end = () => {
    const text = begun.length === 1 ? begun[0]! : begun.join("");
    line++;
    begun = [];
    length = 0;
    if (text !== "" && text.trim() !== "") readLine(text, line, reading);
  };
  await eachChunk(reading, (chunk) => {
    let start = reading.bytes === 0 && chunk.charCodeAt(0) === 0xfeff ? 1 : 0;
    for (let at = chunk.indexOf("\n", start); at >= 0; at = chunk.indexOf("\n", start)) {
      gather(chunk.slice(start, at));
      end();
      start = at + 1;
    }
    gather(chunk.slice(start));
  });
  end();
}

function readLine(text: string, line: number, reading: Reading): void {
  let context: unknown;
  try {
    context = JSON.parse(text);
  } catch (error) {
    reading.unreadable(line, `it is not JSON: ${reasonOf(error)}`);
    return;
  }
  if (isObject(context)) reading.context(context, line);
  else reading.unreadable(line, "it is not an object");
}

async function eachChunk(reading: Reading, see: (chunk: string) => void): Promise<void> {
  const stream = createReadStream(reading.path, { encoding: "utf8", highWaterMark: chunkBytes });
  let known = 0;
  for await (const chunk of stream) {
    see(chunk as string);
    reading.progress(stream.bytesRead - known);
    known = stream.bytesRead;
  }
}

interface Column {
  readonly path: readonly string[];
  readonly name: string;
  readonly type: AttributeType | undefined;
  /** Whether the set asks it for a text, where nobody declares it. */
  readonly asText: boolean;
}

/** A record, and the line on which it ends; 0 where nobody asks. */
type SeeRecord = (record: readonly string[], line: number) => void;

async function readCsv(reading: Reading, definitions: Definitions, lines: boolean): Promise<void> {
  let columns: readonly Column[] | undefined;
  await eachRecord(reading, lines, (record, line) => {
    if (columns) reading.context(contextOf(record, columns, reading), line);
    else columns = columnsOf(record, definitions, reading);
  });
}

/** Records as they come: waiting for each by itself, and asking on which line it stands, would take as long as reading. */
async function eachRecord(reading: Reading, lines: boolean, see: SeeRecord): Promise<void> {
  const { CsvError, parse } = await import("csv-parse");
  const stream = createReadStream(reading.path, { highWaterMark: chunkBytes });
  const form = { bom: true, skip_empty_lines: true, relax_column_count: true, max_record_size: longestLine };
  const records = stream.pipe(parse({ ...form, info: lines }));
  stream.on("error", (error) => records.destroy(error));
  stream.on("data", (chunk) => {
    try {
      reading.progress(chunk.length);
    } catch (error) {
      records.destroy(error as Error);
    }
  });
  records.on("data", (told: readonly string[] | { record: string[]; info: { lines: number } }) => {
    try {
      if ("record" in told) see(told.record, told.info.lines);
      else see(told, 0);
    } catch (error) {
      records.destroy(error as Error);
    }
  });
  try {
    await finished(records);
  } catch (error) {
    stream.destroy();
    if (!(error instanceof CsvError)) throw error;
    throw new ToolError(`“${reading.path}” is not valid CSV: ${error.message}.`, "write a header and a line a context");
  }
}

function columnsOf(header: readonly string[], definitions: Definitions, { path: file, unread }: Reading): Column[] {
  const asked = askedAttributes(definitions);
  return header.map((title) => {
    const { path } = parsePath(title.trim());
    if (!path) {
      throw new ToolError(
        `The header of “${file}” names “${title}”, which is not a path of an attribute.`,
        'write names such as account.id, or claims["a name"]',
      );
    }
    const name = printPath(path);
    const near = asked.has(name) ? undefined : nearest(name, asked.keys());
    if (near !== undefined) unread.set(name, near);
    const asText = asked.get(name)?.asText ?? false;
    return { path, name, type: definitions.attributes.get(name)?.type, asText };
  });
}

/** An empty cell is a missing attribute. */
function contextOf(record: readonly string[], columns: readonly Column[], { unreadableValues }: Reading): unknown {
  const context: Record<string, unknown> = {};
  for (let i = 0; i < columns.length; i++) {
    const cell = record[i];
    const { path, name, type, asText } = columns[i]!;
    if (cell === undefined || cell === "") continue;
    const value = type === undefined ? readUndeclared(cell, asText) : readDeclared(cell, type);
    if (value === undefined) unreadableValues.set(name, (unreadableValues.get(name) ?? 0) + 1);
    else putAt(context, path, value);
  }
  return context;
}
