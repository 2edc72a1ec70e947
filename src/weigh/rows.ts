import { readRows } from "../study/index.ts";
import { parseTime } from "../values/index.ts";

/** How the columns are called in a file, by how they are called here. */
export type Columns = Readonly<Partial<Record<"subject" | "at" | "value" | "measure" | "flag" | "variant", string>>>;

/** A row of either form: what stands in a column, undefined where nothing does. */
export type Row = (column: string) => unknown;

/** Lines that could not be read. */
export interface Unreadable {
  readonly lines: number;
  readonly first: { readonly line: number; readonly message: string } | undefined;
}

/** Called with each row, and what is the same for two rows only if they say the same. */
export type SeeRow = (row: Row, text: string) => void;

/** Reads a file of rows, whose columns may have other names. @throws {ToolError} */
export async function eachRow(path: string, columns: Columns, see: SeeRow): Promise<Unreadable> {
  let lines = 0;
  let first: Unreadable["first"];
  let places = new Map<string, number>();
  let cells: readonly string[] = [];
  let object: Readonly<Record<string, unknown>> = {};
  const called = (column: string) => (Object.hasOwn(columns, column) ? columns[column as keyof Columns]! : column);
  // One of each for the whole file: a row is looked at when it comes, and not kept.
  const ofRecord: Row = (column) => {
    const cell = cells[places.get(called(column)) ?? places.get(column) ?? -1];
    return cell === "" ? undefined : cell;
  };
  const ofObject: Row = (column) => object[called(column)] ?? object[column] ?? undefined;
  await readRows(
    path,
    {
      header: (names) => {
        places = new Map(names.map((name, i) => [name.trim(), i]));
      },
      record: (next) => {
        cells = next;
        see(ofRecord, next.join("\u001f"));
      },
      object: (next, _, text) => {
        object = next;
        see(ofObject, text);
      },
      unreadable: (line, message) => {
        lines++;
        first ??= { line, message };
      },
    },
    { row: "row", lines: false },
  );
  return { lines, first };
}

/** Epoch milliseconds; NaN for what is not an instant with an offset. Warehouses write a blank for the T, and `+00`. */
export function instantIn(value: unknown): number {
  if (typeof value !== "string") return Number.NaN;
  const epoch = parseTime(value);
  if (!Number.isNaN(epoch) || value.length > 40) return epoch;
  return parseTime(
    value
      .replace(" ", "T")
      .replace(/([+-]\d\d)$/, "$1:00")
      .replace(/ UTC$/, "Z"),
  );
}
