import { printOperand, printPath, type Test, testsOf } from "../language/index.ts";
import type { Definitions, FlagIn } from "../model/index.ts";
import { TRUE, UNDECIDED } from "../values/index.ts";
import type { Ask } from "./ask.ts";
import { compileTest, type Surroundings } from "./compile.ts";
import type { Outcome } from "./outcome.ts";
import type { Question } from "./question.ts";

/** A test that is asked on its own. */
interface TestApart {
  readonly ask: Ask;
  /** What it looks at, as people write it: `trips`, `flag:storm-mode`. */
  readonly subject: string;
  /** The tests of the cohort that it asks for, where that is a condition. */
  readonly inner: readonly TestApart[] | undefined;
}

/** The conditions of a flag taken apart, in the order in which they are asked. */
export interface FlagApart {
  readonly provided: readonly { readonly ask: Ask; readonly tests: readonly TestApart[] }[];
  readonly rules: readonly (readonly TestApart[])[];
}

const nothing: readonly string[] = [];

/** Takes conditions apart into their tests, each condition once. */
export class TakingApart {
  readonly #definitions: Definitions;
  readonly #surroundings: Surroundings;
  readonly #condition: (text: string) => Ask;
  readonly #texts = new Map<string, readonly TestApart[]>();

  /** @param condition gives a condition as it is judged */
  constructor(definitions: Definitions, surroundings: Surroundings, condition: (text: string) => Ask) {
    this.#definitions = definitions;
    this.#surroundings = surroundings;
    this.#condition = condition;
  }

  flag({ provided, rules }: FlagIn): FlagApart {
    return {
      provided: provided.map((text) => ({ ask: this.#condition(text), tests: this.#tests(text) })),
      rules: rules.map(({ when }) => (when === undefined ? [] : this.#tests(when))),
    };
  }

  #tests(text: string): readonly TestApart[] {
    let tests = this.#texts.get(text);
    if (tests === undefined) {
      const { condition } = this.#definitions.conditions.get(text);
      tests = condition ? testsOf(condition).map((test) => this.#apart(test)) : [];
      this.#texts.set(text, tests);
    }
    return tests;
  }

  #apart(test: Test): TestApart {
    const ask = compileTest(test, this.#surroundings);
    if (test.kind === "test") return { ask, subject: printOperand(test.operand), inner: undefined };
    const cohort = test.kind === "cohort" ? this.#definitions.cohorts.get(test.name) : undefined;
    switch (cohort?.kind) {
      case "condition":
        return { ask, subject: `cohort:${test.name}`, inner: this.#tests(cohort.when) };
      case "list":
        return { ask, subject: printPath(cohort.of), inner: undefined };
      case "lot":
        return { ask, subject: printPath(cohort.by), inner: undefined };
      default:
        return { ask, subject: `${test.kind}:${test.name}`, inner: undefined };
    }
  }
}

/**
 * Tells at which attributes the tests on the way to an outcome were undecided, those also that judging skipped, each once:
 * what an explanation says of it, without making one.
 */
export function undecidedOn({ cause, rule }: Outcome, apart: FlagApart, question: Question): readonly string[] {
  if (cause !== "rule" && cause !== "otherwise" && cause !== "withheld") return nothing;
  const { provided, rules } = apart;
  let found = nothing;
  for (let i = 0; i < provided.length; i++) {
    const { ask, tests } = provided[i]!;
    found = noted(tests, question, found);
    if (cause === "withheld" && ask(question) !== TRUE) return found;
  }
  const asked = cause === "rule" ? rule! : rules.length;
  for (let i = 0; i < asked; i++) found = noted(rules[i]!, question, found);
  return found;
}

/** What was found so far, with what these tests add. Most add nothing, so nothing is made for them. */
function noted(tests: readonly TestApart[], question: Question, found: readonly string[]): readonly string[] {
  let all = found;
  for (let i = 0; i < tests.length; i++) {
    const { ask, subject, inner } = tests[i]!;
    if (ask(question) !== UNDECIDED) continue;
    if (inner) all = noted(inner, question, all);
    else if (!all.includes(subject)) all = [...all, subject];
  }
  return all;
}
