import {
  type Cause,
  type CompiledFlag,
  type CompiledRule,
  type FlagSet,
  HarmlessCopy,
  idText,
  isPlainContext,
  type Met,
  type Outcome,
  Question,
  type Recorder,
  readerOf,
} from "../../judge/index.ts";
import { isMissing, printPath } from "../../language/index.ts";
import { type Division, partsOf, pathOf, type Rule, rangeAt } from "../../model/index.ts";
import { canonicalJson, type Plain, type Range, TRUE } from "../../values/index.ts";
import { chanceInterval, chanceWithin, lengthOf } from "./chance.ts";

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

/** How many got one value. */
export interface ValueCount {
  readonly value: unknown;
  readonly variant: string | undefined;
  readonly count: number;
  readonly percent: number;
}

/** How many got their value by one cause. */
export interface CauseCount {
  readonly cause: Cause;
  /** The number of the rule, from 1. */
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
  /** Where the share begins; 0 but for a range. */
  readonly low: number;
  /** Where it ends; `percent` is the width between the two. */
  readonly high: number;
  /**
   * How many of those asked had come past an earlier share of the same salt: it has taken its stretch of the positions,
   * which the interval allows for.
   */
  readonly pastEarlierShare?: number;
}

/** The counts, by the values of an attribute. */
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
const maxGroups = 1_000;

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
  /** For each rule that divides, how many were asked, by the stretches that they had come past before. */
  readonly #asked = new Map<Rule, Map<string, Asked>>();
  /** The rules whose division the context at hand was asked for. */
  readonly #met: Rule[] = [];
  readonly #recorder: Recorder = { provided: () => {}, rule: (rule, met) => this.#note(rule, met) };
  readonly #attributes: readonly { readonly path: string; read(context: Plain): unknown; missing: number }[];
  readonly #paths: readonly (readonly string[])[];
  readonly #readGroup: ((context: Plain) => unknown) | undefined;
  readonly #groups = new Map<string | undefined, Counts>();

  /** @param name a flag that the set defines, and `by` a path that can be read */
  constructor(set: FlagSet, name: string, options: CensusOptions) {
    this.#set = set;
    this.#flag = set.flag(name)!;
    this.#options = options;
    this.#clock = () => options.at;
    this.#attributes = [...set.graph.attributesBehind(name)].map(([canonical, path]) => ({
      path: canonical,
      read: readerOf(path),
      missing: 0,
    }));
    const by = options.by === undefined ? undefined : pathOf(options.by);
    this.#readGroup = by && readerOf(by);
    this.#paths = [...set.pathsBehind(name), ...(by ? [by] : [])];
  }

  get #rules(): readonly Rule[] {
    return this.#flag.here.rules;
  }

  count(context: unknown): void {
    const plain = isPlainContext(context) ? context : new HarmlessCopy(context).take(this.#paths);
    this.#met.length = 0;
    const outcome = this.#flag.decide(new Question(plain, this.#clock, undefined), this.#recorder);
    this.contexts++;
    add(this.#total, outcome);
    for (const attribute of this.#attributes) if (isMissing(attribute.read(plain))) attribute.missing++;
    if (this.#readGroup !== undefined) add(this.#group(this.#readGroup(plain)), outcome);
  }

  #note({ rule }: CompiledRule, { answer, id }: Met): void {
    if (answer !== TRUE || id === undefined || rule.division === undefined) return;
    const past = this.#met.length === 0 ? [] : this.#pastBefore(rule.division);
    const counts = this.#asked.get(rule) ?? new Map<string, Asked>();
    this.#asked.set(rule, counts);
    const key = past.length === 0 ? "" : JSON.stringify(past);
    const known = counts.get(key);
    if (known) known.count++;
    else counts.set(key, { past, count: 1 });
    this.#met.push(rule);
  }

  /**
   * The stretches of positions that the context has come past before it met a rule: shares of one salt and attribute go by
   * the same position, so that whoever was outside 10% is among the upper 90% of all.
   */
  #pastBefore({ salt, by }: Division): Range[] {
    const ranges: Range[] = [];
    for (const { division } of this.#met) {
      if (!division?.share || division.salt !== salt || !samePath(division.by, by)) continue;
      const { low, high } = rangeAt(division.share.steps, this.#options.at);
      ranges.push({ low, high });
    }
    return ranges;
  }

  #group(value: unknown): Counts {
    const wanted = isMissing(value) ? undefined : typeof value === "boolean" ? String(value) : (idText(value) ?? "?");
    const known = this.#groups.get(wanted);
    if (known) return known;
    const name = this.#groups.size >= maxGroups ? rest : wanted;
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
      const key = variant ?? (typeof value === "object" ? canonicalJson(value) : value);
      const known = merged.get(key);
      if (known) known.count += count;
      else merged.set(key, { value, variant, count });
    }
    return [...merged.values()]
      .sort((a, b) => b.count - a.count)
      .map((each) => ({ ...each, percent: percentOf(each.count, total) }));
  }

  #causes(): CauseCount[] {
    const merged = new Map<string, Pick<CauseCount, "cause" | "rule" | "ruleName"> & { count: number }>();
    for (const [{ cause, rule, ruleName }, count] of this.#total) {
      const key = `${cause} ${rule}`;
      const known = merged.get(key);
      if (known) known.count += count;
      else merged.set(key, { cause, rule, ruleName, count });
    }
    return [...merged.values()]
      .sort((a, b) => (a.rule ?? Number.MAX_SAFE_INTEGER) - (b.rule ?? Number.MAX_SAFE_INTEGER))
      .map((each) => ({ ...each, percent: percentOf(each.count, this.contexts) }));
  }

  #counted(): DivisionCount[] {
    return this.#rules.flatMap((rule): DivisionCount[] => {
      const { division } = rule;
      if (!division) return [];
      const asked = [...(this.#asked.get(rule)?.values() ?? [])];
      const inside = new Map([...this.#total].filter(([{ cause, rule: n }]) => cause === "rule" && n === rule.number));
      const { share, split } = division;
      const expected = share && expectedShare(sum(inside), rangeAt(share.steps, this.#options.at), asked);
      const parts = split && partsOf(split);
      return [
        {
          rule: rule.number,
          ruleName: rule.name,
          by: printPath(division.by),
          asked: total(asked),
          ...(expected ? { share: expected } : {}),
          ...(parts ? { split: parts.map((part) => expectedPart(part, inside)) } : {}),
        },
      ];
    });
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

/** Contexts that a rule's division was asked for, alike in what they had come past before. */
interface Asked {
  readonly past: readonly Range[];
  count: number;
}

function total(asked: readonly Asked[]): number {
  return asked.reduce((all, { count }) => all + count, 0);
}

/** Whoever came past some stretch before is inside only by what the share has beside it. */
function expectedShare(count: number, { low, high }: Range, asked: readonly Asked[]): ExpectedShare {
  const trials = asked.map(({ past, count: of }) => ({ of, chance: chanceWithin({ low, high }, past) }));
  const past = total(asked.filter((each) => lengthOf(each.past) > 0));
  const interval = chanceInterval(trials);
  return { percent: high - low, low, high, count, interval, ...(past === 0 ? {} : { pastEarlierShare: past }) };
}

function expectedPart(
  { variant, fraction }: { readonly variant: string; readonly fraction: number },
  inside: Counts,
): Expected & { readonly variant: string } {
  const interval = chanceInterval([{ of: sum(inside), chance: fraction }]);
  return { variant, percent: fraction * 100, count: countOf(inside, variant), interval };
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

function samePath(one: readonly string[], other: readonly string[]): boolean {
  return one === other || (one.length === other.length && one.every((step, i) => step === other[i]));
}
