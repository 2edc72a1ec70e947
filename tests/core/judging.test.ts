import { describe, expect, it } from "vitest";
import { FlagSet } from "../../src/core.ts";
import type { CompiledRule } from "../../src/judge/index.ts";
import { type Met, Outcome, type Overrides, Question } from "../../src/judge/index.ts";
import { type Answer, answerWord, FALSE, opposite, TRUE, UNDECIDED } from "../../src/values/index.ts";
import { answerOf, defined } from "../support/definitions.ts";

describe("joined tests, by Kleene's tables", () => {
  const given = { [TRUE]: true, [FALSE]: false, [UNDECIDED]: undefined } as const;
  const answers: readonly Answer[] = [FALSE, UNDECIDED, TRUE];
  const names = ["a", "b", "c", "d"];
  const combinations = (n: number): Answer[][] =>
    n === 0 ? [[]] : combinations(n - 1).flatMap((rest) => answers.map((answer) => [...rest, answer]));

  it.each([
    [2, "and"],
    [3, "and"],
    [4, "and"],
    [2, "or"],
    [3, "or"],
    [4, "or"],
  ] as const)("%d parts, joined by %s", (n, joint) => {
    const text = names.slice(0, n).join(` ${joint} `);
    // A negation is carried down to the tests, but not into a cohort: there all three answers count.
    const rule = (when: string) => ({ safe: false, rules: [{ when, give: true }] });
    const behind = new FlagSet(
      defined({ cohorts: { c: { when: text } }, flags: { yes: rule("cohort:c"), no: rule("not cohort:c") } }),
    );
    for (const parts of combinations(n)) {
      const context = Object.fromEntries(parts.map((part, i) => [names[i]!, given[part]]));
      const answer = (joint === "and" ? Math.min(...parts) : Math.max(...parts)) as Answer;
      expect([parts, answerOf(text, context)]).toEqual([parts, answerWord(answer)]);
      expect([parts, answerOf(`not (${text})`, context)]).toEqual([parts, answerWord(opposite(answer))]);
      expect([parts, behind.value("yes", context), behind.value("no", context)]).toEqual([
        parts,
        answer === TRUE,
        answer === FALSE,
      ]);
    }
  });
});

describe("an attribute that ignores case", () => {
  const long = Array.from({ length: 3 }, (_, i) => `ID-${i}`);
  it.each<[string, unknown, boolean]>([
    ['p == "ABC"', "abc", true],
    ['p == "abc"', "ABC", true],
    ['p != "ABC"', "aBc", false],
    ['p in ["ABC", "D"]', "d", true],
    ['p not in ["ABC"]', "abc", false],
    ['p starts with "AB"', "abc", true],
    ['p ends with "BC"', "abC", true],
    ['p contains "B"', "abc", true],
    ['p contains "id-1"', long, true],
    ['p contains "ID-9"', long, false],
    ["p contains 7", ["a", 7], true],
    ["p matches /^A/", "Abc", true],
    ["p matches /^A/", "abc", true],
    ["p matches /^B/", "abc", false],
    ['lower(p) == "abc"', "ABC", true],
    ["p is missing", undefined, true],
    ['p == "NOBODY"', undefined, true],
  ])("%s of %j is %s", (when, p, answer) => {
    const attributes = {
      p: { type: "text", "ignore-case": true, ...(when.includes("NOBODY") ? { "missing-as": "nobody" } : {}) },
    };
    const isList = Array.isArray(p);
    const set = new FlagSet(
      defined({
        attributes: isList ? { p: { type: "list", "ignore-case": true } } : attributes,
        flags: { a: { safe: false, rules: [{ when, give: true }] } },
      }),
    );
    expect(set.value("a", p === undefined ? {} : { p })).toBe(answer);
  });
});

describe("an outcome", () => {
  it("gives one verdict a revision, frozen, with what there is to say and nothing else", () => {
    const outcome = new Outcome({ flag: "a", value: 1, cause: "rule", rule: 2, ruleName: "some" });
    const verdict = outcome.verdict("r1");
    expect(outcome.verdict("r1")).toBe(verdict);
    expect(Object.isFrozen(verdict)).toBe(true);
    expect(verdict).toEqual({
      flag: "a",
      value: 1,
      variant: undefined,
      cause: "rule",
      rule: 2,
      ruleName: "some",
      revision: "r1",
    });
    expect(outcome.verdict("r2")).toEqual({ ...verdict, revision: "r2" });
    const bare = Object.keys(new Outcome({ flag: "a", value: 1, cause: "otherwise" }).verdict(undefined));
    expect(bare).toEqual(["flag", "value", "variant", "cause", "rule", "revision"]);
    const other = new Outcome({ flag: "a", value: 1, cause: "override", overriddenBy: "pass", problem: "wrong-type" });
    expect(other.verdict("r")).toMatchObject({ overriddenBy: "pass", problem: "wrong-type" });
    expect([
      outcome.seenBy(false),
      new Outcome({ flag: "a", value: 1, variant: "v", cause: "rule" }).seenBy(true),
    ]).toEqual([1, "v"]);
  });
});

describe("what a flag of a set refers to", () => {
  it("by flag:name is the variant's name where it has variants, and the value where it has none", () => {
    const set = new FlagSet(
      defined({
        flags: {
          look: { safe: "old", variants: { old: 1, new: 2 }, otherwise: "new" },
          many: { safe: 0, otherwise: 5 },
          a: { safe: 0, rules: [{ when: 'flag:look == "new" and flag:many > 4', give: 1 }] },
        },
      }),
    );
    expect(set.value("a", {})).toBe(1);
    expect(set.value("nobody", {})).toBeUndefined();
    expect(set.verdict("nobody", {})).toBeUndefined();
  });

  it("is judged once in a question: cohorts and flags that many ask for", () => {
    let asked = 0;
    const context = {
      get plan() {
        asked++;
        return "foot";
      },
    };
    const set = new FlagSet(
      defined({
        cohorts: { c: { when: 'plan == "foot"' } },
        flags: {
          one: { safe: false, rules: [{ when: "cohort:c", give: true }] },
          a: {
            safe: 0,
            rules: [
              { when: "cohort:c and flag:one and x", give: 1 },
              { when: "flag:one and cohort:c", give: 2 },
            ],
          },
        },
      }),
    );
    expect([set.value("a", context), asked]).toEqual([2, 1]);
    expect([set.value("a", context), asked]).toEqual([2, 2]);
  });
});

describe("a record of a decision", () => {
  const set = new FlagSet(
    defined({
      flags: {
        a: {
          safe: 0,
          by: "id",
          provided: "on",
          rules: [
            { when: "x", share: "0%", give: 1 },
            { when: "y", give: 2 },
            { share: "100%", give: 3 },
          ],
        },
      },
    }),
  );
  const recorded = (context: object) => {
    const provided: string[] = [];
    const met: (Omit<Met, "outcome" | "answer"> & { rule: number; answer: string; value: unknown })[] = [];
    const outcome = set.flag("a")!.decide(new Question(context as never, () => 0, undefined), {
      provided: (index, answer) => provided.push(`${index} ${answerWord(answer)}`),
      rule: ({ rule }: CompiledRule, { answer, id, inside, outcome: given }) =>
        met.push({ rule: rule.number, answer: answerWord(answer), id, inside, value: given?.value }),
    });
    return { cause: outcome.cause, value: outcome.value, provided, met };
  };

  it("holds each step, and ends with the one that decides", () => {
    expect(recorded({ on: true, x: true, id: 7 })).toEqual({
      cause: "rule",
      value: 3,
      provided: ["0 true"],
      met: [
        { rule: 1, answer: "true", id: "7", inside: false, value: undefined },
        { rule: 2, answer: "undecided", id: undefined, inside: true, value: undefined },
        { rule: 3, answer: "true", id: "7", inside: true, value: 3 },
      ],
    });
    expect(recorded({ on: true })).toMatchObject({
      cause: "otherwise",
      met: [
        { id: undefined, inside: false },
        { inside: true },
        { answer: "true", id: undefined, inside: false, value: undefined },
      ],
    });
    expect(recorded({ on: true, y: true })).toMatchObject({ value: 2, met: [{}, { answer: "true", value: 2 }] });
    expect(recorded({})).toEqual({ cause: "withheld", value: 0, provided: ["0 undecided"], met: [] });
  });

  it("knows overrides of code before a suspension, and the others behind it", () => {
    const { definitions } = set;
    const place = { file: "s", path: [] };
    const stop = { place, since: undefined, who: undefined, note: undefined, in: undefined, except: undefined };
    const suspensions = new Map([["a", { flag: "a", place, stops: [stop] }]]);
    const stopped = new FlagSet(Object.assign(Object.create(definitions) as typeof definitions, { suspensions }));
    const by = (overriddenBy: "code" | "pass") =>
      new Map([["a", new Outcome({ flag: "a", value: overriddenBy, cause: "override", overriddenBy })]]);
    const asked = (flags: FlagSet, overrides: Partial<Overrides>) =>
      flags.value("a", { on: true, id: 1 }, { overrides: { code: undefined, layers: undefined, ...overrides } });
    expect([
      asked(set, {}),
      asked(set, { layers: by("pass") }),
      asked(set, { code: by("code"), layers: by("pass") }),
    ]).toEqual([3, "pass", "code"]);
    expect([asked(stopped, {}), asked(stopped, { layers: by("pass") }), asked(stopped, { code: by("code") })]).toEqual([
      0,
      0,
      "code",
    ]);
  });
});
