import { type ParsedCondition, parseCondition } from "../condition/parser.ts";

/**
 * Conditions by their text: a set's flags repeat each other, and reading, compiling and analysis all want the same
 * tree. `forget` drops the trees once the closures stand; they are parsed again if somebody asks for an explanation.
 */
export class ConditionBook {
  readonly #parsed = new Map<string, ParsedCondition>();

  get(text: string): ParsedCondition {
    let parsed = this.#parsed.get(text);
    if (parsed === undefined) {
      parsed = parseCondition(text);
      this.#parsed.set(text, parsed);
    }
    return parsed;
  }

  forget(): void {
    this.#parsed.clear();
  }
}
