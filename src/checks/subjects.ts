import { printOperand, printPath } from "../language/print.ts";
import { testsOf } from "../language/tree.ts";
import type { Definitions } from "../model/types.ts";

/** What conditions look at: attributes, flags, windows, lists; remembered by text. */
export class Subjects {
  readonly #definitions: Definitions;
  readonly #known = new Map<string, ReadonlySet<string>>();

  constructor(definitions: Definitions) {
    this.#definitions = definitions;
  }

  /** Cohorts with a condition stand for what that condition looks at. */
  of(text: string): ReadonlySet<string> {
    const known = this.#known.get(text);
    if (known) return known;
    const subjects = new Set<string>();
    this.#known.set(text, subjects);
    const { condition } = this.#definitions.conditions.get(text);
    for (const test of condition ? testsOf(condition) : []) {
      if (test.kind === "test") {
        subjects.add(test.operand.kind === "path" ? printPath(test.operand.path) : printOperand(test.operand));
        continue;
      }
      const cohort = test.kind === "cohort" ? this.#definitions.cohorts.get(test.name) : undefined;
      if (cohort?.kind === "condition") for (const subject of this.of(cohort.when)) subjects.add(subject);
      else subjects.add(`${test.kind}:${test.name}`);
    }
    return subjects;
  }

  /** Do these texts look at nothing in common? Then neither can tell anything about the other. */
  areApart(text: string, others: readonly string[]): boolean {
    const subjects = this.of(text);
    return others.every((other) => [...this.of(other)].every((subject) => !subjects.has(subject)));
  }
}
