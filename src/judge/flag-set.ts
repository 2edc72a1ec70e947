import { type CohortDefinition, type Definitions, Graph, isInside, isListed, stopIn } from "../model/index.ts";
import { type Answer, FALSE, type Plain, TRUE, UNDECIDED, yes } from "../values/index.ts";
import type { Ask } from "./ask.ts";
import { compileCondition, type Surroundings } from "./compile.ts";
import { CompiledFlag, type Compiling } from "./compiled-flag.ts";
import { cacheKeyOf } from "./context/cache-key.ts";
import { HarmlessCopy } from "./context/harmless.ts";
import { ownTop, type Top, topOf } from "./context/own-top.ts";
import { isPlainContext } from "./context/reach.ts";
import { readerOf } from "./context/reader.ts";
import { idText, type Subject, subjectAt } from "./context/subject.ts";
import { Known } from "./known.ts";
import type { Outcome, Verdict } from "./outcome.ts";
import { type Clock, type Overrides, Question } from "./question.ts";
import { TakingApart, undecidedOn } from "./undecided.ts";

/** The circumstances of a question. */
export interface AskOptions {
  /** The instant, in epoch milliseconds, or a function that tells it; read only if something depends on it. */
  readonly at?: number | Clock;
  /** @internal */
  readonly overrides?: Overrides | undefined;
}

/** What some flags can read of a context. */
export interface Reading {
  readonly context: Plain;
  /** The same for two contexts only if these flags cannot tell them apart; undefined where that cannot be said. */
  readonly cacheKey: string | undefined;
}

const nobody = subjectAt([]);

const nothing: readonly string[] = [];

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
  readonly #paths = new Map<string, readonly (readonly string[])[]>();
  readonly #tops = new Map<string, Top>();
  readonly #surroundings: Surroundings;
  readonly #compiling: Compiling;
  #takingApart: TakingApart | undefined;
  #graph: Graph | undefined;

  constructor(definitions: Definitions, environment?: string, convert: (value: unknown) => unknown = same) {
    this.definitions = definitions;
    this.environment = environment;
    this.#compiling = {
      environment,
      condition: (text) => this.#condition(text),
      apart: (flag) => this.#apart.flag(flag),
      convert,
    };
    this.#surroundings = {
      environment,
      cohort: (name) => this.#cohort(name),
      window: (name) => this.#window(name),
      flag: (name) => this.#flagReader(name),
      attribute: (path) => definitions.attributes.get(path),
    };
  }

  /** The revision of the definition set, 32 hex digits. */
  get revision(): string {
    return this.definitions.revision;
  }

  /** What refers to what in the set. @internal */
  get graph(): Graph {
    this.#graph ??= new Graph(this.definitions);
    return this.#graph;
  }

  /** The compiled flag, or undefined if nobody defines it. Flags are compiled when first asked for. @internal */
  flag(name: string): CompiledFlag | undefined {
    const known = this.#flags.get(name);
    if (known !== undefined) return known;
    const definition = this.definitions.flags.get(name);
    if (definition === undefined) return undefined;
    const suspension = this.definitions.suspensions.get(name);
    const suspended = suspension !== undefined && stopIn(suspension, this.environment) !== undefined;
    const compiled = new CompiledFlag(definition, this.#compiling, suspended);
    this.#flags.set(name, compiled);
    return compiled;
  }

  /** The outcome for a flag and a context; undefined if nobody defines the flag. It never throws. @internal */
  judge(name: string, context: unknown, clock: Clock, overrides?: Overrides): Outcome | undefined {
    const flag = this.flag(name);
    if (flag === undefined) return undefined;
    try {
      if (isPlainContext(context)) return flag.judge(new Question(context, clock, overrides));
      const top = ownTop(context, this.#topBehind(name));
      if (top !== undefined) return flag.judge(new Question(top, clock, overrides));
    } catch {
      // A getter, a proxy: judged again on a harmless copy.
    }
    return flag.judge(new Question(this.harmless(context, name), clock, overrides));
  }

  /**
   * The value that a flag gives, or undefined where nobody defines the flag. It never throws.
   *
   * @example set.value("zone-fares", { account: { id: "A-17" } }, { at: Date.now })
   */
  value(name: string, context: unknown, options: AskOptions = {}): unknown {
    return this.judge(name, context, clockOf(options.at), options.overrides)?.value;
  }

  /** The value with its cause, rule and variant; undefined where nobody defines the flag. It never throws. */
  verdict(name: string, context: unknown, options: AskOptions = {}): Verdict | undefined {
    return this.judge(name, context, clockOf(options.at), options.overrides)?.verdict(this.revision);
  }

  /** What conditions refer to, for tracing them. @internal */
  get surroundings(): Surroundings {
    return this.#surroundings;
  }

  /** The attributes at which tests on the way to an outcome were undecided, those also that judging skipped. @internal */
  undecided(outcome: Outcome, context: unknown, clock: Clock, overrides?: Overrides): readonly string[] {
    const { origin, flag } = outcome;
    if (!(origin instanceof CompiledFlag)) return nothing;
    try {
      if (isPlainContext(context)) return undecidedOn(outcome, origin.apart, new Question(context, clock, overrides));
    } catch {
      // A getter, a proxy: asked again of a harmless copy.
    }
    return undecidedOn(outcome, origin.apart, new Question(this.harmless(context, flag), clock, overrides));
  }

  get #apart(): TakingApart {
    this.#takingApart ??= new TakingApart(this.definitions, this.#surroundings, (text) => this.#condition(text));
    return this.#takingApart;
  }

  /** A copy of the context that can be read without care: only the attributes that a flag may ask for. @internal */
  harmless(context: unknown, flag: string): Plain {
    return new HarmlessCopy(context).take(this.pathsBehind(flag));
  }

  /** Every path that judging a flag may read. @internal */
  pathsBehind(flag: string): readonly (readonly string[])[] {
    let paths = this.#paths.get(flag);
    if (paths === undefined) {
      paths = [...this.graph.attributesBehind(flag).values()];
      this.#paths.set(flag, paths);
    }
    return paths;
  }

  /** The id by which a flag's subjects are told apart: where it stands, and what reads it. @internal */
  subject(flag: string): Subject {
    return this.flag(flag)?.subject ?? nobody;
  }

  /** What judging these flags can read of a context, copied and told apart exactly. @internal */
  readingOf(flags: Iterable<string>, withSubjects = false): (context: unknown) => Reading {
    const paths = new Set<readonly string[]>();
    for (const flag of flags) {
      if (!this.definitions.flags.has(flag)) continue;
      for (const path of this.pathsBehind(flag)) paths.add(path);
      const { path } = this.subject(flag);
      if (withSubjects && path.length > 0) paths.add(path);
    }
    return (original) => {
      const context = new HarmlessCopy(original).take(paths);
      return { context, cacheKey: cacheKeyOf(context, paths) };
    };
  }

  /** The keys of a context that judging a flag begins with. */
  #topBehind(flag: string): Top {
    let top = this.#tops.get(flag);
    if (top === undefined) {
      top = topOf([...new Set(this.pathsBehind(flag).flatMap(([key]) => key ?? []))]);
      this.#tops.set(flag, top);
    }
    return top;
  }

  /** Conditions that stand in many flags are compiled once. */
  #condition(text: string): Ask {
    const known = this.#asks.get(text);
    if (known) return known;
    const { condition } = this.definitions.conditions.get(text);
    const ask: Ask = condition ? compileCondition(condition, this.#surroundings) : undecided;
    this.#asks.set(text, ask);
    return ask;
  }

  #cohort(name: string): Ask {
    const known = this.#cohorts.get(name);
    if (known) return known;
    const definition = this.definitions.cohorts.get(name);
    const ask = definition ? this.#compileCohort(definition) : undecided;
    this.#cohorts.set(name, ask);
    return ask;
  }

  #compileCohort(cohort: CohortDefinition): Ask {
    switch (cohort.kind) {
      case "condition":
        return remembered(this.#condition(cohort.when));
      case "list":
        return byId(cohort.of, (id) => isListed(cohort, id));
      case "lot":
        return byId(cohort.by, (id) => isInside(cohort.bucket.position(id), cohort.range));
    }
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

function undecided(): Answer {
  return UNDECIDED;
}

export function clockOf(at: number | Clock | undefined): Clock {
  if (typeof at === "number") return () => at;
  return at ?? noClock;
}

function byId(path: readonly string[], holds: (id: string) => boolean): Ask {
  const read = readerOf(path);
  return (question) => {
    const id = idText(read(question.context));
    return id === undefined ? UNDECIDED : holds(id) ? TRUE : FALSE;
  };
}

/** A cohort's answer is kept for the rest of the question, so that a chain of cohorts is not asked over and over. */
function remembered(ask: Ask): Ask {
  return (question) => {
    const known = question.answers?.get(ask);
    if (known !== undefined) return known;
    const answer = ask(question);
    question.answers ??= new Known();
    question.answers.add(ask, answer);
    return answer;
  };
}
