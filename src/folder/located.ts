import type { Place, Problem, ProblemCode } from "../core.ts";
import { problemCatalogue } from "../core.ts";
import { locatorFor } from "./parse.ts";
import type { Locator, TextFault, TextRange } from "./parsed-file.ts";

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
export type Texts = ReadonlyMap<string, string>;

/** Turns paths into lines and columns; each file is looked through at most once. */
export class Finder {
  readonly #texts: Texts;
  readonly #locators = new Map<string, Locator>();
  readonly #lines = new Map<string, LineIndex>();

  constructor(texts: Texts) {
    this.#texts = texts;
  }

  problem(problem: Problem): LocatedProblem {
    const { severity, code, place, message, found, expected, help, related } = problem;
    const hint = help ?? this.#cutShort(problem);
    return {
      severity,
      code,
      file: place.file,
      ...this.#range(place.file, this.#rangeOf(place)),
      message,
      ...(found === undefined ? {} : { found }),
      ...(expected === undefined ? {} : { expected }),
      ...(hint === undefined ? {} : { help: hint }),
      ...(related ? { related: related.map((r) => this.#related(r.place, r.message)) } : {}),
    };
  }

  /** Where something stands. */
  at(place: Place): Pick<LocatedProblem, "line" | "column"> {
    return startOf(this.#range(place.file, this.#rangeOf(place)));
  }

  fault(file: string, fault: TextFault): LocatedProblem {
    const { code, range, message, found, expected, help, related } = fault;
    return {
      severity: problemCatalogue[code].severity,
      code,
      file,
      ...this.#range(file, range),
      message,
      ...(found === undefined ? {} : { found }),
      ...(expected === undefined ? {} : { expected }),
      ...(help === undefined ? {} : { help }),
      ...(related
        ? { related: [{ file, ...startOf(this.#range(file, related.range)), message: related.message }] }
        : {}),
    };
  }

  #related(place: Place, message: string): RelatedLocation {
    return { file: place.file, ...startOf(this.#range(place.file, this.#rangeOf(place))), message };
  }

  #rangeOf(place: Place): TextRange {
    return this.#locator(place.file)?.locate(place.path, place.part ?? "value", place.span) ?? { start: 0, end: 0 };
  }

  #range(file: string, { start, end }: TextRange): Pick<LocatedProblem, "line" | "column" | "endLine" | "endColumn"> {
    const lines = this.#lineIndex(file);
    const from = lines.position(start);
    const to = lines.position(Math.max(end, start));
    return { line: from.line, column: from.column, endLine: to.line, endColumn: to.column };
  }

  /** An unquoted “ #” begins a comment in YAML, which cuts a condition short. */
  #cutShort({ code, place }: Problem): string | undefined {
    if (code !== "condition-syntax" && code !== "condition-empty") return undefined;
    const rest = this.#locator(place.file)?.after(place.path) ?? "";
    if (!/^\s+#/.test(rest)) return undefined;
    return "YAML takes “ #” and what follows as a comment: put the whole condition in single quotes";
  }

  #locator(file: string): Locator | undefined {
    const text = this.#texts.get(file);
    if (text === undefined) return undefined;
    let locator = this.#locators.get(file);
    if (!locator) {
      locator = locatorFor(file, text);
      this.#locators.set(file, locator);
    }
    return locator;
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

function startOf({ line, column }: { line: number; column: number }): { line: number; column: number } {
  return { line, column };
}

class LineIndex {
  readonly #starts: number[] = [0];

  constructor(text: string) {
    for (let i = text.indexOf("\n"); i >= 0; i = text.indexOf("\n", i + 1)) this.#starts.push(i + 1);
  }

  position(offset: number): { line: number; column: number } {
    let low = 0;
    let high = this.#starts.length;
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (this.#starts[middle]! <= offset) low = middle;
      else high = middle;
    }
    return { line: low + 1, column: offset - this.#starts[low]! + 1 };
  }
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
