import { Asking, type Outcome, type Overrides } from "../judge/index.ts";
import type { InForce } from "./in-force.ts";
import type { Listeners } from "./listeners.ts";
import type { Pass } from "./pass.ts";
import type { AskedBy } from "./verdict-events.ts";

/** For whom and by what flags are pinned. */
export interface PinnedTo {
  readonly context: unknown;
  /** Epoch milliseconds. */
  readonly at: number;
  readonly overrides: Overrides | undefined;
  readonly pass: Pass | undefined;
}

/**
 * What pinned flags know: the set, the context, and what was given so far. It has a place of its own so that printing pinned
 * flags shows nothing of the person; made for every request, it has plain fields, which are set faster than private ones.
 */
export class PinnedAsking extends Asking {
  readonly inForce: InForce;
  readonly pass: Pass | undefined;
  /** What was given, in the order of asking. */
  readonly given: Outcome[];
  /** Undefined where nobody is told. */
  private readonly listeners: Listeners | undefined;
  /** What a page was told, and the program has not asked. */
  private forPage: Set<Outcome> | undefined;
  /** What no definition decides. */
  private others: Map<string, Outcome> | undefined;

  constructor(inForce: InForce, { context, at, overrides, pass }: PinnedTo, listeners: Listeners | undefined) {
    super(inForce.set, context, at, overrides);
    this.inForce = inForce;
    this.pass = pass;
    this.given = [];
    this.listeners = listeners;
    this.forPage = undefined;
    this.others = undefined;
  }

  outcome(name: string, asked: AskedBy): Outcome {
    const instead = this.inForce.fallback(name);
    const flag = instead === undefined ? this.set.flag(name) : undefined;
    if (flag === undefined) return this.undecided(name, instead, asked);
    const known = this.known(flag);
    return known === undefined ? this.give(this.judgeAnew(flag), asked) : this.giveAgain(known, asked);
  }

  /** The catalogue's fallback, or nothing known. */
  private undecided(name: string, instead: Outcome | undefined, asked: AskedBy): Outcome {
    this.others ??= new Map();
    const known = this.others.get(name);
    if (known !== undefined) return this.giveAgain(known, asked);
    const outcome = instead ?? this.inForce.unknown(name);
    this.others.set(name, outcome);
    return this.give(outcome, asked);
  }

  private give(outcome: Outcome, asked: AskedBy): Outcome {
    this.given.push(outcome);
    if (asked === "page") {
      this.forPage ??= new Set();
      this.forPage.add(outcome);
    }
    if (this.listeners?.hearAnswers) this.tell(outcome, asked);
    return outcome;
  }

  /** Of what was judged already; because another flag refers to it, it may be, and then nobody was told. */
  private giveAgain(outcome: Outcome, asked: AskedBy): Outcome {
    if (!this.given.includes(outcome)) return this.give(outcome, asked);
    if (asked !== "page" && this.forPage?.delete(outcome) && this.listeners?.hearAnswers) this.tell(outcome, asked);
    return outcome;
  }

  private tell(outcome: Outcome, asked: AskedBy): void {
    const { set, context, overrides, pass, at } = this;
    if (this.listeners!.concerns(outcome, set, context))
      this.listeners!.tell({ outcome, set, context, overrides, asked }, () => at, pass);
  }
}
