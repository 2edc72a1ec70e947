import { type Condition, printPath } from "../language/index.ts";
import {
  type Definitions,
  type FlagDefinition,
  type FlagIn,
  flagIn,
  placeOfRule,
  type Rule,
  rangeAt,
  ruleCalled,
  type Share,
  type ShareStep,
  settingsIn,
  showShare,
  stepsOf,
} from "../model/index.ts";
import type { Problems } from "../problems/index.ts";
import { sameData, show } from "../values/index.ts";
import { exampleOf, type Goal, type Reach, reachOf } from "./prover/satisfiable.ts";
import type { Assumptions } from "./prover/wanted.ts";
import type { Subjects } from "./subjects.ts";

/** The rules of a flag as one environment sees them, or as all those see them that say nothing of their own. */
export interface RuleList {
  readonly flag: FlagDefinition;
  readonly here: FlagIn;
  readonly assumptions: Assumptions;
}

export function* ruleListsOf(flag: FlagDefinition, definitions: Definitions): Generator<RuleList> {
  const declared = [...definitions.environments.keys()];
  const own = Object.keys(flag.source.environments ?? {}).filter((name) => {
    const settings = settingsIn(flag, name);
    return settings?.rules !== undefined || settings?.adjust !== undefined;
  });
  const others = declared.filter((name) => !own.includes(name));
  if (declared.length === 0 || others.length > 0) {
    const environments = declared.length === 0 ? undefined : others;
    yield { flag, here: flagIn(flag, undefined), assumptions: { environments } };
  }
  for (const name of own) yield { flag, here: flagIn(flag, name), assumptions: { environments: [name] } };
}

/** Warns of rules that are never reached, of shares inside an earlier share, and of denying by rule. */
export function analyseRules(list: RuleList, definitions: Definitions, subjects: Subjects, problems: Problems): void {
  new RuleAnalysis(list, definitions, subjects, problems).run();
}

class RuleAnalysis {
  readonly #list: RuleList;
  readonly #definitions: Definitions;
  readonly #subjects: Subjects;
  readonly #problems: Problems;
  /** Rules whose condition is not true for everybody, as far as has been asked. */
  readonly #canFail = new Map<Rule, boolean>();
  #example: { readonly rule: Rule; readonly reaches: (goal: Goal) => boolean } | undefined;

  constructor(list: RuleList, definitions: Definitions, subjects: Subjects, problems: Problems) {
    this.#list = list;
    this.#definitions = definitions;
    this.#subjects = subjects;
    this.#problems = problems;
  }

  run(): void {
    const { rules } = this.#list.here;
    for (const [i, rule] of rules.entries()) {
      if (this.#isNeverTrue(rule)) continue;
      if (!this.#reportNeverReached(i, rule)) this.#reportShareNeverReached(i, rule);
      this.#reportDenial(i, rule);
    }
  }

  #condition(rule: Rule): Condition | undefined {
    return rule.when === undefined ? undefined : this.#definitions.conditions.get(rule.when).condition;
  }

  #can(goals: readonly Goal[], assumptions?: Assumptions): boolean {
    return this.#reach(goals, assumptions) !== "no";
  }

  #reach(goals: readonly Goal[], assumptions: Assumptions = this.#list.assumptions): Reach {
    return reachOf([...goals, ...this.#provided()], this.#definitions, assumptions);
  }

  #provided(): Goal[] {
    return this.#list.here.provided.flatMap((text) => {
      const { condition } = this.#definitions.conditions.get(text);
      return condition ? [{ condition, mode: "true" as const }] : [];
    });
  }

  /** Somebody whom a rule matches: tells what else is so of them. */
  #exampleOf(rule: Rule): (goal: Goal) => boolean {
    if (this.#example?.rule !== rule) {
      const goals = [...this.#matching(rule), ...this.#provided()];
      this.#example = { rule, reaches: exampleOf(goals, this.#definitions, this.#list.assumptions) ?? (() => false) };
    }
    return this.#example.reaches;
  }

  #isNeverTrue(rule: Rule): boolean {
    const condition = this.#condition(rule);
    return condition !== undefined && !this.#can([{ condition, mode: "true" }]);
  }

  #matching(rule: Rule): Goal[] {
    const condition = this.#condition(rule);
    return condition ? [{ condition, mode: "true" }] : [];
  }

  /** Does the earlier condition hold whenever the later one does? */
  #covers(earlier: Rule, later: Rule): boolean {
    const condition = this.#condition(earlier);
    if (!condition) return true;
    if (this.#areApart(earlier, later) && this.#mayFail(earlier, condition)) return false;
    // Somebody whom the later one matches and the earlier one does not is mostly at hand, and then there is nothing to prove.
    const left = { condition, mode: "not-true" as const };
    return !this.#exampleOf(later)(left) && !this.#can([...this.#matching(later), left]);
  }

  /** The quick way out for most pairs: conditions on different things do not cover each other. */
  #areApart(earlier: Rule, later: Rule): boolean {
    const others = [...this.#list.here.provided, ...(later.when === undefined ? [] : [later.when])];
    return this.#subjects.areApart(earlier.when!, others);
  }

  #mayFail(rule: Rule, condition: Condition): boolean {
    let may = this.#canFail.get(rule);
    if (may === undefined) {
      may = this.#can([{ condition, mode: "not-true" }]);
      this.#canFail.set(rule, may);
    }
    return may;
  }

  #reportNeverReached(index: number, rule: Rule): boolean {
    const whole = this.#list.here.rules.slice(0, index).filter(({ division }) => division === undefined);
    const left = this.#leftBy(whole, rule);
    // Whom all of them leave, each of them leaves.
    if (left === "yes") return false;
    const single = whole.find((each) => this.#covers(each, rule));
    if (!single && left !== "no") return false;
    const proof = single
      ? `${ruleCalled(single)} matches everybody whom this one could`
      : `the rules before it together match everybody whom this one could`;
    this.#problems.report("rule-never-reached", this.#place(rule), {
      message: `This rule is never reached: ${proof}.`,
      help: "move it up, narrow the earlier one, or take it out",
      related: single && [{ place: this.#place(single), message: "the earlier rule" }],
    });
    return true;
  }

  /** Whether several earlier rules together leave anybody whom this one matches. */
  #leftBy(earlier: readonly Rule[], rule: Rule): Reach {
    const conditions = earlier.flatMap((each) => this.#condition(each) ?? []);
    if (conditions.length < Math.max(2, earlier.length)) return "perhaps";
    return this.#reach([
      ...this.#matching(rule),
      ...conditions.map((condition) => ({ condition, mode: "not-true" as const })),
    ]);
  }

  #reportShareNeverReached(index: number, rule: Rule): void {
    const share = rule.division?.share;
    if (share === undefined) return;
    const holder = this.#list.here.rules.slice(0, index).find((each) => this.#holdsShareOf(each, rule));
    if (holder === undefined) return;
    this.#problems.report("share-never-reached", this.#place(rule, "share"), {
      message: `Nobody is left for this share: ${ruleCalled(holder)} has all of its subjects, since shares of one salt are nested, not added.`,
      found: showShare(share),
      expected: "a larger share than before, a range beside it, or another salt",
      related: [{ place: this.#place(holder), message: "the earlier rule" }],
    });
  }

  #holdsShareOf({ when, division: earlier }: Rule, { when: laterWhen, division: later }: Rule): boolean {
    if (earlier === undefined || later === undefined) return false;
    if (when !== undefined && when !== laterWhen) return false;
    if (printPath(earlier.by) !== printPath(later.by)) return false;
    if (takesEverybody(earlier.share)) return true;
    return earlier.salt === later.salt && contains(stepsOf(earlier.share), stepsOf(later.share));
  }

  /** The safe value by rule, with another value behind it: whoever leaves the condition undecided gets that one. */
  #reportDenial(index: number, rule: Rule): void {
    const condition = this.#condition(rule);
    const { safe } = this.#list.flag.source;
    if (!condition || rule.gives === undefined || !sameData(rule.gives, safe) || !this.#givesMoreAfter(index, safe))
      return;
    const assumptions = { ...this.#list.assumptions, declaredTypes: true };
    const undecided: Goal[] = [
      { condition, mode: "not-true" },
      { condition, mode: "not-false" },
    ];
    if (!this.#can(undecided, assumptions)) return;
    this.#problems.report("deny-by-rule", this.#place(rule, "when"), {
      message: `This rule takes ${show(safe)} for those it matches, but where its condition is undecided they go on to a wider value.`,
      found: rule.when,
      expected: "a condition that is always decided, or “provided”, which withholds when undecided",
      help: `write it the other way round as “provided”, or give the attributes a “missing-as”`,
    });
  }

  #givesMoreAfter(index: number, safe: unknown): boolean {
    const { rules, otherwise } = this.#list.here;
    if (!sameData(otherwise, safe)) return true;
    return rules.slice(index + 1).some((rule) => rule.gives === undefined || !sameData(rule.gives, safe));
  }

  #place(rule: Rule, key?: string) {
    return placeOfRule(this.#list.flag, rule, key);
  }
}

function takesEverybody(share: Share | undefined): boolean {
  return stepsOf(share).every(({ low, high, from }) => low === 0 && high === 100 && from === Number.NEGATIVE_INFINITY);
}

/** Does the one share hold everybody of the other at every instant? */
function contains(one: readonly ShareStep[], other: readonly ShareStep[]): boolean {
  const instants = [Number.NEGATIVE_INFINITY, ...one.map((s) => s.from), ...other.map((s) => s.from)];
  return instants.every((instant) => {
    const [outer, inner] = [rangeAt(one, instant), rangeAt(other, instant)];
    return inner.low >= inner.high || (outer.low <= inner.low && inner.high <= outer.high);
  });
}
