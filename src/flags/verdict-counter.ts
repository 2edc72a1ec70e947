import type { Verdict } from "../judge/index.ts";
import type { VerdictEvent } from "./verdict-events.ts";

/** What a counter counted for one flag. */
export interface FlagCounts {
  readonly causes: Readonly<Record<string, number>>;
  /** How often a test was undecided, by the attribute that it looked at. */
  readonly undecided: Readonly<Record<string, number>>;
}

/** How often one answer was given, and with which attributes undecided. */
class Tally {
  times = 0;
  readonly undecided = new Map<string, number>();
}

/** How many answers are counted apart before they are added up, so that those of old revisions are let go. */
const maxApart = 10_000;

/**
 * A listener that counts verdicts by cause and undecided tests by attribute, flag by flag. It asks each test once more,
 * which takes as long as judging did.
 *
 * @example
 * const counter = verdictCounter();
 * flags.on("verdict", counter.listener);
 * counter.counts().get("zone-fares"); // { causes: { rule: 12, otherwise: 40 }, undecided: { trips: 3 } }
 */
export function verdictCounter(): {
  /** To be put on with `flags.on("verdict", …)`. */
  listener: (event: VerdictEvent) => void;
  /** What was counted so far, by flag. */
  counts(): ReadonlyMap<string, FlagCounts>;
} {
  // The same answer is the same object, so that only counting is left to do while a program asks.
  const tallies = new Map<Verdict, Tally>();
  const causes = new Counts();
  const undecided = new Counts();
  const addUp = () => {
    for (const [{ flag, cause }, tally] of tallies) {
      causes.add(flag, cause, tally.times);
      for (const [attribute, times] of tally.undecided) undecided.add(flag, attribute, times);
    }
    tallies.clear();
  };
  return {
    listener: (event) => {
      const { verdict } = event;
      let tally = tallies.get(verdict);
      if (tally === undefined) {
        if (tallies.size >= maxApart) addUp();
        tally = new Tally();
        tallies.set(verdict, tally);
      }
      tally.times++;
      for (const attribute of event.undecided)
        tally.undecided.set(attribute, (tally.undecided.get(attribute) ?? 0) + 1);
    },
    counts: () => {
      addUp();
      return new Map(causes.flags.map((flag) => [flag, { causes: causes.of(flag), undecided: undecided.of(flag) }]));
    },
  };
}

/** Numbers by flag and one thing more. */
class Counts {
  readonly #flags = new Map<string, Map<string, number>>();

  get flags(): readonly string[] {
    return [...this.#flags.keys()];
  }

  add(flag: string, what: string, times: number): void {
    const counts = this.#flags.get(flag) ?? new Map<string, number>();
    this.#flags.set(flag, counts.set(what, (counts.get(what) ?? 0) + times));
  }

  of(flag: string): Readonly<Record<string, number>> {
    return Object.fromEntries(this.#flags.get(flag) ?? []);
  }
}
