import type { Condition, Test } from "../../language/index.ts";
import type { Definitions } from "../../model/index.ts";
import { type Grounds, subjectOf, testifies, type Witness, witnessFor } from "./consistent.ts";
import { Neighbours } from "./neighbours.ts";
import type { Assumptions, Mode, Wanted } from "./wanted.ts";

/**
 * The decision procedure of the analysis.
 *
 * A goal says of a condition that it is true, false, not true or not false (the last two leave "undecided" open). Goals
 * are taken apart by Kleene's rules: `a and b` is true if both are, not true if either is not, and so on; `not` swaps
 * the modes; a cohort with a condition stands for that condition. What remains are tests with a mode, and those are
 * looked at attribute by attribute (see `consistent.ts`): each is held against a value that the tests before it have left,
 * and only where that one does not do, another is looked for. A way ends with the first test that leaves none. If every way
 * of taking the goals apart ends so, no context whatsoever can reach them: that is the proof a warning rests on.
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

const maxWays = 3_000;

/** Tests of one subject that are looked at before all of them are. */
const firstFew = 4;

/** Tests of one subject, and a value that does for all of them. */
interface Group {
  readonly wanted: readonly Wanted[];
  readonly witness: Witness;
}

/** What is left to reach, the next one first. */
type Goals = { readonly goal: Goal; readonly rest: Goals } | undefined;

type Groups = ReadonlyMap<string, Group>;

/** Whether contexts reach all goals: "no" if it is proved that none does, "yes" if values were found that do. */
export type Reach = "no" | "perhaps" | "yes";

export function reachOf(goals: readonly Goal[], definitions: Definitions, assumptions: Assumptions = {}): Reach {
  const search = new Search({ definitions, assumptions, neighbours: new Neighbours() });
  return search.reach(before(goals, undefined), new Map());
}

/** False only if it is proved that no context reaches all goals. */
export function isSatisfiable(goals: readonly Goal[], definitions: Definitions, assumptions?: Assumptions): boolean {
  return reachOf(goals, definitions, assumptions) !== "no";
}

class Search {
  readonly #grounds: Grounds;
  #left = maxWays;

  constructor(grounds: Grounds) {
    this.#grounds = grounds;
  }

  /** @param held what the goals so far have left, none of it impossible */
  reach(goals: Goals, held: Groups): Reach {
    if (goals === undefined) return [...held.values()].some(({ witness }) => witness === "perhaps") ? "perhaps" : "yes";
    if (--this.#left < 0) return "perhaps";
    const { goal, rest } = goals;
    const { condition, mode } = goal;
    switch (condition.kind) {
      case "and":
      case "or": {
        const parts = condition.parts.map((part) => ({ condition: part, mode }));
        const needsAll = (condition.kind === "and") === (mode === "true" || mode === "not-false");
        if (needsAll) return this.reach(before(parts, rest), held);
        for (const part of parts) {
          const reach = this.reach({ goal: part, rest }, held);
          if (reach !== "no") return reach;
        }
        return "no";
      }
      case "not":
        return this.reach({ goal: { condition: condition.part, mode: opposite[mode] }, rest }, held);
      default:
        return this.#test(condition, mode, rest, held);
    }
  }

  #test(test: Test, mode: Mode, rest: Goals, held: Groups): Reach {
    const { cohorts, conditions } = this.#grounds.definitions;
    const cohort = test.kind === "cohort" ? cohorts.get(test.name) : undefined;
    const meaning = cohort?.kind === "condition" ? conditions.get(cohort.when).condition : undefined;
    if (meaning) return this.reach({ goal: { condition: meaning, mode }, rest }, held);
    const more = this.#withTest({ test, mode }, held);
    return more === undefined ? "no" : this.reach(rest, more);
  }

  /** Undefined if it is proved that nothing does for this test and those of its subject. */
  #withTest(wanted: Wanted, held: Groups): Groups | undefined {
    const subject = subjectOf(wanted.test);
    const group = held.get(subject);
    const all = [...(group?.wanted ?? []), wanted];
    const witness = group && testifies(group.witness, wanted, this.#grounds) ? group.witness : this.#witnessFor(all);
    return witness === undefined ? undefined : new Map(held).set(subject, { wanted: all, witness });
  }

  /** What the first goals want is often reason enough, and looking for a witness takes longer the more it must do for. */
  #witnessFor(all: readonly Wanted[]): Witness | undefined {
    const few = all.length > firstFew + 1 ? [...all.slice(0, firstFew), all.at(-1)!] : all;
    const witness = witnessFor(few, this.#grounds);
    return witness === undefined || few === all ? witness : witnessFor(all, this.#grounds);
  }
}

function before(goals: readonly Goal[], rest: Goals): Goals {
  return goals.reduceRight<Goals>((further, goal) => ({ goal, rest: further }), rest);
}
