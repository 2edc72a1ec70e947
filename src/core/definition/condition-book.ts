import { type ParsedCondition, parseCondition } from "../condition/parser.ts";
import { testsOf } from "../condition/tree.ts";

/** What one condition refers to, as "flag:x", "cohort:x" and "window:x". */
export type References = readonly string[];

const none: References = [];

/**
 * Conditions by their text: a set's flags repeat each other, and reading, compiling and analysis all want the same
 * tree. `forget` drops the trees once the closures stand; they are parsed again if somebody asks for an explanation.
 */
export class ConditionBook {
  readonly #parsed = new Map<string, ParsedCondition>();
  readonly #references = new Map<string, References>();

  get(text: string): ParsedCondition {
    let parsed = this.#parsed.get(text);
    if (parsed === undefined) {
      parsed = parseCondition(text);
      this.#parsed.set(text, parsed);
    }
    return parsed;
  }

  references(text: string): References {
    let references = this.#references.get(text);
    if (references === undefined) {
      references = referencesIn(this.get(text));
      this.#references.set(text, references);
    }
    return references;
  }

  forget(): void {
    this.#parsed.clear();
    this.#references.clear();
  }
}

function referencesIn({ condition }: ParsedCondition): References {
  if (!condition) return none;
  const references: string[] = [];
  for (const test of testsOf(condition)) {
    if (test.kind !== "test") references.push(`${test.kind}:${test.name}`);
    else if (test.operand.kind === "flag") references.push(`flag:${test.operand.name}`);
  }
  return references.length > 0 ? references : none;
}
