import { printOperand, printPath, type Test, testsOf } from "../language/index.ts";
import { type Definitions, flagIn } from "../model/index.ts";
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

/** The conditions of a flag, in the order in which they are asked. */
interface FlagApart {
  readonly provided: readonly (readonly TestApart[])[];
  readonly providedAsks: readonly Ask[];
  readonly rules: readonly (readonly TestApart[])[];
}

const nothing: readonly string[] = [];

/**
 * Tells at which attributes the tests on the way to an outcome were undecided, those also that judging skipped: what an
 * explanation says of it, without making one. Tests are taken apart when a flag is first asked about.
 */
export class Undecided {
  readonly #definitions: Definitions;
  readonly #surroundings: Surroundings;
  readonly #condition: (text: string) => Ask;
  readonly #flags = new Map<string, FlagApart>();
  readonly #texts = new Map<string, readonly TestApart[]>();

  /** @param condition gives a condition as it is judged */
  constructor(definitions: Definitions, surroundings: Surroundings, condition: (text: string) => Ask) {
    this.#definitions = definitions;
    this.#surroundings = surroundings;
    this.#condition = condition;
  }

  /** Each attribute once. */
  on({ flag: name, cause, rule }: Outcome, question: Question): readonly string[] {
    if (cause !== "rule" && cause !== "otherwise" && cause !== "withheld") return nothing;
    const flag = this.#flag(name);
    if (flag === undefined) return nothing;
    const { provided, providedAsks, rules } = flag;
    let found = nothing;
    for (let i = 0; i < provided.length; i++) {
      found = noted(provided[i]!, question, found);
      if (cause === "withheld" && providedAsks[i]!(question) !== TRUE) return found;
    }
    const asked = cause === "rule" ? rule! : rules.length;
    for (let i = 0; i < asked; i++) found = noted(rules[i]!, question, found);
    return found;
  }

  #flag(name: string): FlagApart | undefined {
    const known = this.#flags.get(name);
    const definition = known ? undefined : this.#definitions.flags.get(name);
    if (definition === undefined) return known;
    const flag = this.#takeApart(flagIn(definition, this.#surroundings.environment));
    this.#flags.set(name, flag);
    return flag;
  }

  #takeApart({ provided, rules }: ReturnType<typeof flagIn>): FlagApart {
    return {
      provided: provided.map((text) => this.#tests(text)),
      providedAsks: provided.map(this.#condition),
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
