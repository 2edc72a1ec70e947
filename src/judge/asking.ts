import type { Plain } from "../values/index.ts";
import type { CompiledFlag } from "./compiled-flag.ts";
import { HarmlessCopy } from "./context/harmless.ts";
import { isPlainContext } from "./context/reach.ts";
import type { FlagSet } from "./flag-set.ts";
import type { Outcome } from "./outcome.ts";
import { type Overrides, Question } from "./question.ts";

/**
 * One context at one instant, asked about several flags; each flag, cohort and window is judged at most once. Made for every
 * request, so its fields are plain ones.
 */
export class Asking {
  readonly set: FlagSet;
  readonly context: unknown;
  /** Epoch milliseconds. */
  readonly at: number;
  readonly overrides: Overrides | undefined;
  private question: Question;
  /** Where the context cannot be read directly. */
  private copy: HarmlessCopy | undefined;

  constructor(set: FlagSet, context: unknown, at: number, overrides: Overrides | undefined) {
    this.set = set;
    this.context = context;
    this.at = at;
    this.overrides = overrides;
    this.copy = undefined;
    this.question = readsDirectly(context) ? new Question(context, at, overrides) : this.careful();
  }

  /** The outcome of a flag that was judged already, because somebody asked for it or another flag refers to it. */
  known(flag: CompiledFlag): Outcome | undefined {
    return this.question.outcomes?.get(flag);
  }

  /** The outcome of a flag; undefined if nobody defines it. It never throws. */
  judge(name: string): Outcome | undefined {
    const flag = this.set.flag(name);
    return flag === undefined ? undefined : (this.known(flag) ?? this.judgeAnew(flag));
  }

  /** The outcome of a flag that was not judged yet. It never throws. */
  judgeAnew(flag: CompiledFlag): Outcome {
    if (this.copy === undefined) {
      try {
        return flag.judgeAnew(this.question);
      } catch {
        // A getter, a proxy: from here on a harmless copy is asked.
        this.question = this.careful();
      }
    }
    this.copy!.take(this.set.pathsBehind(flag.definition.name));
    return flag.judgeOnce(this.question);
  }

  private careful(): Question {
    this.copy = new HarmlessCopy(this.context);
    return new Question(this.copy.context, this.at, this.overrides);
  }
}

function readsDirectly(context: unknown): context is Plain {
  try {
    return isPlainContext(context);
  } catch {
    return false;
  }
}
