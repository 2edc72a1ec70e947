import { readRows } from "../study/index.ts";
import { parseTime } from "../values/index.ts";

/** How the columns are called in a file, by how they are called here. */
export type Columns = Readonly<Record<string, string>>;

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
  const names = new Map(Object.entries(columns));
  const called = names.size === 0 ? (column: string) => column : (column: string) => names.get(column) ?? column;
  // One of each for the whole file: a row is looked at when it comes, and not kept.
  const ofRecord: Row = (column) => {
    const cell = cells[places.get(called(column)) ?? places.get(column) ?? -1];
    return cell === "" ? undefined : cell;
  };
  const ofObject: Row =
    names.size === 0
      ? (column) => object[column] ?? undefined
      : (column) => object[called(column)] ?? object[column] ?? undefined;
  await readRows(
    path,
    {
      header: (titles) => {
        places = new Map(titles.map((name, i) => [name.trim(), i]));
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

/** As `Date` writes instants, of days that every month has. */
const plainInstant = /^\d{4}-\d\d-(?:[01]\d|2[0-8])T(?:[01]\d|2[0-3]):[0-5]\d:[0-5]\d(?:\.\d{3})?Z$/;

/** Epoch milliseconds; NaN for what is not an instant with an offset. Warehouses write a blank for the T, and `+00`. */
export function instantIn(value: unknown): number {
  if (typeof value !== "string") return Number.NaN;
  // Most of them; the platform reads these as we do, and in a fraction of the time.
  if (plainInstant.test(value)) return Date.parse(value);
  const epoch = parseTime(value);
  if (!Number.isNaN(epoch) || value.length > 40) return epoch;
  return parseTime(
    value
      .replace(" ", "T")
      .replace(/([+-]\d\d)$/, "$1:00")
      .replace(/ UTC$/, "Z"),
  );
}
