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

/** Tests of one subject, the last one first, and a value that does for all of them. */
interface Group {
  readonly wanted: Wanted;
  readonly earlier: Group | undefined;
  readonly witness: Witness;
}

/** Steps for each goal, beside those: goals that a value at hand does for take no more. Each step takes room on the stack. */
const waysForEach = 4;
const maxForGoals = 3_000;

/** What is left to reach, the next one first. */
type Goals = { readonly goal: Goal; readonly rest: Goals } | undefined;

type Groups = ReadonlyMap<string, Group>;

/** Whether contexts reach all goals: "no" if it is proved that none does, "yes" if values were found that do. */
export type Reach = "no" | "perhaps" | "yes";

export function reachOf(goals: readonly Goal[], definitions: Definitions, assumptions: Assumptions = {}): Reach {
  return searchFor(goals, definitions, assumptions).reach(before(goals, undefined), new Map());
}

/** Values that reach all goals: tells whether they reach another one, too. Undefined where none are found. */
export function exampleOf(
  goals: readonly Goal[],
  definitions: Definitions,
  assumptions: Assumptions = {},
): ((goal: Goal) => boolean) | undefined {
  const search = searchFor(goals, definitions, assumptions);
  return search.reach(before(goals, undefined), new Map()) === "yes" ? (goal) => search.reachesToo(goal) : undefined;
}

function searchFor(goals: readonly Goal[], definitions: Definitions, assumptions: Assumptions): Search {
  return new Search(
    { definitions, assumptions, neighbours: new Neighbours() },
    maxWays + Math.min(waysForEach * goals.length, maxForGoals),
  );
}

/** False only if it is proved that no context reaches all goals. */
export function isSatisfiable(goals: readonly Goal[], definitions: Definitions, assumptions?: Assumptions): boolean {
  return reachOf(goals, definitions, assumptions) !== "no";
}

class Search {
  readonly #grounds: Grounds;
  #left: number;
  #reached: Groups = new Map();

  /** @param most the steps after which it gives up */
  constructor(grounds: Grounds, most: number) {
    this.#grounds = grounds;
    this.#left = most;
  }

  /** Whether the values that were found reach one more goal. */
  reachesToo(goal: Goal): boolean {
    return this.#isReached(goal, this.#reached);
  }

  /** @param held what the goals so far have left, none of it impossible */
  reach(goals: Goals, held: Groups): Reach {
    if (goals === undefined) {
      this.#reached = held;
      return [...held.values()].some(({ witness }) => witness === "perhaps") ? "perhaps" : "yes";
    }
    if (--this.#left < 0) return "perhaps";
    const { goal, rest } = goals;
    const { condition, mode } = goal;
    switch (condition.kind) {
      case "and":
      case "or": {
        const parts = condition.parts.map((part) => ({ condition: part, mode }));
        const needsAll = (condition.kind === "and") === (mode === "true" || mode === "not-false");
        if (needsAll) return this.reach(before(parts, rest), held);
        for (const part of this.#easiestFirst(parts, held)) {
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

  /** Ways for which the values at hand do are gone first: mostly they do for all that follows, and no value is looked for. */
  #easiestFirst(parts: readonly Goal[], held: Groups): readonly Goal[] {
    const easy = parts.find((part) => this.#isReached(part, held));
    return easy === undefined || easy === parts[0] ? parts : [easy, ...parts.filter((part) => part !== easy)];
  }

  /** Whether the values at hand reach a goal. */
  #isReached({ condition, mode }: Goal, held: Groups): boolean {
    switch (condition.kind) {
      case "and":
      case "or": {
        const holds = (part: Condition) => this.#isReached({ condition: part, mode }, held);
        const needsAll = (condition.kind === "and") === (mode === "true" || mode === "not-false");
        return needsAll ? condition.parts.every(holds) : condition.parts.some(holds);
      }
      case "not":
        return this.#isReached({ condition: condition.part, mode: opposite[mode] }, held);
      default: {
        const meaning = this.#meaningOf(condition);
        if (meaning) return this.#isReached({ condition: meaning, mode }, held);
        const group = held.get(subjectOf(condition, this.#grounds));
        return group !== undefined && testifies(group.witness, { test: condition, mode }, this.#grounds);
      }
    }
  }

  /** The condition that a cohort stands for, if it has one. */
  #meaningOf(test: Test): Condition | undefined {
    const { cohorts, conditions } = this.#grounds.definitions;
    const cohort = test.kind === "cohort" ? cohorts.get(test.name) : undefined;
    return cohort?.kind === "condition" ? conditions.get(cohort.when).condition : undefined;
  }

  #test(test: Test, mode: Mode, rest: Goals, held: Groups): Reach {
    const meaning = this.#meaningOf(test);
    if (meaning) return this.reach({ goal: { condition: meaning, mode }, rest }, held);
    const more = this.#withTest({ test, mode }, held);
    return more === undefined ? "no" : this.reach(rest, more);
  }

  /** Undefined if it is proved that nothing does for this test and those of its subject. */
  #withTest(wanted: Wanted, held: Groups): Groups | undefined {
    const subject = subjectOf(wanted.test, this.#grounds);
    const earlier = held.get(subject);
    const witness =
      earlier && testifies(earlier.witness, wanted, this.#grounds)
        ? earlier.witness
        : this.#witnessFor(wanted, earlier);
    if (witness === undefined) return undefined;
    return new Map(held).set(subject, { wanted, earlier, witness });
  }

  /** What the first goals want is often reason enough, and looking for a witness takes longer the more it must do for. */
  #witnessFor(wanted: Wanted, earlier: Group | undefined): Witness | undefined {
    const all = [...wantedIn(earlier), wanted];
    const few = all.length > firstFew + 1 ? [...all.slice(0, firstFew), wanted] : all;
    const witness = witnessFor(few, this.#grounds);
    return witness === undefined || few === all ? witness : witnessFor(all, this.#grounds);
  }
}

/** The tests of a group, the first one first. */
function wantedIn(group: Group | undefined): Wanted[] {
  const all: Wanted[] = [];
  for (let each = group; each; each = each.earlier) all.push(each.wanted);
  return all.reverse();
}

function before(goals: readonly Goal[], rest: Goals): Goals {
  return goals.reduceRight<Goals>((further, goal) => ({ goal, rest: further }), rest);
}
