import { stringify } from "csv-stringify/sync";
import { csvParser, idsIn, ToolError } from "../files/index.ts";
import { sentenceList } from "../values/index.ts";

/** What a list's text becomes, and what came of each id. */
export interface EditedList {
  readonly text: string;
  readonly added: number;
  /** Ids to be added that the list holds already. */
  readonly doubled: number;
  readonly dropped: number;
}

/** Adds ids to a list and takes others out; every other line, and every other column, stays as it is. */
export function editList(
  file: string,
  text: string,
  column: string | undefined,
  {
    add = [],
    drop = [],
  }: { readonly add?: readonly string[] | undefined; readonly drop?: readonly string[] | undefined },
): EditedList {
  const rows = file.endsWith(".csv") ? csvRows(file, text, column) : textRows(text);
  const dropping = new Set(drop);
  const kept = rows.rows.filter(({ id }) => id === undefined || !dropping.has(id));
  const known = new Set(kept.map(({ id }) => id));
  const fresh = [...new Set(add)].filter((id) => !known.has(id));
  const newline = text.includes("\r\n") ? "\r\n" : "\n";
  const body = kept.map(({ raw }) => raw).join("");
  const isCut = fresh.length > 0 && body !== "" && !/[\n\r]$/.test(body);
  const lines = fresh.map((id) => `${rows.line(id)}${newline}`).join("");
  const edited = `${body}${isCut ? newline : ""}${lines}`;
  mustRead(
    file,
    edited,
    column,
    [...known, ...fresh].filter((id) => id !== undefined),
  );
  return {
    text: edited,
    added: fresh.length,
    doubled: add.length - fresh.length,
    dropped: rows.rows.length - kept.length,
  };
}

/** The text of a new list. */
export function newList(file: string, column: string, ids: readonly string[]): string {
  const isCsv = file.endsWith(".csv");
  const text = isCsv ? stringify([[column], ...ids.map((id) => [id])]) : ids.map((id) => `${id}\n`).join("");
  if (text !== "") mustRead(file, text, isCsv ? column : undefined, ids);
  return text;
}

/** What is written is what the set will read: an id that the form of the list cannot hold is refused. */
function mustRead(file: string, text: string, column: string | undefined, ids: readonly string[]): void {
  const read = text.trim() === "" ? [] : idsIn(text, { file, column });
  const found = new Set(Array.isArray(read) ? read : []);
  const lost = [...new Set(ids)].find((id) => !found.has(id));
  if (lost === undefined && found.size === new Set(ids).size) return;
  throw new ToolError(
    `${file} cannot hold the id “${lost ?? [...found].find((id) => !ids.includes(id))}”.`,
    "write ids without blanks around them, line breaks and control characters",
  );
}

/** A line of a list as it stands, with its break; a line without an id has none. */
interface Row {
  readonly raw: string;
  readonly id: string | undefined;
}

interface Rows {
  readonly rows: readonly Row[];
  /** The line for a new id. */
  line(id: string): string;
}

function textRows(text: string): Rows {
  const rows = text.match(/[^\r\n]*(?:\r\n|\n|\r)|[^\r\n]+$/g) ?? [];
  return {
    rows: rows.map((raw) => ({ raw, id: raw.trim() === "" ? undefined : raw.trim() })),
    line: (id) => id,
  };
}

/** The rows of a CSV file by the bytes that each takes, so that what is kept is kept to the byte. */
function csvRows(file: string, text: string, column: string | undefined): Rows {
  const bytes = Buffer.from(text);
  const { CsvError, parse } = csvParser();
  let records: { record: string[]; info: { bytes: number } }[];
  try {
    // Lines are trimmed for comparing, as reading a list does, and kept as they are.
    records = parse(bytes, { trim: true, relax_column_count: true, skip_empty_lines: false, info: true }) as never;
  } catch (error) {
    if (!(error instanceof CsvError)) throw error;
    throw new ToolError(`${file} is not valid CSV: ${error.message}.`, "mend it by hand first");
  }
  const header = records.find(({ record }) => !isBlank(record))?.record ?? [];
  const index = column === undefined ? 0 : header.indexOf(column);
  if (index < 0) throw new ToolError(`${file} has no column “${column}”.`, `it has ${sentenceList(header)}`);
  let from = 0;
  let hasHeader = false;
  const rows = records.map(({ record, info }): Row => {
    const raw = bytes.subarray(from, info.bytes).toString();
    from = info.bytes;
    if (isBlank(record)) return { raw, id: undefined };
    const isHeader = !hasHeader;
    hasHeader = true;
    return { raw, id: isHeader ? undefined : record[index] || undefined };
  });
  const rest = bytes.subarray(from).toString();
  return {
    rows: rest === "" ? rows : [...rows, { raw: rest, id: undefined }],
    line: (id) => stringify([header.map((_, i) => (i === index ? id : ""))], { record_delimiter: "" }),
  };
}

function isBlank(record: readonly string[]): boolean {
  return record.length === 1 && record[0] === "";
}
