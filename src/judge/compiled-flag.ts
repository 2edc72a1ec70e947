import { type FlagDefinition, type FlagIn, flagIn, pathOf, type Rule, subjectOf } from "../model/index.ts";
import { type Answer, TRUE } from "../values/index.ts";
import type { Ask } from "./ask.ts";
import { CompiledRule, type OutcomeMaker } from "./compiled-rule.ts";
import { idText, type Subject, subjectAt } from "./context/subject.ts";
import { Known } from "./known.ts";
import { type Origin, Outcome } from "./outcome.ts";
import type { Question } from "./question.ts";
import type { FlagApart } from "./undecided.ts";

/** What all flags of a set are compiled with. */
export interface Compiling {
  readonly environment: string | undefined;
  condition(text: string): Ask;
  /** The tests of its conditions, one by one. */
  apart(flag: FlagIn): FlagApart;
  /** What becomes of a value before it is handed out. */
  convert(value: unknown): unknown;
}

/** Takes down how a decision was found, step by step. */
export interface Recorder {
  provided(index: number, answer: Answer): void;
  /** A rule was asked, and passed the question on or decided. */
  rule(rule: CompiledRule, met: Met): void;
}

/** What became of a rule that was asked. */
export interface Met {
  /** Of its condition; a rule for everyone is true. */
  readonly answer: Answer;
  /** Whom it divides by, where it was asked to; undefined for somebody without an id. */
  readonly id: string | undefined;
  /** Inside its share, or of a rule without one. */
  readonly inside: boolean;
  readonly outcome: Outcome | undefined;
}

const none: readonly Ask[] = [];

/**
 * One flag in one environment, ready to be asked. Large sets make tens of thousands of these and of what they hold, so
 * their fields are plain ones, which are set faster than `#` ones.
 */
export class CompiledFlag implements OutcomeMaker, Origin {
  readonly definition: FlagDefinition;
  /** What holds for the flag in the environment. */
  readonly here: FlagIn;
  private readonly compiling: Compiling;
  private readonly suspended: Outcome | undefined;
  private readonly provided: readonly Ask[];
  private readonly rules: readonly CompiledRule[];
  private withheld: Outcome | undefined;
  private left: Outcome | undefined;
  private by: Subject | undefined;
  private tests: FlagApart | undefined;

  constructor(definition: FlagDefinition, compiling: Compiling, suspended: boolean) {
    const here = flagIn(definition, compiling.environment);
    this.definition = definition;
    this.here = here;
    this.compiling = compiling;
    this.suspended = suspended ? this.outcome("suspended", definition.source.safe) : undefined;
    this.provided = here.provided.length === 0 ? none : here.provided.map((text) => compiling.condition(text));
    this.withheld = undefined;
    this.left = undefined;
    this.by = undefined;
    this.tests = undefined;
    const rules = new Array<CompiledRule>(here.rules.length);
    for (let i = 0; i < rules.length; i++) {
      const rule = here.rules[i]!;
      rules[i] = new CompiledRule(rule, rule.when === undefined ? undefined : compiling.condition(rule.when), this);
    }
    this.rules = rules;
  }

  /** The id by which its subjects are told apart. */
  get subject(): Subject {
    this.by ??= subjectAt(pathOf(subjectOf(this.definition)));
    return this.by;
  }

  /** Its conditions taken apart, test by test. */
  get apart(): FlagApart {
    this.tests ??= this.compiling.apart(this.here);
    return this.tests;
  }

  /**
   * The order of judgement: override in code, suspension, other overrides, provided, rules in order, otherwise. `judge`
   * finds the same without a record, and faster.
   */
  decide(question: Question, recorder?: Recorder): Outcome {
    const settled = this.settled(question);
    if (settled !== undefined) return settled;
    for (const [i, ask] of this.provided.entries()) {
      const answer = ask(question);
      recorder?.provided(i, answer);
      if (answer !== TRUE) return this.withhold();
    }
    for (const rule of this.rules) {
      const met = meet(rule, question);
      recorder?.rule(rule, met);
      if (met.outcome !== undefined) return met.outcome;
    }
    return this.otherwise();
  }

  judge(question: Question): Outcome {
    const settled = this.settled(question);
    if (settled !== undefined) return settled;
    const { provided, rules } = this;
    for (let i = 0; i < provided.length; i++) if (provided[i]!(question) !== TRUE) return this.withhold();
    for (let i = 0; i < rules.length; i++) {
      const rule = rules[i]!;
      if (rule.when !== undefined && rule.when(question) !== TRUE) continue;
      const given = rule.give(question);
      if (given !== undefined) return given;
    }
    return this.otherwise();
  }

  /** What decides before any condition is asked. */
  private settled({ overrides }: Question): Outcome | undefined {
    if (overrides === undefined) return this.suspended;
    const { name } = this.definition;
    return overrides.code?.get(name) ?? this.suspended ?? overrides.layers?.get(name);
  }

  /** For a flag that another one refers to, and for several flags of one context: judged at most once in a question. */
  judgeOnce(question: Question): Outcome {
    return question.outcomes?.get(this) ?? this.judgeAnew(question);
  }

  /** For one that is not known yet. */
  judgeAnew(question: Question): Outcome {
    const outcome = this.judge(question);
    question.outcomes ??= new Known();
    question.outcomes.add(this, outcome);
    return outcome;
  }

  private withhold(): Outcome {
    this.withheld ??= this.outcome("withheld", this.definition.source.safe);
    return this.withheld;
  }

  private otherwise(): Outcome {
    this.left ??= this.outcome("otherwise", this.here.otherwise);
    return this.left;
  }

  outcomeOf(rule: Rule, given: unknown): Outcome {
    return this.outcome("rule", given, rule);
  }

  private outcome(cause: Outcome["cause"], given: unknown, rule?: Rule): Outcome {
    const { name, variants } = this.definition;
    const variant = variants ? String(given) : undefined;
    const value = this.compiling.convert(variants ? variants.get(String(given)) : given);
    return new Outcome({ flag: name, value, variant, cause, rule: rule?.number, ruleName: rule?.name, origin: this });
  }
}

/** Asks a rule, and says what became of each part of it. */
function meet(rule: CompiledRule, question: Question): Met {
  const answer = rule.when === undefined ? TRUE : rule.when(question);
  const { division } = rule;
  const id = division && idText(division.subject(question.context));
  const inside = division === undefined || (id !== undefined && division.holds(id, question));
  return { answer, id, inside, outcome: answer === TRUE && inside ? rule.give(question) : undefined };
}
