import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type ConditionExplanation, explain, FlagSet, parseCondition, type Step } from "../../src/core.ts";
import { compileCondition, decideFound } from "../../src/judge/compile.ts";
import { Outcome } from "../../src/judge/outcome.ts";
import { type Overrides, Question } from "../../src/judge/question.ts";
import type { AttributeTest } from "../../src/language/index.ts";
import { answerWord } from "../../src/values/index.ts";
import { defined } from "../support/definitions.ts";
import { anyContext } from "../support/generated.ts";
import { anySet, definitionsOf, environments, instant } from "../support/random-sets.ts";
import { runs } from "../support/runs.ts";

const overridesOf = (names: readonly string[], code: readonly boolean[], layers: readonly boolean[]): Overrides => {
  const outcome = (flag: string, overriddenBy: "code" | "pass") =>
    new Outcome({ flag, value: `by ${overriddenBy}`, cause: "override", overriddenBy });
  return {
    code: new Map(names.filter((_, i) => code[i]).map((name) => [name, outcome(name, "code")])),
    layers: new Map(names.filter((_, i) => layers[i]).map((name) => [name, outcome(name, "pass")])),
  };
};

/** What an explanation says of undecided tests: the attributes, in order, those inside cohorts too. */
function undecidedIn(steps: readonly Step[]): string[] {
  const traces = steps.flatMap((step) => ("condition" in step && step.condition ? [step.condition] : []));
  return [...new Set(traces.flatMap(subjects))].sort();
}

function subjects({ tests }: ConditionExplanation["trace"]): string[] {
  return (
    tests
      .filter(({ answer }) => answer === "undecided")
      // What was told above is told once.
      .filter(({ because }) => !because.endsWith("as told above"))
      .flatMap(({ inner, attribute, subject }) => (inner ? subjects(inner) : [attribute ?? subject]))
  );
}

describe("there is one order of judgement", () => {
  const some = fc.array(fc.boolean(), { minLength: 8, maxLength: 8 });

  it("whether it is judged, decided with a record, or explained: with overrides, suspensions and references", () => {
    fc.assert(
      fc.property(anySet, anyContext, instant, some, some, (set, context, at, code, layers) => {
        const names = Object.keys(set.flags);
        const definitions = defined(JSON.parse(JSON.stringify(definitionsOf(set))) as object);
        const overrides = overridesOf(names, code, layers);
        for (const environment of environments) {
          const flags = new FlagSet(definitions, environment);
          for (const name of names) {
            const judged = flags.judge(name, context, () => at, overrides)!;
            const question = () => new Question(flags.harmless(context, name), () => at, overrides);
            const flag = flags.flag(name)!;
            expect(flag.decide(question())).toBe(judged);
            const {
              flag: called,
              value,
              variant,
              cause,
              rule,
              ruleName,
              overriddenBy,
              problem,
              revision,
              ...rest
            } = explain(flags, name, context, { at, overrides })!;
            expect(rest.steps.length).toBeGreaterThan(0);
            expect({ flag: called, value, variant, cause, rule, revision }).toEqual({
              flag: name,
              value: judged.value,
              variant: judged.variant,
              cause: judged.cause,
              rule: judged.rule,
              revision: flags.revision,
            });
            expect([ruleName, overriddenBy, problem]).toEqual([judged.ruleName, judged.overriddenBy, judged.problem]);
            const undecided = flags.undecided(judged, context, () => at, overrides);
            expect([...undecided].sort()).toEqual(undecidedIn(rest.steps));
          }
        }
      }),
      { numRuns: runs(200) },
    );
  });

  it("also where there are more rules than are spelt out for the engine", () => {
    const numbers = fc.array(fc.integer({ min: 0, max: 6 }), { minLength: 0, maxLength: 14 });
    fc.assert(
      fc.property(numbers, fc.integer({ min: 0, max: 6 }), (bounds, n) => {
        const rules = bounds.map((bound, i) => ({ when: `n == ${bound} or m == ${bound}`, give: i + 1 }));
        const set = new FlagSet(defined({ flags: { a: { safe: 0, rules } } }));
        expect(set.value("a", { n })).toBe(bounds.indexOf(n) + 1);
      }),
      { numRuns: runs(500) },
    );
  });
});

describe("what is spelt out for the engine answers as its plain twin does", () => {
  const texts = ["", "a", "ab", "abc", "b", "A", "ø", "😀", "ab\u0000c", "4.2.0", "true", "1"];
  const values: readonly unknown[] = [
    ...texts,
    0,
    -0,
    1,
    1.5,
    2 ** 53,
    10n,
    Number.NaN,
    true,
    false,
    undefined,
    null,
    [],
    ["a"],
    ["a", 1],
    {},
    "4.2",
    "v4.2.0",
    "4.2.0-beta.1",
    "2026-12-01T09:00Z",
    new Date(0),
    new Date(Number.NaN),
  ];
  const literals = [
    '"a"',
    '"ab"',
    '""',
    "1",
    "1.5",
    "0",
    "true",
    "false",
    "v4.2.0",
    "v4.2.0-beta.1",
    "2026-12-01T09:00Z",
  ];
  const ordered = literals.slice(3, 6).concat(literals.slice(8));
  const tests = [
    ...["==", "!="].flatMap((operator) => literals.map((literal) => `x ${operator} ${literal}`)),
    ...["<", "<=", ">", ">="].flatMap((operator) => ordered.map((literal) => `x ${operator} ${literal}`)),
    ...["in", "not in"].flatMap((operator) => [
      `x ${operator} ["a", "ab"]`,
      `x ${operator} [1, 2]`,
      `x ${operator} ["a"]`,
    ]),
    ...["starts with", "ends with", "contains"].flatMap((operator) => [`x ${operator} "a"`, `x ${operator} "bc"`]),
    "x contains 1",
    "x matches /^a/",
    "x",
    "x is missing",
    "x is present",
    'lower(x) == "a"',
  ];
  const around = {
    environment: undefined,
    cohort: () => () => 0,
    window: () => () => 0,
    flag: () => () => undefined,
    attribute: () => undefined,
  } as unknown as Parameters<typeof compileCondition>[1];

  it.each(tests)("%s, and its negation", (text) => {
    const { condition, fault } = parseCondition(text);
    expect(fault).toBeUndefined();
    const decide = decideFound(condition as AttributeTest, undefined);
    const ask = compileCondition(condition!, around);
    const negated = compileCondition(condition!, around, true);
    const turned = { true: "false", false: "true", undecided: "undecided" } as const;
    for (const x of values) {
      const question = () => new Question(x === undefined ? {} : { x }, () => 0, undefined);
      const plain = answerWord(decide(x));
      expect([x, answerWord(ask(question()))]).toEqual([x, plain]);
      expect([x, answerWord(negated(question()))]).toEqual([x, turned[plain]]);
    }
  });
});

describe("a share that falls and rises", () => {
  it("never says that it will reach somebody at an instant that is past, and keeps its word about the future", () => {
    const days = fc.uniqueArray(fc.integer({ min: 1, max: 27 }), { minLength: 1, maxLength: 5 });
    const percents = fc.array(fc.integer({ min: 0, max: 100 }), { minLength: 5, maxLength: 5 });
    const day = (n: number) => `2026-12-${String(n).padStart(2, "0")}T00:00Z`;
    fc.assert(
      fc.property(days, percents, fc.integer({ min: 0, max: 28 }), fc.nat(500), (on, shares, now, id) => {
        const rising = [...on].sort((a, b) => a - b).map((n, i) => `${shares[i]}% from ${day(n).slice(0, 10)}`);
        const rules = [{ share: { rising, zone: "UTC" }, give: 2 }];
        const set = new FlagSet(defined({ flags: { a: { safe: 1, by: "id", rules } } }));
        const at = Date.parse(day(1)) + (now - 1) * 86_400_000;
        const context = { id: `A-${id}` };
        const [step] = explain(set, "a", context, { at })!.steps;
        const reaches = step?.step === "rule" ? step.share?.reaches : undefined;
        if (reaches === undefined) return;
        expect(Date.parse(reaches)).toBeGreaterThan(at);
        expect(set.value("a", context, { at })).toBe(1);
        expect(set.value("a", context, { at: Date.parse(reaches) - 1 })).toBe(1);
        expect(set.value("a", context, { at: Date.parse(reaches) })).toBe(2);
      }),
      { numRuns: runs(2_000) },
    );
  });
});
