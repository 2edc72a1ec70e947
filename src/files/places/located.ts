import {
  type Fault,
  maxProblems,
  type Place,
  type Problem,
  type ProblemCode,
  problemCatalogue,
} from "../../problems/index.ts";
import type { FileFault, Spot, TextRange } from "../parse/parsed-file.ts";
import { LineIndex } from "./lines.ts";

/** Another place that has to do with a problem, such as the first of two definitions. */
export interface RelatedLocation {
  readonly file: string;
  readonly line: number;
  readonly column: number;
  readonly message: string;
}

/** A problem with its place as people count it: lines and columns from 1, columns in UTF-16 units. */
export interface LocatedProblem {
  readonly severity: "error" | "warning";
  readonly code: ProblemCode;
  /** Relative to the definition folder. */
  readonly file: string;
  readonly line: number;
  readonly column: number;
  /** Behind the last character, on the same line as `line` unless `endLine` says otherwise. */
  readonly endLine: number;
  readonly endColumn: number;
  readonly message: string;
  readonly found?: string;
  readonly expected?: string;
  readonly help?: string;
  readonly related?: readonly RelatedLocation[];
}

/** The texts of the files, for pointing into them. */
export interface Texts {
  get(file: string): string | undefined;
}

/** What a place means in its text. */
export interface Located {
  readonly range: TextRange;
  /** The rest of the line behind the value, where a comment may have cut a text short. */
  readonly after: string;
}

/** Finds the places of one file. */
export type LocateIn = (file: string, text: string, spots: readonly Spot[]) => Promise<Located[]>;

const nowhere: Located = { range: { start: 0, end: 0 }, after: "" };

/** Turns the places of many problems into lines and columns; each file is looked through once. */
export async function locateAll(
  problems: readonly Problem[],
  texts: Texts,
  locate: LocateIn,
): Promise<LocatedProblem[]> {
  const byFile = new Map<string, Place[]>();
  for (const { place, related = [] } of problems) {
    for (const each of [place, ...related.map((r) => r.place)]) {
      const places = byFile.get(each.file) ?? [];
      byFile.set(each.file, places);
      places.push(each);
    }
  }
  const found = new Map<Place, Located>();
  for (const [file, places] of byFile) {
    const text = texts.get(file);
    if (text === undefined) continue;
    const located = await locate(file, text, places.map(spotOf));
    for (const [i, place] of places.entries()) found.set(place, located[i]!);
  }
  const finder = new Finder(texts, (place) => found.get(place) ?? nowhere);
  return problems.map((problem) => finder.problem(problem));
}

function spotOf({ path, part = "value", span }: Place): Spot {
  return { path, part, span };
}

/** Turns places that have been found into lines and columns. */
export class Finder {
  readonly #texts: Texts;
  readonly #locate: (place: Place) => Located;
  readonly #lines = new Map<string, LineIndex>();

  constructor(texts: Texts, locate: (place: Place) => Located = () => nowhere) {
    this.#texts = texts;
    this.#locate = locate;
  }

  problem({ place, related, ...fault }: Problem): LocatedProblem {
    const { range, after } = this.#locate(place);
    const help = fault.help ?? cutShort(fault.code, after);
    const located = this.#located(place.file, { ...fault, help }, range);
    if (!related) return located;
    return {
      ...located,
      related: related.map((r) => this.#related(r.place.file, this.#locate(r.place).range, r.message)),
    };
  }

  /** A fault of the text itself, whose place is known already. */
  fault(file: string, { range, related, ...fault }: FileFault): LocatedProblem {
    const located = this.#located(file, fault, range);
    return related ? { ...located, related: [this.#related(file, related.range, related.message)] } : located;
  }

  #located(
    file: string,
    { code, message, found, expected, help }: Omit<Fault, "related">,
    range: TextRange,
  ): LocatedProblem {
    const lines = this.#lineIndex(file);
    const from = lines.position(range.start);
    const to = lines.position(Math.max(range.end, range.start));
    return {
      severity: problemCatalogue[code].severity,
      code,
      file,
      line: from.line,
      column: from.column,
      endLine: to.line,
      endColumn: to.column,
      message,
      ...(found === undefined ? {} : { found }),
      ...(expected === undefined ? {} : { expected }),
      ...(help === undefined ? {} : { help }),
    };
  }

  #related(file: string, range: TextRange, message: string): RelatedLocation {
    return { file, ...this.#lineIndex(file).position(range.start), message };
  }

  #lineIndex(file: string): LineIndex {
    let lines = this.#lines.get(file);
    if (!lines) {
      lines = new LineIndex(this.#texts.get(file) ?? "");
      this.#lines.set(file, lines);
    }
    return lines;
  }
}

/** An unquoted “ #” begins a comment in YAML, which cuts a condition short. */
function cutShort(code: ProblemCode, after: string): string | undefined {
  if (code !== "condition-syntax" && code !== "condition-empty") return undefined;
  if (!/^\s+#/.test(after)) return undefined;
  return "YAML takes “ #” and what follows as a comment: put the whole condition in single quotes";
}

/**
 * In reading order, and no more than are kept: errors before warnings, the last one saying how many more there are.
 *
 * @param more how many there were that are not among them
 */
export function keptProblems(problems: readonly LocatedProblem[], more: number): LocatedProblem[] {
  const noted = problems.filter(({ code }) => code !== moreProblems);
  const left = more + problems.reduce((sum, { code, found }) => sum + (code === moreProblems ? Number(found) : 0), 0);
  if (noted.length + (left > 0 ? 1 : 0) <= maxProblems) {
    const kept = inReadingOrder(noted);
    return left > 0 ? [...kept, noteOf(kept, left)] : kept;
  }
  const errors = inReadingOrder(noted.filter(({ severity }) => severity === "error"));
  const warnings = inReadingOrder(noted.filter(({ severity }) => severity === "warning"));
  const kept = inReadingOrder([...errors, ...warnings].slice(0, maxProblems - 1));
  return [...kept, noteOf(kept, left + noted.length - kept.length)];
}

const moreProblems = "more-problems";

/** How many problems there are, those included that were not kept. */
export function countOf(problems: readonly LocatedProblem[]): number {
  return problems.reduce((sum, { code, found }) => sum + (code === moreProblems ? Number(found) : 1), 0);
}

/** Stands where the last one does, so that it points somewhere. */
function noteOf(kept: readonly LocatedProblem[], more: number): LocatedProblem {
  const { file, line, column, endLine, endColumn } = kept.at(-1)!;
  const message = `And ${more.toLocaleString("en")} more.`;
  const severity = kept.some((each) => each.severity === "error") ? "error" : "warning";
  return { severity, code: moreProblems, file, line, column, endLine, endColumn, message, found: String(more) };
}

/** In the order in which people read: by file, then by place, errors before warnings at the same place. */
export function inReadingOrder(problems: readonly LocatedProblem[]): LocatedProblem[] {
  return [...problems].sort(
    (a, b) =>
      compare(a.file, b.file) ||
      a.line - b.line ||
      a.column - b.column ||
      compare(a.severity, b.severity) ||
      compare(a.code, b.code),
  );
}

function compare(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}
