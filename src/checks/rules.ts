import { percentAt } from "../judge/rule.ts";
import { parsePath } from "../language/parser.ts";
import { printPath } from "../language/print.ts";
import type { Condition } from "../language/tree.ts";
import { type EffectiveFlag, effectiveFlag, placeOf } from "../model/effective.ts";
import { type RisingStep, risingSteps } from "../model/read-rising.ts";
import type { Definitions, FlagDefinition } from "../model/types.ts";
import type { Problems } from "../problems/problem.ts";
import type { RuleSource } from "../source/format.ts";
import { sameData, show } from "../values/data.ts";
import { parsePercent } from "../values/percent.ts";
import type { Assumptions } from "./prover/consistent.ts";
import { type Goal, isSatisfiable } from "./prover/satisfiable.ts";
import type { Subjects } from "./subjects.ts";

/** The rules of a flag as one environment sees them, or as all those see them that have none of their own. */
export interface RuleList {
  readonly flag: FlagDefinition;
  /** The environment whose own rules these are; undefined for the flag's. */
  readonly environment: string | undefined;
  readonly effective: EffectiveFlag;
  readonly assumptions: Assumptions;
}

export function* ruleListsOf(flag: FlagDefinition, definitions: Definitions): Generator<RuleList> {
  const own = Object.entries(flag.source.environments ?? {}).filter(([, branch]) => branch.rules !== undefined);
  const names = own.map(([name]) => name);
  const others = [...definitions.environments.keys()].filter((name) => !names.includes(name));
  if (definitions.environments.size === 0 || others.length > 0) {
    const environments = definitions.environments.size === 0 ? undefined : others;
    yield { flag, environment: undefined, effective: effectiveFlag(flag, undefined), assumptions: { environments } };
  }
  for (const name of names) {
    yield { flag, environment: name, effective: effectiveFlag(flag, name), assumptions: { environments: [name] } };
  }
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
  readonly #canFail = new Map<RuleSource, boolean>();

  constructor(list: RuleList, definitions: Definitions, subjects: Subjects, problems: Problems) {
    this.#list = list;
    this.#definitions = definitions;
    this.#subjects = subjects;
    this.#problems = problems;
  }

  run(): void {
    const { rules } = this.#list.effective;
    for (const [i, rule] of rules.entries()) {
      if (this.#isNeverTrue(rule)) continue;
      if (!this.#reportNeverReached(i, rule)) this.#reportShareNeverReached(i, rule);
      this.#reportDenial(i, rule);
    }
  }

  #condition(rule: RuleSource): Condition | undefined {
    return rule.when === undefined ? undefined : this.#definitions.conditions.get(rule.when).condition;
  }

  #can(goals: readonly Goal[], assumptions: Assumptions = this.#list.assumptions): boolean {
    const provided = this.#list.effective.provided.flatMap((text) => {
      const { condition } = this.#definitions.conditions.get(text);
      return condition ? [{ condition, mode: "true" as const }] : [];
    });
    return isSatisfiable([...goals, ...provided], this.#definitions, assumptions);
  }

  #isNeverTrue(rule: RuleSource): boolean {
    const condition = this.#condition(rule);
    return condition !== undefined && !this.#can([{ condition, mode: "true" }]);
  }

  #matching(rule: RuleSource): Goal[] {
    const condition = this.#condition(rule);
    return condition ? [{ condition, mode: "true" }] : [];
  }

  /** Does the earlier condition hold whenever the later one does? */
  #covers(earlier: RuleSource, later: RuleSource): boolean {
    const condition = this.#condition(earlier);
    if (!condition) return true;
    if (this.#areApart(earlier, later) && this.#mayFail(earlier, condition)) return false;
    return !this.#can([...this.#matching(later), { condition, mode: "not-true" }]);
  }

  /** The quick way out for most pairs: conditions on different things do not cover each other. */
  #areApart(earlier: RuleSource, later: RuleSource): boolean {
    const others = [...this.#list.effective.provided, ...(later.when === undefined ? [] : [later.when])];
    return this.#subjects.areApart(earlier.when!, others);
  }

  #mayFail(rule: RuleSource, condition: Condition): boolean {
    let may = this.#canFail.get(rule);
    if (may === undefined) {
      may = this.#can([{ condition, mode: "not-true" }]);
      this.#canFail.set(rule, may);
    }
    return may;
  }

  #reportNeverReached(index: number, rule: RuleSource): boolean {
    const earlier = this.#list.effective.rules.slice(0, index).map((each, i) => ({ each, i }));
    const whole = earlier.filter(({ each }) => each.share === undefined && each.split === undefined);
    const single = whole.find(({ each }) => this.#covers(each, rule));
    if (
      !single &&
      !this.#coveredTogether(
        whole.map(({ each }) => each),
        rule,
      )
    )
      return false;
    const proof = single
      ? `${called(single.i, single.each)} matches everybody whom this one could`
      : `the rules before it together match everybody whom this one could`;
    this.#problems.report("rule-never-reached", this.#place(index), {
      message: `This rule is never reached: ${proof}.`,
      help: "move it up, narrow the earlier one, or take it out",
      related: single && [{ place: this.#place(single.i), message: "the earlier rule" }],
    });
    return true;
  }

  #coveredTogether(earlier: readonly RuleSource[], rule: RuleSource): boolean {
    if (earlier.length < 2) return false;
    const none = earlier.map((each) => ({ condition: this.#condition(each)!, mode: "not-true" as const }));
    return !this.#can([...this.#matching(rule), ...none]);
  }

  #reportShareNeverReached(index: number, rule: RuleSource): void {
    if (rule.share === undefined) return;
    const earlier = this.#list.effective.rules.slice(0, index);
    const holder = earlier.findIndex((each) => this.#holdsShareOf(each, rule));
    if (holder < 0) return;
    this.#problems.report("share-never-reached", this.#place(index, "share"), {
      message: `Nobody is left for this share: ${called(holder, earlier[holder]!)} has all of its subjects, since shares of one salt are nested, not added.`,
      found: show(rule.share),
      expected: "a larger share than before, or another salt",
      related: [{ place: this.#place(holder), message: "the earlier rule" }],
    });
  }

  #holdsShareOf(earlier: RuleSource, later: RuleSource): boolean {
    if (earlier.share === undefined && earlier.split === undefined) return false;
    if (this.#by(earlier) !== this.#by(later)) return false;
    const sameSalt = this.#salt(earlier) === this.#salt(later);
    const takesAll = isAtLeast(this.#steps(earlier), [{ percent: 100, from: Number.NEGATIVE_INFINITY }]);
    if (!takesAll && !(sameSalt && isAtLeast(this.#steps(earlier), this.#steps(later)))) return false;
    return this.#covers(earlier, later);
  }

  #by(rule: RuleSource): string {
    const { flag } = this.#list;
    const { path } = parsePath(rule.by ?? flag.source.by ?? flag.defaults.by ?? "");
    return path ? printPath(path) : "";
  }

  #salt(rule: RuleSource): string {
    return rule.salt ?? this.#list.flag.source.salt ?? this.#list.flag.name;
  }

  #steps({ share }: RuleSource): readonly RisingStep[] {
    if (typeof share === "object") return risingSteps(share, this.#list.flag.defaults);
    return [{ percent: share === undefined ? 100 : parsePercent(share)!, from: Number.NEGATIVE_INFINITY }];
  }

  /** The safe value by rule, with another value behind it: whoever leaves the condition undecided gets that one. */
  #reportDenial(index: number, rule: RuleSource): void {
    const condition = this.#condition(rule);
    const { safe } = this.#list.flag.source;
    if (!condition || rule.give === undefined || !sameData(rule.give, safe) || !this.#givesMoreAfter(index, safe))
      return;
    const assumptions = { ...this.#list.assumptions, declaredTypes: true };
    const undecided: Goal[] = [
      { condition, mode: "not-true" },
      { condition, mode: "not-false" },
    ];
    if (!this.#can(undecided, assumptions)) return;
    this.#problems.report("deny-by-rule", this.#place(index, "when"), {
      message: `This rule takes ${show(safe)} for those it matches, but where its condition is undecided they go on to a wider value.`,
      found: rule.when,
      expected: "a condition that is always decided, or “provided”, which withholds when undecided",
      help: `write it the other way round as “provided”, or give the attributes a “missing-as”`,
    });
  }

  #givesMoreAfter(index: number, safe: unknown): boolean {
    const { rules, otherwise } = this.#list.effective;
    if (!sameData(otherwise, safe)) return true;
    return rules.slice(index + 1).some((rule) => rule.split !== undefined || !sameData(rule.give, safe));
  }

  #place(index: number, ...steps: string[]) {
    const { flag, environment } = this.#list;
    return placeOf(flag, { environment, rule: index }, ...steps);
  }
}

function called(index: number, rule: RuleSource): string {
  return rule.name === undefined ? `rule ${index + 1}` : `rule ${index + 1}, “${rule.name}”,`;
}

/** Is the one share at least as large as the other at every instant? */
function isAtLeast(one: readonly RisingStep[], other: readonly RisingStep[]): boolean {
  const instants = [Number.NEGATIVE_INFINITY, ...one.map((s) => s.from), ...other.map((s) => s.from)];
  return instants.every((at) => percentAt(one, at) >= percentAt(other, at));
}
