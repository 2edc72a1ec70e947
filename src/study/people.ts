import { ToolError } from "../files/index.ts";
import { type AttributeType, parsePath, printPath } from "../language/index.ts";
import { askedAttributes, type Definitions, putAt, readDeclared, readUndeclared } from "../model/index.ts";
import { nearest } from "../values/index.ts";
import { type RowReader, readRows, sizeOf } from "./rows.ts";

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

/**
 * Reads a file of contexts, one after the other, in constant memory: NDJSON (`.ndjson`, `.jsonl`), an object a line;
 * or CSV (`.csv`), whose header names attributes by their paths and whose values are read by declared types; where nobody
 * declares one, as the set asks for it. Both compressed as well (`.gz`).
 *
 * @throws {ToolError} for a file that cannot be read, or is of neither kind
 */
export async function readPeople(
  path: string,
  definitions: Definitions,
  see: See,
  options: PeopleOptions = {},
): Promise<PeopleRead> {
  const reading = new Reading(path, await sizeOf(path, row), definitions, see, options.progress);
  await readRows(path, reading, { row, lines: options.lines ?? true });
  return reading.done();
}

/** What a row is called. */
const row = "context";

class Reading implements RowReader {
  readonly #path: string;
  readonly #definitions: Definitions;
  readonly #unreadableValues = new Map<string, number>();
  readonly #unreadColumns = new Map<string, string>();
  #columns: readonly Column[] = [];
  #bytes = 0;
  readonly #totalBytes: number;
  readonly #see: See;
  readonly #progress: ((progress: Progress) => void) | undefined;
  #contexts = 0;
  #unreadable = 0;
  #first: PeopleRead["firstUnreadable"];

  constructor(
    path: string,
    totalBytes: number,
    definitions: Definitions,
    see: See,
    progress: PeopleOptions["progress"],
  ) {
    this.#path = path;
    this.#totalBytes = totalBytes;
    this.#definitions = definitions;
    this.#see = see;
    this.#progress = progress;
  }

  header(titles: readonly string[]): void {
    this.#columns = titles.map((title) => this.#column(title));
  }

  record(cells: readonly string[], line: number): void {
    this.object(this.#contextOf(cells), line);
  }

  object(context: unknown, line: number): void {
    this.#contexts++;
    this.#see(context, line);
  }

  unreadable(line: number, message: string): void {
    this.#unreadable++;
    this.#first ??= { line, message };
  }

  progress(bytes: number): void {
    this.#bytes += bytes;
    this.#progress?.({ bytes: this.#bytes, totalBytes: this.#totalBytes, contexts: this.#contexts });
  }

  #column(title: string): Column {
    const { path } = parsePath(title.trim());
    if (!path) {
      throw new ToolError(
        `The header of “${this.#path}” names “${title}”, which is not a path of an attribute.`,
        'write names such as account.id, or claims["a name"]',
      );
    }
    const name = printPath(path);
    const asked = askedAttributes(this.#definitions);
    const near = asked.has(name) ? undefined : nearest(name, asked.keys());
    if (near !== undefined) this.#unreadColumns.set(name, near);
    return { path, name, type: this.#definitions.attributes.get(name)?.type, asText: asked.get(name)?.asText ?? false };
  }

  /** An empty cell is a missing attribute. */
  #contextOf(cells: readonly string[]): unknown {
    const context: Record<string, unknown> = {};
    for (let i = 0; i < this.#columns.length; i++) {
      const cell = cells[i];
      const { path, name, type, asText } = this.#columns[i]!;
      if (cell === undefined || cell === "") continue;
      const value = type === undefined ? readUndeclared(cell, asText) : readDeclared(cell, type);
      if (value === undefined) this.#unreadableValues.set(name, (this.#unreadableValues.get(name) ?? 0) + 1);
      else putAt(context, path, value);
    }
    return context;
  }

  done(): PeopleRead {
    return {
      contexts: this.#contexts,
      unreadableLines: this.#unreadable,
      firstUnreadable: this.#first,
      unreadableValues: Object.fromEntries(this.#unreadableValues),
      unreadColumns: Object.fromEntries(this.#unreadColumns),
    };
  }
}

interface Column {
  readonly path: readonly string[];
  readonly name: string;
  readonly type: AttributeType | undefined;
  /** Whether the set asks it for a text, where nobody declares it. */
  readonly asText: boolean;
}
