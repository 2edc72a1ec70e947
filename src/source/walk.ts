import type { Place, ProblemCode, ProblemDetails, Problems } from "../problems/index.ts";

/** Goes down into a file's data and remembers the way, so that a problem knows its place. */
export class Walk {
  readonly problems: Problems;
  readonly file: string;
  readonly path: (string | number)[] = [];

  constructor(problems: Problems, file: string) {
    this.problems = problems;
    this.file = file;
  }

  place(part?: "key" | "value"): Place {
    const place = { file: this.file, path: [...this.path] };
    return part ? { ...place, part } : place;
  }

  report(code: ProblemCode, details: ProblemDetails): void {
    this.problems.report(code, this.place(), details);
  }

  reportKey(code: ProblemCode, details: ProblemDetails): void {
    this.problems.report(code, this.place("key"), details);
  }

  inside(key: string | number, visit: () => void): void {
    this.path.push(key);
    visit();
    this.path.pop();
  }
}
