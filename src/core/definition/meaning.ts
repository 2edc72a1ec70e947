import { checkCondition, type FlagOperandType, type Report, reportUndeclared, type Scope } from "../condition/check.ts";
import { parsePath } from "../condition/parser.ts";
import { printPath } from "../condition/print.ts";
import { isObject, own } from "../data.ts";
import { nearest, sentenceList } from "../names.ts";
import { at, atKey, inText, type Place, type Problems } from "../problems/problem.ts";
import type { BookEntry } from "./condition-book.ts";
import type { DefinitionSet } from "./definition-set.ts";
import { placeOf, visitConditions, visitRules } from "./effective.ts";
import { pauseEvery } from "./read-flags.ts";
import type { Definitions, FlagDefinition } from "./types.ts";

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

/** Checks everything that needs the whole set: names, types, environments. */
export function* checkMeaning(
  set: DefinitionSet,
  scope: Scope,
  problems: Problems,
): Generator<undefined, void, undefined> {
  const meaning = new Meaning(set, scope, problems);
  for (const cohort of set.cohorts.values()) {
    if (cohort.kind === "condition") meaning.condition(cohort.when, () => at(cohort.place, "when"));
    else meaning.path(printPath(cohort.of), () => at(cohort.place, "of"));
    yield;
  }
  const names = yield* namesOf(scope);
  let passed = 0;
  for (const flag of set.flags.values()) {
    if (flag.notes.soundUnder === names) {
      if (++passed % pauseEvery === 0) yield;
      continue;
    }
    const before = problems.all.length;
    meaning.flag(flag);
    if (problems.all.length === before) flag.notes.soundUnder = names;
    yield;
  }
  meaning.suspensions();
}

let latestNames = "";

/**
 * Everything of a scope that the soundness of a condition can depend on. Equal ones are one and the same text, so that
 * comparing them for every flag of a large set is a comparison of pointers.
 */
function* namesOf(scope: Scope): Generator<undefined, string, undefined> {
  const attributes = scope.attributeNames.map((name) => [name, scope.attribute(name)]);
  const others = [attributes, [...scope.cohorts], [...scope.windows], [...scope.environments], scope.incomplete];
  let names = JSON.stringify(others);
  let passed = 0;
  for (const name of scope.flagNames) {
    const type = scope.flag(name);
    names += typeof type === "object" ? `\n${name} ${type.join()}` : `\n${name}:${type}`;
    if (++passed % pauseEvery === 0) yield;
  }
  if (names !== latestNames) latestNames = names;
  return latestNames;
}

class Meaning {
  readonly #set: DefinitionSet;
  readonly #scope: Scope;
  readonly #problems: Problems;

  constructor(set: DefinitionSet, scope: Scope, problems: Problems) {
    this.#set = set;
    this.#scope = scope;
    this.#problems = problems;
  }

  flag(flag: FlagDefinition): void {
    let standsAlone = true;
    visitConditions(flag, (text, environment, rule) => {
      const entry = this.condition(text, () => placeOf(flag, { environment, rule }, rule < 0 ? "provided" : "when"));
      if (entry !== undefined && entry.references.length > 0) standsAlone = false;
    });
    flag.notes.standsAlone = standsAlone;
    visitRules(flag, ({ by }, environment, rule) => this.path(by, () => placeOf(flag, { environment, rule }, "by")));
    this.path(flag.source.by, () => at(flag.place, "by"));
    this.path(flag.defaults.by, () => ({ file: flag.place.file, path: ["defaults", "by"] }));
    this.#environments(flag);
    this.#examples(flag);
  }

  condition(text: unknown, place: () => Place): BookEntry | undefined {
    if (typeof text !== "string") return undefined;
    const entry = this.#set.conditions.entry(text);
    if (entry.sound || text.trim() === "") return entry;
    let sound = true;
    const report: Report = (code, { start, end }, details) => {
      sound = false;
      this.#problems.report(code, inText(place(), { start, end }), details);
    };
    const { condition, fault } = entry.parsed;
    if (condition) checkCondition(condition, this.#scope, report);
    else report(fault.code, fault.span, fault);
    entry.sound = sound;
    return entry;
  }

  /** Paths of `by` and `of` follow the same rule as those in conditions: declared, where any is. */
  path(text: unknown, placed: () => Place): void {
    if (typeof text !== "string" || this.#scope.attributeNames.length === 0) return;
    const { path } = parsePath(text);
    if (!path || this.#scope.attribute(printPath(path)) !== undefined) return;
    const place = placed();
    if (this.#reported(place)) return;
    const report: Report = (code, span, details) => this.#problems.report(code, inText(place, span), details);
    reportUndeclared(printPath(path), { start: 0, end: text.length }, this.#scope, report);
  }

  readonly #places = new Set<string>();

  /** The defaults of a file serve many flags; one report is enough. */
  #reported(place: Place): boolean {
    const key = JSON.stringify([place.file, place.path]);
    if (this.#places.has(key)) return true;
    this.#places.add(key);
    return false;
  }

  #environments(flag: FlagDefinition): void {
    const { environments } = flag.source;
    if (!isObject(environments)) return;
    for (const name of Object.keys(environments)) {
      this.#environment(name, atKey(at(flag.place, "environments"), name), "unknown-environment");
    }
  }

  #examples(flag: FlagDefinition): void {
    const examples = flag.source["for-instance"];
    if (!Array.isArray(examples)) return;
    for (const [i, example] of examples.entries()) {
      const name = isObject(example) ? own(example, "in") : undefined;
      if (typeof name === "string")
        this.#environment(name, at(flag.place, "for-instance", i, "in"), "unknown-environment");
    }
  }

  #environment(name: string, place: Place, code: "unknown-environment" | "suspension-fault"): void {
    const known = this.#scope.environments;
    if (known.has(name) || this.#scope.incomplete) return;
    const near = nearest(name, known);
    this.#problems.report(code, place, {
      message: `There is no environment “${name}”.`,
      found: name,
      expected: known.size
        ? `one of ${sentenceList([...known], "or")}`
        : "an environment declared under “environments”",
      help: near && `did you mean ${near}?`,
    });
  }

  suspensions(): void {
    for (const { flag, place, in: environments } of this.#set.suspensions.values()) {
      for (const [i, name] of (environments ?? []).entries()) {
        this.#environment(name, at(place, "in", i), "suspension-fault");
      }
      if (this.#set.flags.has(flag) || this.#scope.incomplete) continue;
      const near = nearest(flag, this.#set.flags.keys());
      this.#problems.report(
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
}
