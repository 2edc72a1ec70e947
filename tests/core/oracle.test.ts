import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { absorb, murmur3 } from "../../src/buckets/murmur3.ts";
import { isSatisfiable } from "../../src/checks/prover/satisfiable.ts";
import { explain, FlagSet, parseCondition, printCondition, readDefinitions } from "../../src/core.ts";
import { defined } from "../support/definitions.ts";
import { anyContext, anyTree, scalarValue, type Tree, write } from "../support/generated.ts";
import { type Asking, answer, hash, judge, murmur, type OracleSet } from "../support/oracle.ts";
import { anySet, environments, instant, none, read } from "../support/random-sets.ts";

const compiled = (set: OracleSet, environment: string) => new FlagSet(read(set), environment);

describe("the library and the reference interpreter agree", () => {
  it("on more than 100,000 judgements of random sets", () => {
    let judgements = 0;
    fc.assert(
      fc.property(anySet, fc.array(fc.tuple(anyContext, instant), { minLength: 16, maxLength: 16 }), (set, askings) => {
        const definitions = read(set);
        for (const environment of environments) {
          const flags = new FlagSet(definitions, environment);
          const given: unknown[] = [];
          const wanted: unknown[] = [];
          for (const [context, at] of askings) {
            const asking: Asking = { set, context, at, environment };
            for (const name of Object.keys(set.flags)) {
              const { value, cause, rule } = flags.verdict(name, context, { at })!;
              given.push({ value, cause, rule });
              wanted.push(judge(name, asking));
            }
          }
          expect(given).toEqual(wanted);
          judgements += given.length;
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
      fc.property(
        fc.string({ unit: "binary", maxLength: 40 }),
        fc.string({ unit: "binary", maxLength: 9 }),
        fc.nat(),
        (text, front, seed) => {
          const { state, before } = absorb(`share:${front}`);
          expect(murmur3(text, state, before)).toBe(hash("share", front, text));
          expect(murmur3(text, seed)).toBe(murmur(new TextEncoder().encode(text), seed));
        },
      ),
      { numRuns: 5_000 },
    );
  });
});

describe("attributes that take upper and lower case alike", () => {
  it("are tested as the reference interpreter tests them, which folds everything first", () => {
    const textTests = ["==", "!=", "in", "not in", "contains", "starts with", "ends with", "matches"];
    const listTests = ["contains", "overlaps", "covers"];
    const isOnText = (tree: Tree) =>
      hasOnly(tree, (path, operator) =>
        path === "plan" ? textTests.includes(operator) : path === "tags" && listTests.includes(operator),
      );
    const texts = fc.constantFrom("Foot", "FOOT", "foot", "ferry-FREIGHT", "ø", "Ø", "");
    let judged = 0;
    fc.assert(
      fc.property(
        anyTree(none, 1),
        fc.record({ plan: texts, tags: fc.array(fc.oneof(texts, fc.boolean()), { maxLength: 3 }) }),
        (tree, context) => {
          const attributes = {
            plan: { type: "text", "ignore-case": true },
            tags: { type: "list", "ignore-case": true },
          };
          fc.pre(isOnText(tree));
          const data = {
            iudex: 1,
            attributes,
            flags: { a: { safe: false, rules: [{ when: write(tree), give: true }] } },
          };
          const { definitions } = readDefinitions([{ file: "a.json", data }]);
          fc.pre(definitions !== undefined);
          const set: OracleSet = { flags: {}, cohorts: {}, windows: {}, folded: ["plan", "tags"] };
          const expected = answer(tree, { set, context, at: 0, environment: "" }) === true;
          expect(new FlagSet(definitions!).value("a", context)).toBe(expected);
          judged++;
        },
      ),
      { numRuns: 400, maxSkipsPerRun: 2_000 },
    );
    expect(judged).toBe(400);
  });
});

function hasOnly(tree: Tree, allowed: (path: string, operator: string) => boolean): boolean {
  switch (tree.kind) {
    case "and":
    case "or":
      return tree.parts.every((part) => hasOnly(part, allowed));
    case "not":
      return hasOnly(tree.part, allowed);
    case "test":
      return tree.operand.kind === "path" && allowed(tree.operand.path.join("."), tree.operator);
    case "reference":
      return false;
  }
}

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
      { numRuns: 2_500 },
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
