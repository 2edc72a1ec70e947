// What names nothing, what no value can decide, and what is suspicious: in which words, and where.
import { describe, expect, it } from "vitest";
import { checkDefinitions, readDefinitions } from "../../src/core.ts";
import faults from "../fixtures/naming-faults.json" with { type: "json" };
import warnings from "../fixtures/warnings.json" with { type: "json" };
import { codes, defined } from "../support/definitions.ts";
import { problemLine } from "../support/problem-line.ts";

const now = Date.parse("2026-11-26T12:00Z");

describe("names of nothing, tests that no value can decide, and circles are told with their place and what to write", () => {
  it.each(faults.map(({ data, said }) => [JSON.stringify(data), data, said] as const))("%s", (_, data, said) => {
    const { problems } = readDefinitions([{ file: "a.json", data: { iudex: 1, ...data } }]);
    expect(problems.map(problemLine)).toEqual(said);
  });
});

describe("what is suspicious in a sound set is told with its proof", () => {
  it.each(warnings.map(({ data, said }) => [JSON.stringify(data), data, said] as const))("%s", (_, data, said) => {
    expect(checkDefinitions(defined(data), { at: now }).map(problemLine)).toEqual(said);
  });
});

describe("a test is refused where no value of the declared type decides it", () => {
  const types = {
    text: "text",
    closed: ["a", "1.2", "2026-12-01T09:00Z"],
    version: "version",
    time: "time",
    number: "number",
    truth: "yes-no",
    list: "list",
    "flag:yes": { safe: false },
    "flag:number": { safe: 1 },
    "flag:text": { safe: "x" },
    "flag:data": { safe: [1] },
    "flag:variants": { variants: { a: 1 }, safe: "a" },
  };
  const ofTexts = "text closed version time flag:text flag:variants";
  const ofNumbers = "time number flag:number";
  it.each([
    [
      "p is missing",
      "text closed version time number truth list flag:yes flag:number flag:text flag:data flag:variants",
    ],
    ["p", "truth flag:yes"],
    ["p == true", "truth flag:yes"],
    ["p in [true, false]", "truth flag:yes"],
    ["p == 1", ofNumbers],
    ["p < 1", ofNumbers],
    ["p in [1, 2]", ofNumbers],
    ['p == "a"', ofTexts],
    ['p not in ["a"]', ofTexts],
    ['p starts with "a"', ofTexts],
    ['p ends with "a"', ofTexts],
    ["p matches /a/", ofTexts],
    ['p contains "a"', `${ofTexts} list flag:data`],
    ["p contains 1", "list flag:data"],
    ['p overlaps ["a"]', "list flag:data"],
    ["p covers [1]", "list flag:data"],
    ["p >= v1.2", "text closed version time flag:text"],
    ["p == v1.2", "text closed version time flag:text"],
    ["p > 2026-12-01T09:00Z", `text closed version ${ofNumbers} flag:text`],
  ])("%s is taken of %s", (test, taken) => {
    const operands = Object.keys(types).filter((operand) => {
      const [kind, name] = operand.split(":");
      const when = test.replace("p", name ? operand : kind!);
      const type = types[operand as keyof typeof types];
      const flags = { a: { safe: false, rules: [{ when, give: true }] }, ...(name ? { [name]: type } : {}) };
      const found = codes({ attributes: { [name ? "other" : operand]: name ? "text" : type }, flags });
      expect(
        found.filter((code) => !["impossible-test", "number-for-version", "unlisted-text"].includes(code)),
      ).toEqual([]);
      return !found.some((code) => code === "impossible-test" || code === "number-for-version");
    });
    expect(operands.join(" ").split(" ").sort()).toEqual(taken.split(" ").sort());
  });

  it("by its lower case only where the value can be a text", () => {
    const declared = (type: unknown, when: string) =>
      codes({ attributes: { p: type }, flags: { a: { safe: false, rules: [{ when, give: true }] } } });
    expect(declared("time", 'lower(p) == "x"')).toEqual([]);
    expect(declared("time", "lower(p) == 5")).toEqual(["impossible-test"]);
    expect(declared("number", 'lower(p) == "x"')).toEqual(["impossible-test"]);
    expect(declared("list", 'lower(p) contains "x"')).toEqual(["impossible-test"]);
    expect(declared("number", "lower(p) is missing")).toEqual([]);
  });
});

describe("what may stand in a file that could not be read", () => {
  const flags = {
    a: {
      safe: false,
      rules: [
        { when: 'trips > 1 and flag:b and cohort:c and window:w and environment == "x"', give: true },
        { share: "5%", by: "account", give: true },
      ],
      environments: { live: { otherwise: true } },
    },
  };
  const data = { iudex: 1, environments: { live: { passes: ["z"] } }, attributes: { id: "text" }, flags };
  const file = { file: "a.json", data };

  it("is not called unknown", () => {
    const suspended = { file: "suspended.yaml", data: { iudex: 1, suspended: { y: { in: ["test"] } } } };
    expect(readDefinitions([file], { suspended, incomplete: true }).problems).toEqual([]);
    const told = readDefinitions([file], { suspended }).problems;
    expect(told.map(({ code, found }) => `${code} ${found}`).sort()).toEqual([
      "suspended-unknown y",
      "suspension-fault test",
      "undeclared-attribute account",
      "undeclared-attribute trips",
      "unknown-cohort c",
      "unknown-environment x",
      "unknown-flag b",
      "unknown-flag z",
      "unknown-window w",
    ]);
  });

  it("is that which a part names that is itself at fault, and nothing else", () => {
    const broken = {
      ...data,
      attributes: { ...data.attributes, trips: "nmber" },
      flags: { ...flags, b: { safe: null } },
      cohorts: { c: { of: 5 } },
      windows: { w: { from: "soon" } },
    };
    const told = readDefinitions([{ file: "a.json", data: broken }]).problems;
    const unknown = told.filter(({ code }) => code.startsWith("un")).map(({ code, found }) => `${code} ${found}`);
    expect(unknown.sort()).toEqual(["undeclared-attribute account", "unknown-environment x", "unknown-flag z"]);
  });
});

describe("suspensions", () => {
  it("of flags and environments that are not there are told, the others not", () => {
    const data = { iudex: 1, environments: { live: {}, test: {} }, flags: { "storm-mode": { safe: false } } };
    const stops = { "storm-mod": {}, "storm-mode": { in: ["live", "tst"] } };
    const suspended = { file: "suspended.yaml", data: { iudex: 1, suspended: stops } };
    expect(readDefinitions([{ file: "a.json", data }], { suspended }).problems.map(problemLine)).toEqual([
      "warning suspended-unknown at suspended storm-mod (key): There is no flag “storm-mod”. | found storm-mod | expected the name of a flag of this set | help did you mean storm-mode?",
      "error suspension-fault at suspended storm-mode in 1: There is no environment “tst”. | found tst | expected one of live or test | help did you mean test?",
    ]);
  });
});
