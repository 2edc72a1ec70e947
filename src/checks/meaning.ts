import { parsePath } from "../language/parser.ts";
import { printPath } from "../language/print.ts";
import type { DefinitionSet } from "../model/definition-set.ts";
import { placeOf } from "../model/effective.ts";
import { freshAtOnce, pauseEvery } from "../model/read-flags.ts";
import type { Definitions, FlagDefinition } from "../model/types.ts";
import { at, atKey, inText, type Place, type Problems } from "../problems/problem.ts";
import type { FlagEnvironmentSource, RuleSource } from "../source/format.ts";
import { isObject, own } from "../values/data.ts";
import { nearest, sentenceList } from "../values/names.ts";
import { checkCondition, type FlagOperandType, type Report, reportUndeclared, type Scope } from "./condition.ts";

/** What the set's conditions may name. */
export function scopeOf(set: Definitions, incomplete: boolean): Scope {
  return {
    attribute: (path) => set.attributes.get(path)?.type,
    attributeNames: [...set.attributes.keys()],
    cohorts: new Set(set.cohorts.keys()),
    windows: new Set(set.windows.keys()),
    environments: new Set(set.environments.keys()),
    flag: (name) => operandType(set.flags.get(name)),
    flagNames: [...set.flags.keys()],
    incomplete,
  };
}

function operandType(flag: FlagDefinition | undefined): FlagOperandType | undefined {
  if (!flag) return undefined;
  if (flag.variants) return [...flag.variants.keys()];
  return own(flag.source, "safe") === undefined ? "unknown" : flag.type;
}

/** What one check of a set goes by, and what it has found out on the way. */
interface Checking {
  readonly set: DefinitionSet;
  readonly scope: Scope;
  readonly problems: Problems;
  /** The spellings of paths that were found declared; the same few stand in every flag. */
  readonly declaredSpellings: Set<string>;
  /** Places of undeclared paths: the defaults of a file serve many flags, and one report is enough. */
  readonly reported: Set<string>;
}

/** Checks everything that needs the whole set: names, types, environments. */
export function* checkMeaning(
  set: DefinitionSet,
  scope: Scope,
  problems: Problems,
): Generator<undefined, void, undefined> {
  const checking: Checking = { set, scope, problems, declaredSpellings: new Set(), reported: new Set() };
  for (const cohort of set.cohorts.values()) {
    if (cohort.kind === "condition") checkText(checking, cohort.when, () => at(cohort.place, "when"));
    else checkPath(checking, printPath(cohort.of), () => at(cohort.place, "of"));
    yield;
  }
  const others = namesBesidesFlags(scope);
  let all: string | undefined;
  let work = 0;
  const flags = [...set.flags.values()];
  for (let i = 0; i < flags.length; i++) {
    const flag = flags[i]!;
    const wasSound = flag.soundUnder !== undefined;
    if (wasSound && !flag.standsAlone) all ??= yield* allNames(scope, others);
    if (wasSound && flag.soundUnder === (flag.standsAlone ? others : all)) {
      work++;
    } else {
      const before = problems.all.length;
      checkFlag(checking, flag);
      const isSound = problems.all.length === before;
      if (isSound && !flag.standsAlone) all ??= yield* allNames(scope, others);
      flag.soundUnder = isSound ? (flag.standsAlone ? others : all) : undefined;
      work += pauseEvery / freshAtOnce;
    }
    if (work < pauseEvery) continue;
    work = 0;
    yield;
  }
  checkSuspensions(checking);
}

/** The names of the latest check: equal ones are kept as one text, so that comparing them compares pointers. */
const latest = { others: "", all: "" };

/** Everything of a scope but the flags that the soundness of a flag can depend on. */
function namesBesidesFlags(scope: Scope): string {
  const attributes = scope.attributeNames.map((name) => [name, scope.attribute(name)]);
  const sections = [attributes, [...scope.cohorts], [...scope.windows], [...scope.environments], scope.incomplete];
  const others = JSON.stringify(sections);
  if (others !== latest.others) latest.others = others;
  return latest.others;
}

/** The same with the flags and their types: only those that refer to something ask for it. */
function* allNames(scope: Scope, others: string): Generator<undefined, string, undefined> {
  let names = others;
  let passed = 0;
  for (const name of scope.flagNames) {
    const type = scope.flag(name);
    names += typeof type === "object" ? `\n${name} ${type.join()}` : `\n${name}:${type}`;
    if (++passed % pauseEvery === 0) yield;
  }
  if (names !== latest.all) latest.all = names;
  return latest.all;
}

function checkFlag(checking: Checking, flag: FlagDefinition): void {
  const { source } = flag;
  flag.standsAlone = true;
  checkBranch(checking, flag, source, undefined);
  if (isObject(source.environments)) checkEnvironments(checking, flag, source.environments);
  if (!isDeclared(checking, source.by)) checkFlagPath(checking, flag);
  if (!isDeclared(checking, flag.defaults.by)) checkDefaultPath(checking, flag);
  checkExamples(checking, flag);
}

/** The conditions and paths of a flag itself, or of its settings in an environment. */
function checkBranch(
  checking: Checking,
  flag: FlagDefinition,
  { provided, rules }: FlagEnvironmentSource,
  environment: string | undefined,
): void {
  checkFlagCondition(checking, flag, provided, environment, -1);
  if (!Array.isArray(rules)) return;
  for (let i = 0; i < rules.length; i++) {
    const rule = rules[i] as RuleSource;
    if (!isObject(rule)) continue;
    checkFlagCondition(checking, flag, rule.when, environment, i);
    if (!isDeclared(checking, rule.by)) checkRulePath(checking, flag, rule.by, environment, i);
  }
}

function checkFlagCondition(
  checking: Checking,
  flag: FlagDefinition,
  text: unknown,
  environment: string | undefined,
  rule: number,
): void {
  if (typeof text !== "string") return;
  const entry = checking.set.conditions.entry(text);
  if (entry.references.length > 0) flag.standsAlone = false;
  if (!entry.sound) checkNewCondition(checking, flag, text, environment, rule);
}

// What makes a function that tells a place stands apart: its variables would cost every flag an allocation.

function checkNewCondition(
  checking: Checking,
  flag: FlagDefinition,
  text: string,
  environment: string | undefined,
  rule: number,
): void {
  checkText(checking, text, () => placeOf(flag, { environment, rule }, rule < 0 ? "provided" : "when"));
}

function checkRulePath(
  checking: Checking,
  flag: FlagDefinition,
  by: unknown,
  environment: string | undefined,
  rule: number,
): void {
  checkPath(checking, by, () => placeOf(flag, { environment, rule }, "by"));
}

function checkFlagPath(checking: Checking, flag: FlagDefinition): void {
  checkPath(checking, flag.source.by, () => at(flag.place, "by"));
}

function checkDefaultPath(checking: Checking, flag: FlagDefinition): void {
  checkPath(checking, flag.defaults.by, () => ({ file: flag.place.file, path: ["defaults", "by"] }));
}

function checkText(checking: Checking, text: string, place: () => Place): void {
  const entry = checking.set.conditions.entry(text);
  if (entry.sound || text.trim() === "") return;
  let sound = true;
  const report: Report = (code, { start, end }, details) => {
    sound = false;
    checking.problems.report(code, inText(place(), { start, end }), details);
  };
  const { condition, fault } = entry.parsed;
  if (condition) checkCondition(condition, checking.scope, report);
  else report(fault.code, fault.span, fault);
  entry.sound = sound;
}

/** Paths of `by` and `of` follow the same rule as those in conditions: declared, where any is. */
function checkPath(checking: Checking, text: unknown, placed: () => Place): void {
  if (typeof text !== "string" || isDeclared(checking, text)) return;
  const { path } = parsePath(text);
  if (!path) return;
  if (checking.scope.attribute(printPath(path)) !== undefined) {
    checking.declaredSpellings.add(text);
    return;
  }
  const place = placed();
  if (isReported(checking, place)) return;
  const report: Report = (code, span, details) => checking.problems.report(code, inText(place, span), details);
  reportUndeclared(printPath(path), { start: 0, end: text.length }, checking.scope, report);
}

/** Is there nothing to look up? */
function isDeclared(checking: Checking, text: unknown): boolean {
  return typeof text !== "string" || checking.scope.attributeNames.length === 0 || checking.declaredSpellings.has(text);
}

/** The defaults of a file serve many flags; one report is enough. */
function isReported(checking: Checking, place: Place): boolean {
  const key = JSON.stringify([place.file, place.path]);
  if (checking.reported.has(key)) return true;
  checking.reported.add(key);
  return false;
}

function checkEnvironments(
  checking: Checking,
  flag: FlagDefinition,
  environments: Readonly<Record<string, FlagEnvironmentSource>>,
): void {
  for (const [name, branch] of Object.entries(environments)) {
    if (isObject(branch)) checkBranch(checking, flag, branch, name);
    checkEnvironment(checking, name, atKey(at(flag.place, "environments"), name), "unknown-environment");
  }
}

function checkExamples(checking: Checking, flag: FlagDefinition): void {
  const examples = flag.source["for-instance"];
  if (!Array.isArray(examples)) return;
  for (const [i, example] of examples.entries()) {
    const name = isObject(example) ? own(example, "in") : undefined;
    if (typeof name === "string")
      checkEnvironment(checking, name, at(flag.place, "for-instance", i, "in"), "unknown-environment");
  }
}

function checkEnvironment(
  checking: Checking,
  name: string,
  place: Place,
  code: "unknown-environment" | "suspension-fault",
): void {
  const known = checking.scope.environments;
  if (known.has(name) || checking.scope.incomplete) return;
  const near = nearest(name, known);
  checking.problems.report(code, place, {
    message: `There is no environment “${name}”.`,
    found: name,
    expected: known.size ? `one of ${sentenceList([...known], "or")}` : "an environment declared under “environments”",
    help: near && `did you mean ${near}?`,
  });
}

function checkSuspensions(checking: Checking): void {
  for (const { flag, place, in: environments } of checking.set.suspensions.values()) {
    for (const [i, name] of (environments ?? []).entries()) {
      checkEnvironment(checking, name, at(place, "in", i), "suspension-fault");
    }
    if (checking.set.flags.has(flag) || checking.scope.incomplete) continue;
    const near = nearest(flag, checking.set.flags.keys());
    checking.problems.report(
      "suspended-unknown",
      { ...place, part: "key" },
      {
        message: `There is no flag “${flag}” to suspend.`,
        found: flag,
        expected: "the name of a flag of this set",
        help: near && `did you mean ${near}?`,
      },
    );
  }
}
