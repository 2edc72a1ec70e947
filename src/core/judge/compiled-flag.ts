import { TRUE } from "../condition/answer.ts";
import type { Ask } from "../condition/leaves.ts";
import type { EffectiveFlag } from "../definition/effective.ts";
import type { FlagDefinition } from "../definition/types.ts";
import { Outcome } from "./outcome.ts";
import type { Question } from "./question.ts";
import { type CompiledRule, compileRule, divisionOf } from "./rule.ts";

interface Compiling {
  condition(text: string): Ask;
  readonly suspended: boolean;
  /** Its number among the things that a question remembers. */
  readonly number: number;
  /** What becomes of a value before it is handed out. */
  convert(value: unknown): unknown;
}

/** One flag in one environment, ready to be asked. */
export class CompiledFlag {
  readonly definition: FlagDefinition;
  readonly #suspended: Outcome | undefined;
  readonly #provided: Ask | undefined;
  readonly #withheld: Outcome;
  readonly #rules: readonly CompiledRule[];
  readonly #otherwise: Outcome;
  readonly #number: number;

  constructor(definition: FlagDefinition, effective: EffectiveFlag, compiling: Compiling) {
    const { name, source, variants } = definition;
    const outcome = (cause: Outcome["cause"], given: unknown, rule?: number): Outcome => {
      const variant = variants ? String(given) : undefined;
      const value = compiling.convert(variants ? variants.get(String(given)) : given);
      return new Outcome({ flag: name, value, variant, cause, rule });
    };
    this.definition = definition;
    this.#number = compiling.number;
    this.#suspended = compiling.suspended ? outcome("suspended", source.safe) : undefined;
    this.#withheld = outcome("withheld", source.safe);
    this.#provided = allTrue(effective.provided.map((text) => compiling.condition(text)));
    this.#otherwise = outcome("otherwise", effective.otherwise);
    this.#rules = effective.rules.map((rule, i) =>
      compileRule(
        rule.when === undefined ? undefined : compiling.condition(rule.when),
        divisionOf(definition, rule),
        (variant) => outcome("rule", variant ?? rule.give, i),
      ),
    );
  }

  /** Override in code, suspension, other overrides, provided, rules in order, otherwise. */
  judge(question: Question): Outcome {
    const { overrides } = question;
    if (overrides !== undefined || this.#suspended !== undefined) {
      const name = this.definition.name;
      const decided = overrides?.code?.get(name) ?? this.#suspended ?? overrides?.layers?.get(name);
      if (decided !== undefined) return decided;
    }
    if (this.#provided !== undefined && this.#provided(question) !== TRUE) return this.#withheld;
    const rules = this.#rules;
    for (let i = 0; i < rules.length; i++) {
      const { when, outcome, divide } = rules[i]!;
      if (when !== undefined && when(question) !== TRUE) continue;
      const decided = divide === undefined ? outcome : divide(question);
      if (decided !== undefined) return decided;
    }
    return this.#otherwise;
  }

  /** The same; `asked` counts for each rule how many subjects with an id came before its share or split. */
  judgeCounting(question: Question, asked: number[]): Outcome {
    if (this.#suspended !== undefined) return this.#suspended;
    if (this.#provided !== undefined && this.#provided(question) !== TRUE) return this.#withheld;
    for (const [i, { when, outcome, divide, subject }] of this.#rules.entries()) {
      if (when !== undefined && when(question) !== TRUE) continue;
      if (subject?.(question) !== undefined) asked[i]!++;
      const decided = divide === undefined ? outcome : divide(question);
      if (decided !== undefined) return decided;
    }
    return this.#otherwise;
  }

  /** The same for a flag that another one refers to: judged at most once in a question. */
  judgeOnce(question: Question): Outcome {
    question.outcomes ??= [];
    let outcome = question.outcomes[this.#number];
    if (outcome === undefined) {
      outcome = this.judge(question);
      question.outcomes[this.#number] = outcome;
    }
    return outcome;
  }
}

function allTrue(asks: readonly Ask[]): Ask | undefined {
  if (asks.length < 2) return asks[0];
  const [first, second] = asks as [Ask, Ask];
  return (question) => {
    const answer = first(question);
    return answer === TRUE ? second(question) : answer;
  };
}
