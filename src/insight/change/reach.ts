import { Asking, type Cause, FlagSet, type Outcome } from "../../judge/index.ts";
import { type Definitions, flagsBehind, Graph, type NodeKey, nodeKey } from "../../model/index.ts";
import { sameData } from "../../values/index.ts";
import type { PartChange } from "./compare.ts";

/** People who go from one value to another by the same way. */
export interface Move {
  readonly from: Given;
  readonly to: Given;
  readonly people: number;
  /** The first of them, by the label that they were counted under. */
  readonly who: readonly string[];
}

/** What is given, and by what. */
export interface Given {
  readonly value: unknown;
  readonly variant: string | undefined;
  readonly cause: Cause;
  /** The number of the rule, from 1. */
  readonly rule: number | undefined;
  readonly ruleName: string | undefined;
}

/** Whom a change reaches through one flag. */
export interface FlagReach {
  readonly flag: string;
  /** People who get another value. */
  readonly people: number;
  /** The largest first. */
  readonly moves: readonly Move[];
}

export interface ReachOptions {
  readonly environment?: string | undefined;
  /** Epoch milliseconds. */
  readonly at: number;
  /** How many people of each move are named; 5 by default. */
  readonly named?: number;
}

interface Counted {
  readonly from: Outcome;
  readonly to: Outcome;
  people: number;
  readonly who: string[];
}

/**
 * How a change falls on people: each is judged by the old set and by the new one, and those who get another value are
 * counted, by flag and by what gives it to them. Memory does not grow with the number of people.
 *
 * @example
 * const reach = new Reach(before, after, compareSets(before, after), { environment: "production", at: Date.now() });
 * for (const person of people) reach.count(person, person.account.id);
 * reach.result(); // [{ flag: "zone-fares", people: 212, moves: […] }]
 */
export class Reach {
  /** The flags that can give another value; the others are not judged. */
  readonly flags: readonly string[];
  people = 0;
  /** People for whom at least one flag gives another value. */
  reached = 0;
  readonly #before: FlagSet;
  readonly #after: FlagSet;
  readonly #oldNames: ReadonlyMap<string, string>;
  readonly #at: number;
  readonly #named: number;
  readonly #moves = new Map<string, Map<Outcome, Map<Outcome, Counted>>>();

  constructor(before: Definitions, after: Definitions, changes: readonly PartChange[], options: ReachOptions) {
    this.#before = new FlagSet(before, options.environment);
    this.#after = new FlagSet(after, options.environment);
    this.#at = options.at;
    this.#named = options.named ?? 5;
    this.#oldNames = new Map(
      changes.flatMap(({ part, name, from }) => (part !== "flag" || from === undefined ? [] : [[name, from]])),
    );
    this.flags = affected(before, after, changes).filter((name) => before.flags.has(this.#oldName(name)));
  }

  #oldName(name: string): string {
    return this.#oldNames.get(name) ?? name;
  }

  /** @param label what the person is called in `who`; undefined leaves them unnamed */
  count(context: unknown, label: string | undefined): void {
    const before = new Asking(this.#before, context, this.#at, undefined);
    const after = new Asking(this.#after, context, this.#at, undefined);
    let differs = false;
    for (const name of this.flags) {
      const from = before.judge(this.#oldName(name))!;
      const to = after.judge(name)!;
      if (sameData(from.value, to.value) && from.variant === to.variant) continue;
      differs = true;
      this.#note(name, from, to, label);
    }
    this.people++;
    if (differs) this.reached++;
  }

  #note(name: string, from: Outcome, to: Outcome, label: string | undefined): void {
    const ofFlag = entry(this.#moves, name, () => new Map<Outcome, Map<Outcome, Counted>>());
    const ofOutcome = entry(ofFlag, from, () => new Map<Outcome, Counted>());
    const counted = entry(ofOutcome, to, () => ({ from, to, people: 0, who: [] }));
    counted.people++;
    if (label !== undefined && counted.who.length < this.#named) counted.who.push(label);
  }

  result(): FlagReach[] {
    return [...this.#moves].map(([flag, froms]) => {
      const counted = [...froms.values()].flatMap((tos) => [...tos.values()]).sort((a, b) => b.people - a.people);
      const moves = counted.map(({ from, to, people, who }) => ({
        from: given(from),
        to: given(to),
        people,
        who,
      }));
      return { flag, people: moves.reduce((sum, { people }) => sum + people, 0), moves };
    });
  }
}

function entry<K, V>(map: Map<K, V>, key: K, make: () => V): V {
  let value = map.get(key);
  if (value === undefined) {
    value = make();
    map.set(key, value);
  }
  return value;
}

function given({ value, variant, cause, rule, ruleName }: Outcome): Given {
  return { value, variant, cause, rule, ruleName };
}

function affected(before: Definitions, after: Definitions, changes: readonly PartChange[]): string[] {
  const nodes = changes.flatMap(({ part, name, from }): NodeKey[] => {
    if (part === "environment") return [];
    const kind = part === "suspension" ? "flag" : part;
    return from === undefined ? [nodeKey(kind, name)] : [nodeKey(kind, name), nodeKey(kind, from)];
  });
  const flags = new Set([
    ...flagsBehind(nodes, new Graph(before).uses()),
    ...flagsBehind(nodes, new Graph(after).uses()),
  ]);
  return [...flags].filter((name) => after.flags.has(name)).sort();
}
