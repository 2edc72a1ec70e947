import type { Condition, Test } from "../../language/index.ts";
import type { Definitions } from "../../model/index.ts";
import { isConsistent } from "./consistent.ts";
import type { Assumptions, Mode, Wanted } from "./wanted.ts";

/**
 * The decision procedure of the analysis.
 *
 * A goal says of a condition that it is true, false, not true or not false (the last two leave "undecided" open). Goals
 * are taken apart by Kleene's rules: `a and b` is true if both are, not true if either is not, and so on; `not` swaps
 * the modes; a cohort with a condition stands for that condition. What remains are tests with a mode, and those are
 * looked at attribute by attribute (see `consistent.ts`). If no way of taking the goals apart leaves consistent tests,
 * no context whatsoever can reach them: that is the proof a warning rests on.
 *
 * The search is bounded; when the bound is reached the answer is "perhaps", and no warning is given.
 */
export interface Goal {
  readonly condition: Condition;
  readonly mode: Mode;
}

const opposite: Readonly<Record<Mode, Mode>> = {
  true: "false",
  false: "true",
  "not-true": "not-false",
  "not-false": "not-true",
};

const mostWays = 3_000;

/** False only if it is proved that no context reaches all goals. */
export function isSatisfiable(
  goals: readonly Goal[],
  definitions: Definitions,
  assumptions: Assumptions = {},
): boolean {
  return new Search(definitions, assumptions).reach([...goals], []);
}

class Search {
  readonly #definitions: Definitions;
  readonly #assumptions: Assumptions;
  #left = mostWays;

  constructor(definitions: Definitions, assumptions: Assumptions) {
    this.#definitions = definitions;
    this.#assumptions = assumptions;
  }

  reach(goals: readonly Goal[], wanted: readonly Wanted[]): boolean {
    if (--this.#left < 0) return true;
    const [goal, ...rest] = goals;
    if (!goal) return isConsistent(wanted, this.#definitions, this.#assumptions);
    const { condition, mode } = goal;
    switch (condition.kind) {
      case "and":
      case "or": {
        const parts = condition.parts.map((part) => ({ condition: part, mode }));
        const needsAll = (condition.kind === "and") === (mode === "true" || mode === "not-false");
        if (needsAll) return this.reach([...parts, ...rest], wanted);
        return parts.some((part) => this.reach([part, ...rest], wanted));
      }
      case "not":
        return this.reach([{ condition: condition.part, mode: opposite[mode] }, ...rest], wanted);
      default:
        return this.#test(condition, mode, rest, wanted);
    }
  }

  #test(test: Test, mode: Mode, rest: readonly Goal[], wanted: readonly Wanted[]): boolean {
    const cohort = test.kind === "cohort" ? this.#definitions.cohorts.get(test.name) : undefined;
    const meaning = cohort?.kind === "condition" ? this.#definitions.conditions.get(cohort.when).condition : undefined;
    if (meaning) return this.reach([{ condition: meaning, mode }, ...rest], wanted);
    return this.reach(rest, [...wanted, { test, mode }]);
  }
}
