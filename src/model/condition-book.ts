import { type ParsedCondition, parseCondition } from "../language/parser.ts";
import { type Condition, testsOf } from "../language/tree.ts";

/** What one condition refers to, as "flag:x", "cohort:x" and "window:x". */
export type References = readonly string[];

const none: References = [];

/**
 * Conditions by their text: a set's flags repeat each other, and reading, compiling and analysis all want the same
 * tree. `forget` drops the trees once the closures stand; they are parsed again if somebody asks for an explanation.
 */
export class ConditionBook {
  readonly #entries = new Map<string, BookEntry>();

  /** All that is known of a text, in one look-up. */
  entry(text: string): BookEntry {
    let entry = this.#entries.get(text);
    if (entry === undefined) {
      const parsed = parseCondition(text);
      entry = { parsed, references: referencesIn(parsed), sound: false };
      this.#entries.set(text, entry);
    }
    return entry;
  }

  get(text: string): ParsedCondition {
    return this.entry(text).parsed;
  }

  references(text: string): References {
    return this.entry(text).references;
  }

  forget(): void {
    this.#entries.clear();
  }
}

export interface BookEntry {
  readonly parsed: ParsedCondition;
  readonly references: References;
  /** Found sound in the set that the book belongs to; a text means the same everywhere in it. */
  sound: boolean;
}

function referencesIn({ condition }: ParsedCondition): References {
  if (!condition || !refers(condition)) return none;
  return testsOf(condition).flatMap((test) => {
    if (test.kind !== "test") return `${test.kind}:${test.name}`;
    return test.operand.kind === "flag" ? `flag:${test.operand.name}` : [];
  });
}

/** Most conditions ask for attributes only. */
function refers(condition: Condition): boolean {
  switch (condition.kind) {
    case "and":
    case "or":
      return condition.parts.some(refers);
    case "not":
      return refers(condition.part);
    case "test":
      return condition.operand.kind === "flag";
    default:
      return true;
  }
}
