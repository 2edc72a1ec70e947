import { parsePath, printPath } from "../language/index.ts";
import {
  type CohortDefinition,
  type Definitions,
  eachCondition,
  type FlagDefinition,
  placeOfCondition,
  settingsIn,
} from "../model/index.ts";
import { at, atKey, inText, type Place, type Problems } from "../problems/index.ts";
import type { RuleSource } from "../source/index.ts";
import { didYouMean, noSuch } from "../values/index.ts";
import { checkCondition, noEnvironment, type Report, reportUndeclared, type Scope } from "./condition.ts";

/** Checks what needs the whole set: that names are those of something, and that tests fit the types. */
export class MeaningCheck {
  readonly #set: Definitions;
  readonly #scope: Scope;
  readonly #problems: Problems;
  /** Conditions that were found sound, and whether they refer to anything; a text means the same all over a set. */
  readonly #sound = new Map<string, boolean>();
  /** The spellings of paths that were found declared; the same few stand in every flag. */
  readonly #declared = new Set<string>();
  /** Places of undeclared paths: the defaults of a file serve many flags, and one report is enough. */
  readonly #reported = new Set<string>();

  constructor(set: Definitions, scope: Scope, problems: Problems) {
    this.#set = set;
    this.#scope = scope;
    this.#problems = problems;
  }

  cohort(cohort: CohortDefinition): void {
    switch (cohort.kind) {
      case "condition":
        this.#condition(cohort.when, () => at(cohort.place, "when"));
        return;
      case "list":
        return this.#path(printPath(cohort.of), () => at(cohort.place, "of"));
      case "lot":
        return this.#path(printPath(cohort.by), () => at(cohort.place, "by"));
    }
  }

  /** @returns whether the flag refers to a flag, cohort or window */
  flag(flag: FlagDefinition): boolean {
    const { source, defaults } = flag;
    let refers = false;
    eachCondition(flag, (text, environment, rule) => {
      const known =
        this.#sound.get(text) ?? this.#condition(text, () => placeOfCondition(flag, { text, environment, rule }));
      refers ||= known;
    });
    this.#rulePaths(source.rules, () => at(flag.place, "rules"));
    if (source.environments !== undefined) this.#environments(flag, Object.keys(source.environments));
    if (source.by !== undefined) this.#path(source.by, () => at(flag.place, "by"));
    if (defaults.by !== undefined) this.#path(defaults.by, () => ({ file: flag.place.file, path: ["defaults", "by"] }));
    if (source["for-instance"] !== undefined) this.#examples(flag);
    return refers;
  }

  #environments(flag: FlagDefinition, names: readonly string[]): void {
    const place = at(flag.place, "environments");
    for (const name of names) {
      this.#rulePaths(settingsIn(flag, name)?.rules, () => at(place, name, "rules"));
      this.#environment(name, () => atKey(place, name), "unknown-environment");
    }
  }

  #rulePaths(rules: readonly RuleSource[] | undefined, place: () => Place): void {
    if (rules === undefined) return;
    for (let i = 0; i < rules.length; i++) {
      const { by } = rules[i]!;
      if (by !== undefined) this.#path(by, () => at(place(), i, "by"));
    }
  }

  #examples(flag: FlagDefinition): void {
    for (const [i, example] of (flag.source["for-instance"] ?? []).entries()) {
      if (example.in === undefined) continue;
      this.#environment(example.in, () => at(flag.place, "for-instance", i, "in"), "unknown-environment");
    }
  }

  suspensions(): void {
    for (const { flag, place, stops } of this.#set.suspensions.values()) {
      for (const stop of stops) {
        for (const key of ["in", "except"] as const) {
          for (const [i, name] of (stop[key] ?? []).entries())
            this.#environment(name, () => at(stop.place, key, i), "suspension-fault");
        }
      }
      if (this.#set.flags.has(flag) || this.#scope.mayExist("flag", flag)) continue;
      this.#problems.report(
        "suspended-unknown",
        { ...place, part: "key" },
        {
          message: noSuch("flag", flag),
          found: flag,
          expected: "the name of a flag of this set",
          help: didYouMean(flag, this.#set.flags.keys()),
        },
      );
    }
  }

  /** The flags that a pass may touch are flags. */
  environments(): void {
    for (const { source, place } of this.#set.environments.values()) {
      for (const [i, name] of (source.passes ?? []).entries()) {
        if (this.#set.flags.has(name) || this.#scope.mayExist("flag", name)) continue;
        this.#problems.report("unknown-flag", at(place, "passes", i), {
          message: noSuch("flag", name),
          found: name,
          expected: "the name of a flag of this set",
          help: didYouMean(name, this.#set.flags.keys()),
        });
      }
    }
  }

  #environment(name: string, place: () => Place, code: "unknown-environment" | "suspension-fault"): void {
    const known = this.#scope.environments;
    if (known.has(name) || this.#scope.mayExist("environment", name)) return;
    this.#problems.report(code, place(), noEnvironment(name, known));
  }

  /** @returns whether it refers to a flag, cohort or window */
  #condition(text: string, place: () => Place): boolean {
    let sound = true;
    const report: Report = (code, { start, end }, details) => {
      sound = false;
      this.#problems.report(code, inText(place(), { start, end }), details);
    };
    const { condition, fault } = this.#set.conditions.get(text);
    if (condition) checkCondition(condition, this.#scope, report);
    else report(fault.code, fault.span, fault);
    const refers = this.#set.conditions.references(text).length > 0;
    if (sound) this.#sound.set(text, refers);
    return refers;
  }

  /** Paths of `by` and `of` follow the same rule as those in conditions: declared, where any is. */
  #path(text: string, placed: () => Place): void {
    if (this.#scope.attributeNames.length === 0 || this.#declared.has(text)) return;
    const { path } = parsePath(text);
    if (!path) return;
    if (this.#scope.attribute(printPath(path)) !== undefined) {
      this.#declared.add(text);
      return;
    }
    const place = placed();
    const key = JSON.stringify([place.file, place.path]);
    if (this.#reported.has(key)) return;
    this.#reported.add(key);
    const report: Report = (code, span, details) => this.#problems.report(code, inText(place, span), details);
    reportUndeclared(printPath(path), { start: 0, end: text.length }, this.#scope, report);
  }
}
