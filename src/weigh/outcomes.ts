import { ToolError } from "../files/index.ts";
import { idText } from "../judge/index.ts";
import { Cell, type CellSums } from "./cell.ts";
import type { MeasureKind } from "./estimate.ts";
import type { Experiment } from "./experiment.ts";
import type { LeftOut } from "./left-out.ts";
import { RowSet } from "./row-set.ts";
import { type Columns, eachRow, instantIn, type Row } from "./rows.ts";
import { type Subjects, spanAt } from "./subjects.ts";

/** Which outcomes count, and of whom. */
export interface OutcomesRequest {
  readonly outcomes: string;
  readonly columns: Columns;
  /** Epoch milliseconds, of the first verdict; `until` not included. */
  readonly from: number;
  readonly until: number;
  /** Milliseconds after the first verdict in which outcomes count; to the end of the span if left out. */
  readonly within: number | undefined;
  /** Names; all that the file holds if left out. `crowns/booked` is one amount by another. */
  readonly measures: readonly string[] | undefined;
  /** Measures that must not get worse: told of even where nobody has them. */
  readonly guards: readonly string[];
  /** The most, by the name of a measure, that one person counts for. */
  readonly caps: ReadonlyMap<string, number>;
}

/** The cells of one measure: by span, then by day of the first verdict (days since 1970, UTC), a cell a group. */
export interface MeasureCells {
  readonly name: string;
  readonly kind: MeasureKind;
  readonly spans: readonly ReadonlyMap<number, readonly CellSums[]>[];
}

/** What came of everybody, in cells. */
export interface CountedOutcomes {
  /** Those who are compared, as a measure that nobody has. */
  readonly everybody: MeasureCells;
  readonly measures: readonly MeasureCells[];
  readonly peopleLeftOut: LeftOut["people"];
  readonly leftOut: LeftOut["outcomes"];
  readonly diluted: number;
}

/** Squares of larger numbers could not be added up. */
const largestValue = 1e100;

const dayLength = 86_400_000;

/** The name of outcomes in a file that names none. */
export const onlyMeasure = "outcome";

/** What one measure comes to by subject. */
class Totals {
  #sums: Float64Array | undefined;
  #times: Float64Array | undefined;
  valued = 0;
  bare = 0;
  readonly #size: number;

  constructor(size: number) {
    this.#size = size;
  }

  add(subject: number, value: number | undefined): void {
    this.#sums ??= new Float64Array(this.#size);
    this.#times ??= new Float64Array(this.#size);
    if (value === undefined) this.#times[subject]!++;
    else this.#sums[subject]! += value;
  }

  get hasValues(): boolean {
    return this.valued > 0;
  }

  of(subject: number): number {
    return (this.hasValues ? this.#sums : this.#times)?.[subject] ?? 0;
  }
}

/** Reads what came of people. @throws {ToolError} */
export async function readOutcomes(
  experiment: Experiment,
  subjects: Subjects,
  request: OutcomesRequest,
): Promise<CountedOutcomes> {
  const chosen = new Chosen(experiment, subjects, request);
  const reader = new OutcomeReader(subjects, chosen, request.measures);
  const { lines } = await eachRow(request.outcomes, request.columns, (row, text) => reader.take(row, text));
  const { totals, counts } = reader;
  if (reader.holdsVerdicts)
    throw new ToolError(
      `“${request.outcomes}” holds verdicts.`,
      "give what came of them to --outcomes; are the two files swapped?",
    );
  const withoutValue = [...totals.values()].reduce((all, { bare, valued }) => all + (valued > 0 ? bare : 0), 0);
  return {
    everybody: chosen.cells("", totals, request.caps),
    measures: namesOf(request, totals).map((name) => chosen.cells(name, totals, request.caps)),
    peopleLeftOut: chosen.leftOut,
    leftOut: { ...counts, unreadableLines: lines, withoutValue },
    diluted: chosen.diluted,
  };
}

/** Adds rows up, and counts those that do not count. */
class OutcomeReader {
  readonly totals = new Map<string, Totals>();
  readonly counts = {
    withoutInstant: 0,
    withoutId: 0,
    ofOthers: 0,
    beforeFirstVerdict: 0,
    afterEnd: 0,
    repeated: 0,
    notANumber: 0,
  };
  readonly #subjects: Subjects;
  readonly #chosen: Chosen;
  readonly #wanted: ReadonlySet<string> | undefined;
  /** The measure of rows that name none. */
  readonly #usual: string;
  readonly #rows = new RowSet();
  #namesFlags = false;
  // Rows of one measure mostly stand together.
  #name: unknown;
  #total!: Totals;

  constructor(subjects: Subjects, chosen: Chosen, measures: readonly string[] | undefined) {
    this.#subjects = subjects;
    this.#chosen = chosen;
    this.#wanted = measures && new Set(measures.flatMap((name) => name.split("/")));
    this.#usual = this.#wanted?.size === 1 ? [...this.#wanted][0]! : onlyMeasure;
  }

  /** These rows name flags and measure nothing. */
  get holdsVerdicts(): boolean {
    return this.#namesFlags && this.totals.size <= 1 && [...this.totals.values()].every(({ valued }) => valued === 0);
  }

  take(row: Row, text: string): void {
    this.#namesFlags ||= row("flag") !== undefined;
    if (!this.#isWanted(row("measure") ?? this.#usual)) return;
    const value = numberIn(row("value"));
    const why = this.#addOrRefuse(row, value, text);
    if (why !== undefined) this.counts[why]++;
  }

  /** Whether a measure counts; what follows is added to it. */
  #isWanted(measure: unknown): boolean {
    if (measure === this.#name) return true;
    const name = String(measure);
    if (this.#wanted && !this.#wanted.has(name)) return false;
    this.#total = this.totals.get(name) ?? new Totals(this.#subjects.size);
    this.totals.set(name, this.#total);
    this.#name = name;
    return true;
  }

  /** Adds a row. @returns why it does not count, if it does not */
  #addOrRefuse(row: Row, value: number | undefined, text: string): keyof OutcomeReader["counts"] | undefined {
    if (value === undefined) this.#total.bare++;
    else if (!(Math.abs(value) <= largestValue)) return "notANumber";
    else this.#total.valued++;
    const id = idText(row("subject"));
    if (id === undefined) return "withoutId";
    const subject = this.#subjects.numberOf(id);
    if (subject === undefined) return this.#subjects.concerns(id) ? "ofOthers" : undefined;
    if (!this.#chosen.isIn(subject)) return "ofOthers";
    const at = instantIn(row("at"));
    if (Number.isNaN(at)) return "withoutInstant";
    if (at < this.#subjects.first[subject]!) return "beforeFirstVerdict";
    if (at >= this.#chosen.endOf(subject)) return "afterEnd";
    if (!this.#rows.add(text)) return "repeated";
    this.#total.add(subject, value);
    return undefined;
  }
}

function numberIn(value: unknown): number | undefined {
  if (value === undefined) return undefined;
  if (typeof value === "number") return value;
  return typeof value === "string" && value.trim() !== "" ? Number(value) : Number.NaN;
}

function namesOf({ measures, guards }: OutcomesRequest, totals: ReadonlyMap<string, Totals>): readonly string[] {
  const found = [...new Set([...totals.keys(), ...guards])].sort();
  if (measures === undefined) return found;
  for (const name of measures) {
    const parts = name.split("/");
    if (parts.length > 2 || parts.includes(""))
      throw new ToolError(`“${name}” is not a measure.`, "write a name, or one amount by another: crowns/booked");
  }
  return measures;
}

/** Who is compared, and until when what they do counts. */
class Chosen {
  readonly #experiment: Experiment;
  readonly #subjects: Subjects;
  readonly #within: number | undefined;
  /** By subject, the span in which it is compared; −1 for nobody. */
  readonly #spanOf: Int16Array;
  readonly leftOut: LeftOut["people"];
  readonly diluted: number;

  constructor(experiment: Experiment, subjects: Subjects, { from, until, within }: OutcomesRequest) {
    this.#experiment = experiment;
    this.#subjects = subjects;
    this.#within = within;
    this.#spanOf = new Int16Array(subjects.size).fill(-1);
    const left = { overriddenBefore: 0, outsideDates: 0, withinNotOver: 0 };
    let diluted = 0;
    for (let number = 0; number < subjects.size; number++) {
      if (!subjects.isDivided(number)) continue;
      const first = subjects.first[number]!;
      const span = spanAt(experiment.spans, first);
      const end = Math.min(experiment.spans[span]!.until, until);
      if (subjects.wasOverridden(number)) left.overriddenBefore++;
      else if (first < from || first >= until) left.outsideDates++;
      else if (within !== undefined && first + within > end) left.withinNotOver++;
      else {
        this.#spanOf[number] = span;
        if (subjects.isDiluted(number)) diluted++;
      }
    }
    this.leftOut = left;
    this.diluted = diluted;
  }

  isIn(subject: number): boolean {
    return this.#spanOf[subject]! >= 0;
  }

  endOf(subject: number): number {
    const { until } = this.#experiment.spans[this.#spanOf[subject]!]!;
    return this.#within === undefined ? until : this.#subjects.first[subject]! + this.#within;
  }

  cells(name: string, totals: ReadonlyMap<string, Totals>, caps: ReadonlyMap<string, number>): MeasureCells {
    const { spans, groups } = this.#experiment;
    const [top, below] = name.split("/").map((part) => totals.get(part));
    const isRatio = name.includes("/");
    const kind = isRatio ? "ratio" : top?.hasValues ? "amount" : "rate";
    const [cap, capBelow] = [capOf(name.split("/")[0]!, caps), capOf(name.split("/")[1] ?? name, caps)];
    const cells = spans.map(() => new Map<number, Cell[]>());
    for (let subject = 0; subject < this.#spanOf.length; subject++) {
      const span = this.#spanOf[subject]!;
      if (span < 0) continue;
      const day = Math.floor(this.#subjects.first[subject]! / dayLength);
      let here = cells[span]!.get(day);
      if (!here) {
        here = groups.map(() => new Cell());
        cells[span]!.set(day, here);
      }
      const y = cap(top?.of(subject) ?? 0);
      const cell = here[this.#subjects.group[subject]!]!;
      if (isRatio) cell.add(y, capBelow(below?.of(subject) ?? 0));
      else cell.add(kind === "rate" && y > 0 ? 1 : y);
    }
    return { name, kind, spans: cells };
  }
}

function capOf(name: string, caps: ReadonlyMap<string, number>): (total: number) => number {
  const cap = caps.get(name);
  return cap === undefined ? (total) => total : (total) => Math.max(-cap, Math.min(cap, total));
}
