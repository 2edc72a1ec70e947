import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { murmur3 } from "../../src/buckets/murmur3.ts";
import { isSatisfiable } from "../../src/checks/prover/satisfiable.ts";
import { explain, FlagSet, parseCondition, printCondition, readDefinitions } from "../../src/core.ts";
import { defined } from "../support/definitions.ts";
import { anyContext, anyTree, type Names, scalarValue, type Tree, write } from "../support/generated.ts";
import {
  type Asking,
  answer,
  judge,
  murmur,
  type OracleFlag,
  type OracleRule,
  type OracleSet,
} from "../support/oracle.ts";

const environments = ["staging", "production"];
const none: Names = { cohorts: [], windows: [], flags: [], environments: [] };
const instants = [0, Date.parse("2026-12-01T09:00Z"), Date.parse("2026-12-04T09:00Z"), Date.parse("2027-01-01T00:00Z")];
const instant = fc.constantFrom(...instants.flatMap((t) => [t - 1, t, t + 1]));

const anyRule = (
  names: Names,
  values: fc.Arbitrary<unknown>,
  variants: readonly string[] | undefined,
): fc.Arbitrary<OracleRule> => {
  const share = fc.constantFrom(0, 0.5, 10, 33.3, 50, 99.9, 100);
  const rising = fc.uniqueArray(instant, { minLength: 1, maxLength: 3 }).chain((at) =>
    fc.array(share, { minLength: at.length, maxLength: at.length }).map((percents) => {
      const [froms, sorted] = [[...at].sort((a, b) => a - b), [...percents].sort((a, b) => a - b)];
      return froms.map((from, i) => ({ from, percent: sorted[i]! }));
    }),
  );
  const split =
    variants &&
    fc
      .shuffledSubarray([...variants], { minLength: 1 })
      .map((v) => v.map((variant, i) => ({ variant, parts: i === 0 ? 1 : i * 1.5 })));
  return fc
    .record(
      {
        when: anyTree(names, 2),
        division: fc.oneof(
          share.map((s) => ({ share: s })),
          rising.map((r) => ({ rising: r })),
        ),
        salt: fc.constantFrom("one", "two"),
        split: split ?? fc.constant(undefined),
        give: values,
      },
      { requiredKeys: ["give"] },
    )
    .map(({ division, split: parts, give, ...rest }) => ({
      ...rest,
      ...division,
      ...(parts ? { split: parts } : { give }),
    }));
};

const anyFlag = (names: Names): fc.Arbitrary<OracleFlag> =>
  fc.constantFrom(undefined, { a: 1, b: 2, c: 3 }).chain((variants) => {
    const values: fc.Arbitrary<unknown> = variants ? fc.constantFrom(...Object.keys(variants)) : fc.boolean();
    const rules = fc.array(anyRule(names, values, variants && Object.keys(variants)), { maxLength: 4 });
    const branch = fc.record({ provided: anyTree(names, 1), rules, otherwise: values }, { requiredKeys: [] });
    return fc
      .record(
        {
          safe: values,
          rules,
          by: fc.constantFrom(["plan"], ["trips"], ["deep", "er", "one"]),
          suspended: fc.integer({ max: 9, min: 0 }).map((n) => n === 0),
          environments: fc.dictionary(fc.constantFrom(...environments), branch, { maxKeys: 1 }),
          provided: anyTree(names, 1),
          otherwise: values,
        },
        { requiredKeys: ["safe", "rules", "by", "suspended", "environments"] },
      )
      .map((flag) => ({ ...flag, ...(variants ? { variants } : {}) }));
  });

const anySet: fc.Arbitrary<OracleSet> = fc
  .record({
    crew: anyTree({ ...none, environments }, 1),
    ids: fc.array(fc.constantFrom("foot", "100", "ø", "-1"), { maxLength: 4 }),
    from: fc.option(instant, { nil: undefined }),
    until: fc.option(fc.constant(instants.at(-1)! + 5), { nil: undefined }),
  })
  .chain(({ crew, ids, from = 0, until }) => {
    const cohorts = { crew: { when: crew }, listed: { of: ["plan"], ids } };
    const windows = { season: { from, ...(until === undefined ? {} : { until }) } };
    const names = { cohorts: Object.keys(cohorts), windows: Object.keys(windows), flags: [] as string[], environments };
    return anyFlag(names).chain((first) => {
      const flags = first.variants ? [] : ["first"];
      return anyFlag({ ...names, flags }).map((second) => ({ cohorts, windows, flags: { first, second } }));
    });
  });

function definitionsOf(set: OracleSet): object {
  const rule = ({ when, share, rising, split, ...rest }: OracleRule) => ({
    ...(when ? { when: write(when) } : {}),
    ...(share === undefined ? {} : { share: `${share}%` }),
    ...(rising
      ? { share: { rising: rising.map(({ percent, from }) => `${percent}% from ${new Date(from).toISOString()}`) } }
      : {}),
    ...(split ? { split: split.map(({ parts, variant }) => `${parts} ${variant}`) } : {}),
    ...rest,
  });
  const path = (p: readonly string[]) => p.join(".");
  const flag = ({ suspended, by, provided, rules, environments: branches, ...rest }: OracleFlag) => ({
    ...rest,
    by: path(by),
    rules: rules.map(rule),
    ...(provided ? { provided: write(provided) } : {}),
    environments: Object.fromEntries(
      Object.entries(branches).map(([name, b]) => [
        name,
        {
          ...b,
          ...(b.provided ? { provided: write(b.provided) } : {}),
          ...(b.rules ? { rules: b.rules.map(rule) } : {}),
        },
      ]),
    ),
  });
  const time = (t: number | undefined) => (t === undefined ? undefined : new Date(t).toISOString());
  return {
    iudex: 1,
    environments: { staging: {}, production: {} },
    cohorts: Object.fromEntries(
      Object.entries(set.cohorts).map(([name, c]) => [
        name,
        "when" in c ? { when: write(c.when) } : { of: path(c.of), ids: c.ids },
      ]),
    ),
    windows: Object.fromEntries(
      Object.entries(set.windows).map(([name, w]) => [
        name,
        { from: time(w.from), ...(w.until === undefined ? {} : { until: time(w.until) }) },
      ]),
    ),
    flags: Object.fromEntries(Object.entries(set.flags).map(([name, f]) => [name, flag(f)])),
  };
}

function compiled(set: OracleSet, environment: string): FlagSet {
  const suspended = Object.entries(set.flags).filter(([, { suspended: s }]) => s);
  const { definitions, problems } = readDefinitions(
    [{ file: "generated.json", data: JSON.parse(JSON.stringify(definitionsOf(set))) }],
    {
      suspended: {
        file: "suspended.json",
        data: { iudex: 1, suspended: Object.fromEntries(suspended.map(([name]) => [name, {}])) },
      },
    },
  );
  if (!definitions) throw new Error(problems.map((p) => `${p.code} ${p.message} ${p.found}`).join("\n"));
  return new FlagSet(definitions, environment);
}

describe("the library and the reference interpreter agree", () => {
  it("on more than 100,000 judgements of random sets", () => {
    let judgements = 0;
    fc.assert(
      fc.property(anySet, fc.array(fc.tuple(anyContext, instant), { minLength: 16, maxLength: 16 }), (set, askings) => {
        for (const environment of environments) {
          const flags = compiled(set, environment);
          for (const [context, at] of askings) {
            const asking: Asking = { set, context, at, environment };
            for (const name of Object.keys(set.flags)) {
              const { value, cause, rule } = flags.verdict(name, context, { at })!;
              expect({ value, cause, rule }).toEqual(judge(name, asking));
              judgements++;
            }
          }
        }
      }),
      { numRuns: 1_700 },
    );
    expect(judgements).toBeGreaterThan(100_000);
  }, 300_000);

  it("on explanations, which come to the same verdict", () => {
    fc.assert(
      fc.property(anySet, anyContext, instant, (set, context, at) => {
        const flags = compiled(set, "staging");
        for (const name of Object.keys(set.flags)) {
          const verdict = flags.verdict(name, context, { at })!;
          const explanation = explain(flags, name, context, { at })!;
          expect(explanation).toMatchObject({ value: verdict.value, cause: verdict.cause, rule: verdict.rule });
          for (const step of explanation.steps) {
            if (step.step === "rule" && step.matched) expect(step.condition?.answer ?? "true").toBe("true");
            if (step.step === "provided" && verdict.cause !== "withheld") expect(step.holds).toBe("true");
          }
        }
      }),
      { numRuns: 300 },
    );
  });

  it("on the hash of any text", () => {
    fc.assert(
      fc.property(fc.string({ unit: "binary", maxLength: 40 }), fc.nat(), (text, seed) => {
        expect(murmur3(text, seed)).toBe(murmur(new TextEncoder().encode(text), seed));
      }),
      { numRuns: 5_000 },
    );
  });
});

describe("printing and reading conditions", () => {
  it("gives every tree back", () => {
    const withoutSpans = (value: unknown): unknown =>
      JSON.parse(JSON.stringify(value, (key, v) => (key === "start" || key === "end" ? undefined : v)));
    fc.assert(
      fc.property(anyTree({ cohorts: ["crew"], windows: ["w"], flags: ["f"], environments }), (tree) => {
        const { condition } = parseCondition(write(tree));
        const printed = printCondition(condition!);
        expect(withoutSpans(parseCondition(printed).condition)).toEqual(withoutSpans(condition));
        expect(printCondition(parseCondition(printed).condition!)).toBe(printed);
      }),
      { numRuns: 3_000 },
    );
  });

  it("never throws, whatever stands there", () => {
    const pieces = fc.constantFrom(
      "and",
      "or",
      "not",
      "(",
      ")",
      "a.b",
      '["x"]',
      "==",
      "in",
      "[",
      "]",
      "1",
      '"t"',
      "v1",
      "cohort:x",
      "/x/",
      "matches",
      ",",
      "is",
      "missing",
      "\\",
      "'",
      "ø",
      "2026-01-01T00:00Z",
    );
    fc.assert(
      fc.property(fc.array(pieces, { maxLength: 12 }), (words) => {
        const { condition, fault } = parseCondition(words.join(" "));
        expect(condition === undefined).toBe(fault !== undefined);
      }),
      { numRuns: 5_000 },
    );
  });
});

describe("the analysis raises no false alarm", () => {
  it("what it proves unreachable, no context reaches", () => {
    const definitions = defined({ flags: { a: { safe: true } }, environments: { staging: {}, production: {} } });
    const set: OracleSet = { flags: {}, cohorts: {}, windows: {} };
    let proofs = 0;
    fc.assert(
      fc.property(
        anyTree({ ...none, environments }, 2),
        fc.array(anyContext, { minLength: 30, maxLength: 30 }),
        (tree: Tree, contexts) => {
          const condition = parseCondition(write(tree)).condition!;
          const neverTrue = !isSatisfiable([{ condition, mode: "true" }], definitions);
          const alwaysTrue = !isSatisfiable([{ condition, mode: "not-true" }], definitions);
          if (!neverTrue && !alwaysTrue) return;
          proofs++;
          for (const context of contexts) {
            for (const environment of environments) {
              const given = answer(tree, { set, context, at: 0, environment });
              if (neverTrue) expect(given).not.toBe(true);
              if (alwaysTrue) expect(given).toBe(true);
            }
          }
        },
      ),
      { numRuns: 4_000 },
    );
    expect(proofs).toBeGreaterThan(20);
  }, 120_000);
});

it("values of one type or another never make a test throw", () => {
  fc.assert(
    fc.property(anyTree(none, 0), scalarValue, (tree, value) => {
      const flags = new FlagSet(defined({ flags: { a: { safe: false, rules: [{ when: write(tree), give: true }] } } }));
      expect(typeof flags.value("a", { plan: value, trips: value, crew: value })).toBe("boolean");
    }),
  );
});
