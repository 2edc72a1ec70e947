import type { EffectiveFlag } from "../model/effective.ts";
import type { FlagDefinition } from "../model/types.ts";
import type { RuleSource } from "../source/format.ts";
import { TRUE } from "../values/answer.ts";
import { idText } from "./context/subject.ts";
import type { Ask } from "./leaves.ts";
import { Outcome } from "./outcome.ts";
import type { Question } from "./question.ts";
import { type CompiledRule, compileRule } from "./rule.ts";

/** What all flags of a set are compiled with. */
export interface Compiling {
  condition(text: string): Ask;
  /** What becomes of a value before it is handed out. */
  convert(value: unknown): unknown;
}

/**
 * One flag in one environment, ready to be asked. Large sets make tens of thousands of these and of what they hold, so
 * their fields are plain ones, which are set faster than `#` ones.
 */
export class CompiledFlag {
  readonly definition: FlagDefinition;
  private readonly compiling: Compiling;
  private readonly suspended: Outcome | undefined;
  private readonly provided: Ask | undefined;
  /** What it comes to when `provided` is not true. */
  private readonly withheld: Outcome | undefined;
  private readonly rules: readonly CompiledRule[];
  private readonly otherwise: Outcome;
  private readonly number: number;

  /** `number` is its number among the things that a question remembers. */
  constructor(
    definition: FlagDefinition,
    effective: EffectiveFlag,
    compiling: Compiling,
    number: number,
    suspended: boolean,
  ) {
    const { safe } = definition.source;
    const { provided, rules, otherwise } = effective;
    this.definition = definition;
    this.compiling = compiling;
    this.number = number;
    this.suspended = suspended ? this.outcome("suspended", safe) : undefined;
    this.provided = provided.length === 0 ? undefined : allTrue(provided.map((text) => compiling.condition(text)));
    this.withheld = this.provided && this.outcome("withheld", safe);
    this.otherwise = this.outcome("otherwise", otherwise);
    this.rules = compileRules(definition, rules, compiling);
  }

  /** Override in code, suspension, other overrides, provided, rules in order, otherwise. */
  judge(question: Question): Outcome {
    const { overrides } = question;
    if (overrides !== undefined || this.suspended !== undefined) {
      const name = this.definition.name;
      const decided = overrides?.code?.get(name) ?? this.suspended ?? overrides?.layers?.get(name);
      if (decided !== undefined) return decided;
    }
    if (this.provided !== undefined && this.provided(question) !== TRUE) return this.withheld!;
    let i = this.firstMatch(question);
    while (i < this.rules.length) {
      const decided = this.decide(i, question);
      if (decided !== undefined) return decided;
      i = this.matchFrom(i + 1, question);
    }
    return this.otherwise;
  }

  /**
   * The index of the first rule whose condition is true, or the number of rules.
   *
   * The first eight are spelt out: the engine keeps what it learned of a call by its place in the code, so that each of
   * them can become the very condition's own code, where a loop would call through a pointer. With fewer, the engine
   * makes this function a part of its callers and has no room left for the conditions. Measured on the decision
   * benchmark: a tenth. It helps while few flags are asked often, and costs nothing where many are.
   */
  private firstMatch(question: Question): number {
    const { rules } = this;
    const { length } = rules;
    if (length === 0) return 0;
    const first = rules[0]!.when;
    if (first === undefined || first(question) === TRUE) return 0;
    if (length === 1) return 1;
    const second = rules[1]!.when;
    if (second === undefined || second(question) === TRUE) return 1;
    if (length === 2) return 2;
    const third = rules[2]!.when;
    if (third === undefined || third(question) === TRUE) return 2;
    if (length === 3) return 3;
    const fourth = rules[3]!.when;
    if (fourth === undefined || fourth(question) === TRUE) return 3;
    if (length === 4) return 4;
    const fifth = rules[4]!.when;
    if (fifth === undefined || fifth(question) === TRUE) return 4;
    if (length === 5) return 5;
    const sixth = rules[5]!.when;
    if (sixth === undefined || sixth(question) === TRUE) return 5;
    if (length === 6) return 6;
    const seventh = rules[6]!.when;
    if (seventh === undefined || seventh(question) === TRUE) return 6;
    if (length === 7) return 7;
    const eighth = rules[7]!.when;
    if (eighth === undefined || eighth(question) === TRUE) return 7;
    return this.matchFrom(8, question);
  }

  private matchFrom(start: number, question: Question): number {
    const { rules } = this;
    for (let i = start; i < rules.length; i++) {
      const { when } = rules[i]!;
      if (when === undefined || when(question) === TRUE) return i;
    }
    return rules.length;
  }

  /** What a rule comes to whose condition is true; undefined when its share passes the question on. */
  private decide(index: number, question: Question): Outcome | undefined {
    const rule = this.rules[index]!;
    const { division } = rule;
    if (division === undefined) return rule.outcome ?? this.given(index, 0);
    const id = idText(division.subject(question.context));
    const part = id === undefined ? -1 : division.partOf(id, question);
    return part < 0 ? undefined : this.given(index, part);
  }

  /** The same; `asked` takes the indexes of the rules whose share or split an id came before, in order. */
  judgeNoting(question: Question, asked: number[]): Outcome {
    if (this.suspended !== undefined) return this.suspended;
    if (this.provided !== undefined && this.provided(question) !== TRUE) return this.withheld!;
    for (const [i, { when, division }] of this.rules.entries()) {
      if (when !== undefined && when(question) !== TRUE) continue;
      if (division === undefined) return this.given(i, 0);
      const id = idText(division.subject(question.context));
      if (id === undefined) continue;
      asked.push(i);
      const part = division.partOf(id, question);
      if (part >= 0) return this.given(i, part);
    }
    return this.otherwise;
  }

  /** The same for a flag that another one refers to: judged at most once in a question. */
  judgeOnce(question: Question): Outcome {
    question.outcomes ??= [];
    let outcome = question.outcomes[this.number];
    if (outcome === undefined) {
      outcome = this.judge(question);
      question.outcomes[this.number] = outcome;
    }
    return outcome;
  }

  /** The outcome of a rule, or of a part of its split. */
  private given(index: number, part: number): Outcome {
    const rule = this.rules[index]!;
    const split = rule.division?.split;
    if (split !== undefined) {
      split.outcomes[part] ??= this.outcome("rule", split.variants[part], index);
      return split.outcomes[part];
    }
    rule.outcome ??= this.outcome("rule", rule.given, index);
    return rule.outcome;
  }

  private outcome(cause: Outcome["cause"], given: unknown, rule?: number): Outcome {
    const { name, variants } = this.definition;
    const variant = variants ? String(given) : undefined;
    const value = this.compiling.convert(variants ? variants.get(String(given)) : given);
    return new Outcome({ flag: name, value, variant, cause, rule });
  }
}

function compileRules(flag: FlagDefinition, rules: readonly RuleSource[], compiling: Compiling): CompiledRule[] {
  const compiled = new Array<CompiledRule>(rules.length);
  for (let i = 0; i < rules.length; i++) {
    const rule = rules[i]!;
    compiled[i] = compileRule(flag, rule, rule.when === undefined ? undefined : compiling.condition(rule.when));
  }
  return compiled;
}

function allTrue(asks: readonly Ask[]): Ask | undefined {
  if (asks.length < 2) return asks[0];
  const [first, second] = asks as [Ask, Ask];
  return (question) => {
    const answer = first(question);
    return answer === TRUE ? second(question) : answer;
  };
}
