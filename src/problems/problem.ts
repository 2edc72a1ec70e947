import { type ProblemCode, type ProblemKind, problemCatalogue } from "./catalogue.ts";

/** Keys and indexes, from the top of a file. */
export type Path = readonly (string | number)[];

/** Where something stands: a file, the way into its data, and perhaps a part of the text found there. */
export interface Place {
  readonly file: string;
  /** Keys and indexes from the top of the file. */
  readonly path: Path;
  /** Whether the key or its value is meant. */
  readonly part?: "key" | "value";
  /** UTF-16 offsets inside the text value, the end not included. */
  readonly span?: Span;
}

/** A part of a text, in UTF-16 offsets; the end is not included. */
export interface Span {
  readonly start: number;
  readonly end: number;
}

/** Another place that has to do with a problem. */
export interface RelatedPlace {
  readonly place: Place;
  readonly message: string;
}

/** A problem is data: what was found, where, what was expected and what to write. Wording is rendered at the edge. */
export interface Problem {
  readonly severity: "error" | "warning";
  readonly code: ProblemCode;
  readonly place: Place;
  readonly message: string;
  readonly found?: string;
  readonly expected?: string;
  readonly help?: string;
  readonly related?: readonly RelatedPlace[];
}

export interface ProblemDetails {
  readonly message: string;
  readonly found?: string | undefined;
  readonly expected?: string | undefined;
  readonly help?: string | undefined;
  readonly related?: readonly RelatedPlace[] | undefined;
}

/** What is wrong somewhere: the one shape of a fault, before it is known in which file it stands. */
export interface Fault extends ProblemDetails {
  readonly code: ProblemCode;
}

/** A fault inside a text, its place given as offsets. */
export interface TextFault extends Fault {
  readonly span: Span;
}

/** Problems that are kept of one reading; nobody reads more, and a hostile file can have millions. */
export const maxProblems = 1_000;

/** Collects problems; reading never stops at the first. */
export class Problems {
  readonly all: Problem[] = [];
  /** How many there were, kept or not. */
  count = 0;
  /** Whether one of them keeps the set from being used. */
  hasErrors = false;
  #warnings = 0;

  /** How many there were beyond those that are kept. */
  get more(): number {
    return this.count - this.all.length;
  }

  report(code: ProblemCode, place: Place, details: ProblemDetails): void {
    this.#take(problem(code, place, details));
  }

  add(problems: Iterable<Problem> | Problems): void {
    const isCounted = problems instanceof Problems;
    for (const each of isCounted ? problems.all : problems) this.#take(each);
    if (isCounted) this.count += problems.more;
  }

  #take(found: Problem): void {
    this.count++;
    this.hasErrors ||= blocksUse(found);
    const isWarning = found.severity === "warning";
    if (this.all.length < maxProblems) {
      this.all.push(found);
      if (isWarning) this.#warnings++;
    } else if (!isWarning && this.#warnings > 0) {
      // An error is worth more than a warning that came first.
      this.all[this.all.findLastIndex(({ severity }) => severity === "warning")] = found;
      this.#warnings--;
    }
  }
}

export function problem(code: ProblemCode, place: Place, details: ProblemDetails): Problem {
  const { message, found, expected, help, related } = details;
  return {
    severity: problemCatalogue[code].severity,
    code,
    place,
    message,
    ...(found === undefined ? {} : { found }),
    ...(expected === undefined ? {} : { expected }),
    ...(help === undefined ? {} : { help }),
    ...(related === undefined ? {} : { related }),
  };
}

/** Errors keep a set from being used; failing examples and faults of a suspension file are errors that do not. */
export function blocksUse(p: Problem): boolean {
  return p.severity === "error" && (problemCatalogue[p.code] as ProblemKind).blocks !== false;
}

/** A JSON Pointer (RFC 6901). */
export function pointer(path: Path): string {
  return path.map((step) => `/${String(step).replace(/~/g, "~0").replace(/\//g, "~1")}`).join("");
}

export function at(place: Place, ...steps: (string | number)[]): Place {
  return { file: place.file, path: [...place.path, ...steps] };
}

export function atKey(place: Place, key: string): Place {
  return { file: place.file, path: [...place.path, key], part: "key" };
}

export function inText(place: Place, span: Span): Place {
  return { ...place, span };
}
