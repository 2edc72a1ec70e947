import { type Definitions, partsOfKey } from "../model/index.ts";

/** What conditions look at: attributes, flags, windows, lists; remembered by text. */
export class Subjects {
  readonly #definitions: Definitions;
  readonly #known = new Map<string, ReadonlySet<string>>();

  constructor(definitions: Definitions) {
    this.#definitions = definitions;
  }

  /** Cohorts with a condition stand for what that condition looks at; the environment is one subject. */
  of(text: string): ReadonlySet<string> {
    const known = this.#known.get(text);
    if (known) return known;
    const subjects = new Set<string>();
    this.#known.set(text, subjects);
    const { references, attributes } = this.#definitions.conditions.looks(text);
    for (const name of attributes.keys()) subjects.add(`attribute:${name}`);
    for (const reference of references) {
      const { kind, name } = partsOfKey(reference);
      const cohort = kind === "cohort" ? this.#definitions.cohorts.get(name) : undefined;
      if (cohort?.kind === "condition") for (const subject of this.of(cohort.when)) subjects.add(subject);
      else subjects.add(reference);
    }
    if (/\benvironment\b/.test(text)) subjects.add("environment");
    return subjects;
  }

  /** Do these texts look at nothing in common? Then neither can tell anything about the other. */
  areApart(text: string, others: readonly string[]): boolean {
    const subjects = this.of(text);
    return others.every((other) => [...this.of(other)].every((subject) => !subjects.has(subject)));
  }
}
