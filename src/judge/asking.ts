import type { Plain } from "../values/data.ts";
import { isPlainContext, prototypeIsPolluted } from "./context/reach.ts";
import type { FlagSet } from "./flag-set.ts";
import type { Outcome } from "./outcome.ts";
import { type Clock, type Overrides, Question } from "./question.ts";

/** One context at one instant, asked about several flags; each flag, cohort and window is judged at most once. */
export class Asking {
  readonly set: FlagSet;
  readonly context: unknown;
  readonly overrides: Overrides | undefined;
  readonly #clock: Clock;
  readonly #judged = new Map<string, Outcome | undefined>();
  #question: Question;
  #isCareful: boolean;

  constructor(set: FlagSet, context: unknown, clock: Clock, overrides: Overrides | undefined) {
    this.set = set;
    this.context = context;
    this.overrides = overrides;
    this.#clock = clock;
    this.#isCareful = !readsDirectly(context);
    this.#question = this.#isCareful ? this.#careful() : new Question(context as Plain, clock, overrides);
  }

  /** The outcome of a flag; undefined if nobody defines it. It never throws. */
  judge(name: string): Outcome | undefined {
    const known = this.#judged.get(name);
    if (known !== undefined) return known;
    const outcome = this.#judge(name);
    this.#judged.set(name, outcome);
    return outcome;
  }

  /** What has been judged so far, in the order of asking. */
  judged(): Outcome[] {
    return [...this.#judged.values()].filter((outcome) => outcome !== undefined);
  }

  #judge(name: string): Outcome | undefined {
    const flag = this.set.flag(name);
    if (flag === undefined) return undefined;
    try {
      return flag.judgeOnce(this.#question);
    } catch (error) {
      if (this.#isCareful) throw error;
      this.#isCareful = true;
      this.#question = this.#careful();
      return flag.judgeOnce(this.#question);
    }
  }

  #careful(): Question {
    return new Question(this.set.harmless(this.context), this.#clock, this.overrides);
  }
}

function readsDirectly(context: unknown): boolean {
  try {
    return isPlainContext(context) && !prototypeIsPolluted();
  } catch {
    return false;
  }
}
