import { csvParser } from "../files/index.ts";

/** The ids that a text holds, as somebody pasted or uploaded it. */
export interface ReadIds {
  /** Each once, in their order. */
  readonly ids: readonly string[];
  /** How many are written again. */
  readonly doubled: number;
  /** How many lines hold none. */
  readonly unreadable: number;
  /** The columns of a CSV text; none of a plain list. */
  readonly columns: readonly string[];
}

/**
 * Reads ids out of a text: one a line, or CSV with a header, which is told by a delimiter in its first line.
 *
 * @param column of a CSV text; the first if left out
 * @example readIdsIn("id,name\nA-17,Oda\n") // { ids: ["A-17"], doubled: 0, unreadable: 0, columns: ["id", "name"] }
 */
export function readIdsIn(text: string, column?: string): ReadIds {
  const [first = ""] = text.trimStart().split(/\r\n|\n|\r/, 1);
  const delimiter = [";", "\t", ","].find((each) => first.includes(each));
  if (delimiter === undefined) {
    const lines = text.split(/\r\n|\n|\r/).map((line) => line.trim());
    return counted(
      lines.filter((line) => line !== ""),
      0,
      [],
    );
  }
  const { CsvError, parse } = csvParser();
  try {
    const records = parse(text, {
      trim: true,
      bom: true,
      delimiter,
      relax_column_count: true,
      skip_empty_lines: true,
    }) as string[][];
    const [header = [], ...rows] = records;
    const index = Math.max(0, column === undefined ? 0 : header.indexOf(column));
    const found = rows.map((row) => row[index] ?? "");
    return counted(
      found.filter((id) => id !== ""),
      found.filter((id) => id === "").length,
      header,
    );
  } catch (error) {
    if (!(error instanceof CsvError)) throw error;
    return { ids: [], doubled: 0, unreadable: text.split("\n").length, columns: [] };
  }
}

function counted(found: readonly string[], unreadable: number, columns: readonly string[]): ReadIds {
  const ids = [...new Set(found)];
  return { ids, doubled: found.length - ids.length, unreadable, columns };
}
