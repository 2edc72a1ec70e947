import type { CompiledFlag } from "../../judge/compiled-flag.ts";
import { isPlainContext, prototypeIsPolluted } from "../../judge/context/reach.ts";
import { readerOf } from "../../judge/context/reader.ts";
import { idText } from "../../judge/context/subject.ts";
import type { FlagSet } from "../../judge/flag-set.ts";
import type { Cause, Outcome } from "../../judge/outcome.ts";
import { Question } from "../../judge/question.ts";
import { type Division, divisionOf, percentAt } from "../../judge/rule.ts";
import { isMissing } from "../../language/operators.ts";
import { parsePath } from "../../language/parser.ts";
import { printPath } from "../../language/print.ts";
import { effectiveFlag } from "../../model/effective.ts";
import { attributesBehind, usesOf } from "../../model/uses.ts";
import type { Plain } from "../../values/data.ts";
import { chanceInterval } from "./chance.ts";

/** How the values of one flag fall on many contexts. */
export interface CensusResult {
  readonly flag: string;
  readonly environment: string | undefined;
  /** The instant, ISO 8601. */
  readonly at: string;
  readonly revision: string;
  readonly contexts: number;
  readonly values: readonly ValueCount[];
  readonly causes: readonly CauseCount[];
  readonly divisions: readonly DivisionCount[];
  /** Contexts that lacked an attribute which the flag may read, by attribute. */
  readonly missing: Readonly<Record<string, number>>;
  readonly by?: GroupedCount;
}

export interface ValueCount {
  readonly value: unknown;
  readonly variant: string | undefined;
  readonly count: number;
  readonly percent: number;
}

export interface CauseCount {
  readonly cause: Cause;
  /** The index of the rule, from 0. */
  readonly rule: number | undefined;
  readonly ruleName: string | undefined;
  readonly count: number;
  readonly percent: number;
}

/** What a rule's share and split made of those whom its condition matched. */
export interface DivisionCount {
  readonly rule: number;
  readonly ruleName: string | undefined;
  readonly by: string;
  /** Contexts that matched the condition and have an id. */
  readonly asked: number;
  readonly share?: ExpectedShare;
  readonly split?: readonly (Expected & { readonly variant: string })[];
}

/** A count beside what chance would give. */
export interface Expected {
  /** The percentage as defined. */
  readonly percent: number;
  readonly count: number;
  /** Between these counts 95 % of trials would fall. */
  readonly interval: readonly [number, number];
}

export interface ExpectedShare extends Expected {
  /**
   * How many of those asked had come past an earlier share of the same salt: it has taken the lowest of its positions,
   * which the interval allows for.
   */
  readonly pastEarlierShare?: number;
}

export interface GroupedCount {
  readonly attribute: string;
  readonly groups: readonly {
    /** The value as a text; undefined for contexts without one, "…" for those past the limit. */
    readonly group: string | undefined;
    readonly contexts: number;
    readonly values: readonly ValueCount[];
  }[];
}

export interface CensusOptions {
  /** Epoch milliseconds. */
  readonly at: number;
  /** Split the counts by this attribute. */
  readonly by?: string | undefined;
}

/** Groups that are told apart; memory must not grow with the file. */
const mostGroups = 1_000;

/** The group of everything past the limit. */
const rest = "…";

type Counts = Map<Outcome, number>;

/**
 * Counts how one flag falls on contexts, handed in one by one. Memory does not grow with their number.
 *
 * @example
 * const census = new Census(flagSet, "seat-map", { at: Date.now(), by: "account.plan" });
 * for (const context of contexts) census.count(context);
 * census.result().values; // [{ value: "list", variant: "classic", count: 5012, percent: 50.12 }, …]
 */
export class Census {
  contexts = 0;
  readonly #set: FlagSet;
  readonly #flag: CompiledFlag;
  readonly #options: CensusOptions;
  readonly #clock: () => number;
  readonly #total: Counts = new Map();
  /** What the rules divide, and for each how many were asked, by the percentage that they had come past before. */
  readonly #divisions: readonly (Division | undefined)[];
  readonly #asked: readonly Map<number, number>[];
  /** The rules whose division the context at hand was asked for. */
  readonly #met: number[] = [];
  readonly #attributes: readonly { readonly path: string; read(context: Plain): unknown; missing: number }[];
  readonly #readGroup: ((context: Plain) => unknown) | undefined;
  readonly #groups = new Map<string | undefined, Counts>();

  /** @param name a flag that the set defines, and `by` a path that can be read */
  constructor(set: FlagSet, name: string, options: CensusOptions) {
    this.#set = set;
    this.#flag = set.flag(name)!;
    this.#options = options;
    this.#clock = () => options.at;
    this.#divisions = this.#rules.map((rule) => divisionOf(this.#flag.definition, rule));
    this.#asked = this.#rules.map(() => new Map());
    this.#attributes = attributesBehind(name, usesOf(set.definitions)).map((path) => ({
      path,
      read: readerOf(parsePath(path).path!),
      missing: 0,
    }));
    this.#readGroup = options.by === undefined ? undefined : readerOf(parsePath(options.by).path!);
  }

  get #rules() {
    return effectiveFlag(this.#flag.definition, this.#set.environment).rules;
  }

  count(context: unknown): void {
    const plain = isPlainContext(context) && !prototypeIsPolluted() ? context : this.#set.harmless(context);
    this.#met.length = 0;
    const outcome = this.#flag.judgeNoting(new Question(plain, this.#clock, undefined), this.#met);
    for (let i = 0; i < this.#met.length; i++) {
      const counts = this.#asked[this.#met[i]!]!;
      const past = i === 0 ? 0 : this.#pastBefore(i);
      counts.set(past, (counts.get(past) ?? 0) + 1);
    }
    this.contexts++;
    add(this.#total, outcome);
    for (const attribute of this.#attributes) if (isMissing(attribute.read(plain))) attribute.missing++;
    if (this.#readGroup !== undefined) add(this.#group(this.#readGroup(plain)), outcome);
  }

  /**
   * The percentage that the context has come past before it met a rule: shares of one salt and attribute go by the same
   * position, so that whoever was outside 10% is among the upper 90% of all.
   */
  #pastBefore(met: number): number {
    const here = this.#divisions[this.#met[met]!]!;
    let past = 0;
    for (let i = 0; i < met; i++) {
      const before = this.#divisions[this.#met[i]!]!;
      if (before.share === undefined || before.salt !== here.salt || before.by !== here.by) continue;
      past = Math.max(past, percentAt(before.share.steps, this.#options.at));
    }
    return past;
  }

  #group(value: unknown): Counts {
    const wanted = isMissing(value) ? undefined : typeof value === "boolean" ? String(value) : (idText(value) ?? "?");
    const known = this.#groups.get(wanted);
    if (known) return known;
    const name = this.#groups.size >= mostGroups ? rest : wanted;
    const counts: Counts = this.#groups.get(name) ?? new Map();
    this.#groups.set(name, counts);
    return counts;
  }

  result(): CensusResult {
    const { definition } = this.#flag;
    return {
      flag: definition.name,
      environment: this.#set.environment,
      at: new Date(this.#options.at).toISOString(),
      revision: this.#set.revision,
      contexts: this.contexts,
      values: this.#values(this.#total),
      causes: this.#causes(),
      divisions: this.#counted(),
      missing: Object.fromEntries(this.#attributes.map(({ path, missing }) => [path, missing])),
      ...(this.#readGroup === undefined ? {} : { by: this.#grouped() }),
    };
  }

  #values(counts: Counts): ValueCount[] {
    const total = sum(counts);
    const merged = new Map<unknown, { value: unknown; variant: string | undefined; count: number }>();
    for (const [{ value, variant }, count] of counts) {
      const key = variant ?? value;
      const known = merged.get(key);
      if (known) known.count += count;
      else merged.set(key, { value, variant, count });
    }
    return [...merged.values()]
      .sort((a, b) => b.count - a.count)
      .map((each) => ({ ...each, percent: percentOf(each.count, total) }));
  }

  #causes(): CauseCount[] {
    const merged = new Map<string, { cause: Cause; rule: number | undefined; count: number }>();
    for (const [{ cause, rule }, count] of this.#total) {
      const key = `${cause} ${rule}`;
      const known = merged.get(key);
      if (known) known.count += count;
      else merged.set(key, { cause, rule, count });
    }
    return [...merged.values()]
      .sort((a, b) => (a.rule ?? Number.MAX_SAFE_INTEGER) - (b.rule ?? Number.MAX_SAFE_INTEGER))
      .map(({ cause, rule, count }) => ({
        cause,
        rule,
        ruleName: rule === undefined ? undefined : this.#rules[rule]?.name,
        count,
        percent: percentOf(count, this.contexts),
      }));
  }

  #counted(): DivisionCount[] {
    return this.#rules.flatMap((rule, index): DivisionCount[] => {
      const division = this.#divisions[index];
      if (!division) return [];
      const asked = this.#asked[index]!;
      const inside = this.#inside(index);
      const total = sum(inside);
      const { share, split } = division;
      return [
        {
          rule: index,
          ruleName: rule.name,
          by: printPath(division.by),
          asked: sum(asked),
          ...(share === undefined
            ? {}
            : { share: expectedShare(total, percentAt(share.steps, this.#options.at), asked) }),
          ...(split === undefined
            ? {}
            : {
                split: split.variants.map((variant, i) => ({
                  variant,
                  ...expectedPart(countOf(inside, variant), total, split.weights[i]! / split.total),
                })),
              }),
        },
      ];
    });
  }

  #inside(rule: number): Counts {
    return new Map([...this.#total].filter(([outcome]) => outcome.cause === "rule" && outcome.rule === rule));
  }

  #grouped(): GroupedCount {
    const groups = [...this.#groups].map(([group, counts]) => ({
      group,
      contexts: sum(counts),
      values: this.#values(counts),
    }));
    return { attribute: this.#options.by!, groups: groups.sort((a, b) => b.contexts - a.contexts) };
  }
}

function add(counts: Counts, outcome: Outcome): void {
  counts.set(outcome, (counts.get(outcome) ?? 0) + 1);
}

/** Whoever came past some percentage before is inside only by what the share has beyond it. */
function expectedShare(count: number, percent: number, asked: ReadonlyMap<number, number>): ExpectedShare {
  const trials = [...asked].map(([past, of]) => ({ of, chance: Math.max(0, percent - past) / (100 - past) }));
  const past = sum(asked) - (asked.get(0) ?? 0);
  return { percent, count, interval: chanceInterval(trials), ...(past === 0 ? {} : { pastEarlierShare: past }) };
}

function expectedPart(count: number, of: number, chance: number): Expected {
  return { percent: chance * 100, count, interval: chanceInterval([{ of, chance }]) };
}

function sum(counts: ReadonlyMap<unknown, number>): number {
  let total = 0;
  for (const count of counts.values()) total += count;
  return total;
}

function countOf(counts: Counts, variant: string): number {
  let total = 0;
  for (const [outcome, count] of counts) if (outcome.variant === variant) total += count;
  return total;
}

function percentOf(count: number, total: number): number {
  return total === 0 ? 0 : (count / total) * 100;
}
