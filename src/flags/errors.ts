import { type LocatedProblem, renderProblems } from "../files/index.ts";

/** A definition folder that cannot be used; it lists every problem that was found. */
export class FlagsError extends Error {
  override readonly name = "FlagsError";
  readonly problems: readonly LocatedProblem[];

  constructor(message: string, problems: readonly LocatedProblem[] = []) {
    super(problems.length === 0 ? message : `${message}\n\n${renderProblems(problems)}`);
    this.problems = problems;
  }
}
