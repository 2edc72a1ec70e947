import { parsePath } from "../language/parser.ts";
import { testsOf } from "../language/tree.ts";
import { effectiveFlag, visitConditions, visitRules } from "../model/effective.ts";
import type { CohortDefinition, Definitions, FlagDefinition } from "../model/types.ts";
import type { Answer } from "../values/answer.ts";
import { FALSE, TRUE, UNDECIDED, yes } from "../values/answer.ts";
import type { Plain } from "../values/data.ts";
import { compileCondition, type Surroundings } from "./compile.ts";
import { CompiledFlag, type Compiling } from "./compiled-flag.ts";
import { isPlainContext, prototypeIsPolluted } from "./context/reach.ts";
import { readerOf } from "./context/reader.ts";
import { snapshot } from "./context/snapshot.ts";
import { idText } from "./context/subject.ts";
import type { Ask } from "./leaves.ts";
import type { Outcome, Verdict } from "./outcome.ts";
import { type Clock, type Overrides, Question } from "./question.ts";

export interface AskOptions {
  /** The instant, in epoch milliseconds, or a function that tells it; read only if something depends on it. */
  readonly at?: number | Clock;
  readonly overrides?: Overrides | undefined;
}

/** Without a clock there is no time: rising shares stand at 0 and windows are shut. */
const noClock: Clock = () => Number.NEGATIVE_INFINITY;

/**
 * A definition set compiled for one environment: it judges flags, and nothing else. It has no clock and does no I/O.
 *
 * @example
 * const flags = new FlagSet(definitions, "production");
 * flags.verdict("zone-fares", { account: { id: "A-17" } }, { at: Date.now })?.value
 */
export class FlagSet {
  readonly definitions: Definitions;
  readonly environment: string | undefined;
  readonly #flags = new Map<string, CompiledFlag>();
  readonly #cohorts = new Map<string, Ask>();
  readonly #asks = new Map<string, Ask>();
  readonly #surroundings: Surroundings;
  readonly #compiling: Compiling;
  #memoised = 0;
  #paths: readonly (readonly string[])[] | undefined;

  constructor(definitions: Definitions, environment?: string, convert: (value: unknown) => unknown = same) {
    this.definitions = definitions;
    this.environment = environment;
    this.#compiling = { condition: (text) => this.#condition(text), convert };
    this.#surroundings = {
      environment,
      cohort: (name) => this.#cohort(name),
      window: (name) => this.#window(name),
      flag: (name) => this.#flagReader(name),
      missingAs: definitions.attributes.size === 0 ? undefined : (path) => definitions.attributes.get(path)?.missingAs,
    };
  }

  get revision(): string {
    return this.definitions.revision;
  }

  /** The compiled flag, or undefined if nobody defines it. Flags are compiled when first asked for. */
  flag(name: string): CompiledFlag | undefined {
    const known = this.#flags.get(name);
    if (known !== undefined) return known;
    const definition = this.definitions.flags.get(name);
    if (definition === undefined) return undefined;
    const compiled = this.#compile(definition);
    this.#flags.set(name, compiled);
    return compiled;
  }

  /** The outcome for a flag and a context; undefined if nobody defines the flag. It never throws. */
  judge(name: string, context: unknown, clock: Clock, overrides?: Overrides): Outcome | undefined {
    const flag = this.flag(name);
    if (flag === undefined) return undefined;
    try {
      if (isPlainContext(context) && !prototypeIsPolluted()) {
        return flag.judge(new Question(context, clock, overrides));
      }
    } catch {
      // A getter, a proxy: judged again on a harmless copy.
    }
    return flag.judge(new Question(this.harmless(context), clock, overrides));
  }

  value(name: string, context: unknown, options: AskOptions = {}): unknown {
    return this.judge(name, context, clockOf(options.at), options.overrides)?.value;
  }

  verdict(name: string, context: unknown, options: AskOptions = {}): Verdict | undefined {
    return this.judge(name, context, clockOf(options.at), options.overrides)?.verdict(this.revision);
  }

  /** The name of a rule among those that are asked, where it has one. */
  ruleName(flag: string, rule: number): string | undefined {
    const definition = this.definitions.flags.get(flag);
    return definition && effectiveFlag(definition, this.environment).rules[rule]?.name;
  }

  /** What conditions refer to, for tracing them. */
  get surroundings(): Surroundings {
    return this.#surroundings;
  }

  /** A copy of the context that can be read without care: only the attributes that the set, or `more`, asks for. */
  harmless(context: unknown, more: readonly (readonly string[])[] = []): Plain {
    this.#paths ??= [...pathsOf(this.definitions)];
    return snapshot(context, [...this.#paths, ...more]);
  }

  /** Drops what is only needed while compiling. */
  settle(): void {
    this.definitions.conditions.forget();
  }

  #compile(definition: FlagDefinition): CompiledFlag {
    const effective = effectiveFlag(definition, this.environment);
    const suspension = this.definitions.suspensions.get(definition.name);
    const suspended = suspension !== undefined && holdsIn(suspension.in, this.environment);
    return new CompiledFlag(definition, effective, this.#compiling, this.#memoised++, suspended);
  }

  /** Conditions that stand in many flags are compiled once. */
  #condition(text: string): Ask {
    const known = this.#asks.get(text);
    if (known) return known;
    const { condition } = this.definitions.conditions.get(text);
    const ask: Ask = condition ? compileCondition(condition, this.#surroundings) : () => UNDECIDED;
    this.#asks.set(text, ask);
    return ask;
  }

  #cohort(name: string): Ask {
    const known = this.#cohorts.get(name);
    if (known) return known;
    const definition = this.definitions.cohorts.get(name);
    const ask = definition ? this.#compileCohort(definition) : () => UNDECIDED as Answer;
    this.#cohorts.set(name, ask);
    return ask;
  }

  #compileCohort(cohort: CohortDefinition): Ask {
    if (cohort.kind === "list") return listCohort(cohort.of, cohort.ids);
    return remembered(this.#condition(cohort.when), this.#memoised++);
  }

  #window(name: string): Ask {
    const window = this.definitions.windows.get(name)?.window;
    return window ? (question) => yes(window.isOpen(question.at)) : () => FALSE;
  }

  #flagReader(name: string): (question: Question) => unknown {
    const flag = this.flag(name);
    if (!flag) return () => undefined;
    const hasVariants = flag.definition.variants !== undefined;
    return (question) => flag.judgeOnce(question).seenBy(hasVariants);
  }
}

function same(value: unknown): unknown {
  return value;
}

function holdsIn(environments: readonly string[] | undefined, environment: string | undefined): boolean {
  return environments === undefined || (environment !== undefined && environments.includes(environment));
}

export function clockOf(at: number | Clock | undefined): Clock {
  if (typeof at === "number") return () => at;
  return at ?? noClock;
}

function listCohort(of: readonly string[], ids: { has(id: string): boolean }): Ask {
  const read = readerOf(of);
  return (question) => {
    const id = idText(read(question.context));
    return id === undefined ? UNDECIDED : ids.has(id) ? TRUE : FALSE;
  };
}

/** A cohort's answer is kept for the rest of the question, so that a chain of cohorts is not asked over and over. */
function remembered(ask: Ask, number: number): Ask {
  return (question) => {
    question.answers ??= [];
    let answer = question.answers[number];
    if (answer === undefined) {
      answer = ask(question);
      question.answers[number] = answer;
    }
    return answer;
  };
}

/** Every path that judging any flag of the set may read. */
function* pathsOf(definitions: Definitions): Generator<readonly string[]> {
  const texts = new Set<string>();
  for (const cohort of definitions.cohorts.values()) {
    if (cohort.kind === "list") yield cohort.of;
    else texts.add(cohort.when);
  }
  const subjects = new Set<string>();
  for (const flag of definitions.flags.values()) {
    visitConditions(flag, (text) => texts.add(text));
    for (const by of [flag.source.by, flag.defaults.by]) if (by !== undefined) subjects.add(by);
    visitRules(flag, ({ by }) => by !== undefined && subjects.add(by));
  }
  for (const by of subjects) {
    const { path } = parsePath(by);
    if (path) yield path;
  }
  for (const text of texts) {
    const { condition } = definitions.conditions.get(text);
    for (const test of condition ? testsOf(condition) : []) {
      if (test.kind === "test" && test.operand.kind === "path") yield test.operand.path;
    }
  }
}
