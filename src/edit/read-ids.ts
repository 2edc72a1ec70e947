import { csvParser } from "../files/index.ts";

/** What a line, or a cell, of a pasted text was taken for. */
export interface ReadId {
  readonly text: string;
  readonly is: "id" | "doubled" | "unreadable" | "heading";
}

/** The ids that a text holds, as somebody pasted or uploaded it. */
export interface ReadIds {
  /** Each once, in their order. */
  readonly ids: readonly string[];
  /** How many are written again. */
  readonly doubled: number;
  /** How many lines hold none. */
  readonly unreadable: number;
  /** The columns of a table, by their headings or as “column 2”; none of a plain list. */
  readonly columns: readonly string[];
  /** The column that was read. */
  readonly column: string | undefined;
  /** How the text was understood, from its beginning. */
  readonly read: readonly ReadId[];
}

/** At most so many cells are listed one by one. */
const told = 50;

/**
 * Reads ids out of a text in any of the usual forms: one a line, parted by commas, semicolons or tabs, or a column of a
 * table. A table has the same number of cells in each of its lines; its first line is a heading where it looks like none of
 * the ids below it.
 *
 * @param column of a table; that of its ids if left out
 * @example readIdsIn("C-12,C-204").ids // ["C-12", "C-204"]
 * @example readIdsIn("name,id\nOda,A-17\n").column // "id"
 */
export function readIdsIn(text: string, column?: string): ReadIds {
  const rows = rowsOf(text);
  if (!rows) return { ...found([], undefined), unreadable: text.split("\n").length };
  const width = rows[0]?.length ?? 0;
  const isTable = width > 1 && rows.length > 1 && rows.every((row) => row.length === width);
  if (!isTable) {
    const cells = rows.flat().filter((cell) => cell !== "");
    return found(cells, isHeading(cells) ? cells[0] : undefined);
  }
  const cellsOf = (index: number) => rows.map((row) => row[index]!);
  const columns = rows[0]!.map((_, index) => cellsOf(index));
  // Ids that are all alike, several to a line, are a list.
  if (new Set(rows.flat().map(shapeOf)).size === 1) return found(rows.flat(), undefined);
  const hasHeading = columns.some(isHeading) || (column !== undefined && rows[0]!.includes(column));
  const names = rows[0]!.map((cell, i) => (hasHeading && cell !== "" ? cell : `column ${i + 1}`));
  const chosen = Math.max(0, column === undefined ? columnOfIds(columns, hasHeading) : names.indexOf(column));
  const read = found(columns[chosen]!, hasHeading ? columns[chosen]![0] : undefined);
  return { ...read, columns: names, column: names[chosen] };
}

/** The cells of a text, line by line; undefined for one that cannot be read. */
function rowsOf(text: string): string[][] | undefined {
  const delimiter = ["\t", ";", ","].find((each) => text.includes(each));
  const { CsvError, parse } = csvParser();
  try {
    return parse(text, {
      trim: true,
      bom: true,
      // Without one each line is a cell.
      delimiter: delimiter ?? "\0",
      quote: delimiter === undefined ? false : '"',
      relax_column_count: true,
      skip_empty_lines: true,
    }) as string[][];
  } catch (error) {
    if (error instanceof CsvError) return undefined;
    throw error;
  }
}

/** `A-17` and `C-204` have the same shape. */
function shapeOf(cell: string): string {
  return cell.replace(/[A-Za-z]+/g, "a").replace(/\d+/g, "9");
}

/** Ids have digits, or are all alike; a heading over them has none, and is not like them. */
function isHeading([first = "", ...rest]: readonly string[]): boolean {
  const ids = rest.filter((cell) => cell !== "");
  if (ids.length === 0 || first === "" || /\d/.test(first)) return false;
  return ids.every((id) => /\d/.test(id));
}

/** The first column whose cells have letters and digits, as ids do; else the first. */
function columnOfIds(columns: readonly (readonly string[])[], hasHeading: boolean): number {
  const isOfIds = (cells: readonly string[]) => {
    const ids = cells.slice(hasHeading ? 1 : 0).filter((cell) => cell !== "");
    return ids.length > 0 && ids.every((id) => /\d/.test(id) && /[A-Za-z-]/.test(id));
  };
  return Math.max(0, columns.findIndex(isOfIds));
}

function found(cells: readonly string[], heading: string | undefined): ReadIds {
  const ids = new Set<string>();
  const read: ReadId[] = [];
  let [doubled, unreadable] = [0, 0];
  for (const [i, text] of cells.entries()) {
    const is =
      i === 0 && heading !== undefined ? "heading" : text === "" ? "unreadable" : ids.has(text) ? "doubled" : "id";
    if (is === "id") ids.add(text);
    if (is === "doubled") doubled++;
    if (is === "unreadable") unreadable++;
    if (read.length < told) read.push({ text, is });
  }
  return { ids: [...ids], doubled, unreadable, columns: [], column: undefined, read };
}
