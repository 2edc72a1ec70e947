import { ToolError } from "../files/index.ts";
import { Cell, type CellSums } from "./cell.ts";
import type { MeasureKind } from "./estimate.ts";
import type { Experiment } from "./experiment.ts";
import type { MeasureCells } from "./outcomes.ts";
import { eachRow, type Row } from "./rows.ts";

/** The columns of a file of sums, in the order in which the query gives them. */
export const sumColumns = [
  "measure",
  "kind",
  "span",
  "day",
  "group_name",
  "people",
  "mean",
  "m2",
  "nonzero",
  "largest",
  "mean_x",
  "m2_x",
  "nonzero_x",
  "cxy",
  "in_two_groups",
] as const;

interface Kept extends Omit<MeasureCells, "spans"> {
  readonly spans: readonly Map<number, readonly Cell[]>[];
}

/** Reads sums by measure, span, day and group, as `sumsQuery` makes them. @throws {ToolError} for rows that are not such sums */
export async function readSums(
  path: string,
  { spans, groups }: Experiment,
  wanted: readonly string[] | undefined,
  guards: readonly string[],
): Promise<{ readonly everybody: MeasureCells; readonly measures: readonly MeasureCells[] }> {
  const measures = new Map<string, Kept>();
  const fresh = (name: string, kind: MeasureKind): Kept => ({ name, kind, spans: spans.map(() => new Map()) });
  const { lines, first } = await eachRow(path, {}, (row) => {
    const { name, kind, span, day, group, cell } = sumIn(row, path, { spans, groups });
    const kept = measures.get(name) ?? fresh(name, kind);
    measures.set(name, kept);
    const days = kept.spans[span]!;
    const here = days.get(day) ?? groups.map(() => new Cell());
    days.set(day, here);
    here[group]!.merge(cell);
  });
  if (first)
    throw new ToolError(`${lines} lines of “${path}” cannot be read: ${first.message}.`, "write CSV or NDJSON");
  const [any] = measures.values();
  const everybody = any ?? fresh("", "rate");
  const names = wanted ?? [...new Set([...measures.keys(), ...guards])].sort();
  return { everybody, measures: names.map((name) => measures.get(name) ?? fresh(name, "rate")) };
}

/** One row of such a file. */
interface Sum {
  readonly name: string;
  readonly kind: MeasureKind;
  readonly span: number;
  /** Days since 1970. */
  readonly day: number;
  readonly group: number;
  readonly cell: CellSums;
}

/** @throws {ToolError} for a row that is not a sum of this experiment */
function sumIn(row: Row, path: string, { spans, groups }: Pick<Experiment, "spans" | "groups">): Sum {
  const text = (column: (typeof sumColumns)[number]) => String(row(column) ?? "");
  const number = (column: (typeof sumColumns)[number]) => Number(row(column) ?? 0);
  const [name, kind, span, group] = [text("measure"), text("kind"), number("span"), groups.indexOf(text("group_name"))];
  const day = Math.floor(Date.parse(`${text("day").slice(0, 10)}T00:00:00Z`) / 86_400_000);
  const cell = cellOf(number);
  const isSound = isKind(kind) && Number.isFinite(day) && name !== "";
  if (!isSound || !Object.values(cell).every(Number.isFinite))
    throw new ToolError(`“${path}” holds a row that is not a sum.`, `its columns are ${sumColumns.join(", ")}`);
  if (group < 0 || !spans[span])
    throw new ToolError(
      `“${path}” holds sums of the group “${text("group_name")}” in span ${text("span")}, which the flag does not have.`,
      "print the query again with --sql: the definitions have changed",
    );
  if (number("in_two_groups") > 0)
    throw new ToolError(
      `${text("in_two_groups")} of those whom this rule divided are in two groups: the definitions must have changed.`,
      "print the query again with --sql and --changed INSTANT",
    );
  return { name, kind, span, day, group, cell };
}

function isKind(kind: string): kind is MeasureKind {
  return kind === "rate" || kind === "amount" || kind === "ratio";
}

function cellOf(number: (column: (typeof sumColumns)[number]) => number): CellSums {
  return {
    people: number("people"),
    mean: number("mean"),
    m2: number("m2"),
    nonzero: number("nonzero"),
    largest: number("largest"),
    meanX: number("mean_x"),
    m2X: number("m2_x"),
    nonzeroX: number("nonzero_x"),
    cxy: number("cxy"),
  };
}
