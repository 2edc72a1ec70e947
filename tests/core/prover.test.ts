// What the decision procedure says, held against everybody who could matter: a universe of values that is made apart from
// it. It says "no" exactly where nobody reaches the goal, and "yes" exactly where somebody does.
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { isSatisfiable } from "../../src/checks/index.ts";
import { reachOf } from "../../src/checks/prover/satisfiable.ts";
import type { Assumptions, Mode } from "../../src/checks/prover/wanted.ts";
import { type Definitions, FlagSet, parseCondition } from "../../src/core.ts";
import { defined } from "../support/definitions.ts";
import { runs } from "../support/runs.ts";

const modes: readonly Mode[] = ["true", "false", "not-true", "not-false"];

interface Universe {
  readonly tests: readonly string[];
  readonly contexts: readonly object[];
  readonly set?: object;
  readonly environments?: readonly (string | undefined)[];
  readonly instants?: readonly number[];
}

/** The next double above or below, by counting through their bits. */
function beside(number: number): number[] {
  const bits = new BigInt64Array(new Float64Array([number]).buffer)[0]!;
  const at = (each: bigint) => new Float64Array(new BigInt64Array([each]).buffer)[0]!;
  if (number === 0) return [-Number.MIN_VALUE, 0, Number.MIN_VALUE];
  return [at(bits - 1n), number, at(bits + 1n)];
}

// Among them those beside which the upper half of a double changes.
const carried = 4294967295.9999995;
const numbers = [0, 0.1, 5, 5.000000000000001, -1, 2 ** 32, -(2 ** 32), carried, -carried, Number.MAX_VALUE];
const others = [undefined, true, false, "x", 7, {}, []];
const allCases = (text: string) => [text, text.toLowerCase(), text.toUpperCase(), "aB", "Ab", "\u212a", "k", "K"];
const texts = ["ab", "AB", "aB", "k", "", "-"];
const versions = ["1", "1.2", "1.2.3", "1.2.3-rc.1", "1.2.3-rc", "01", "v2"];
const instants = [0, Date.parse("2026-12-01T09:00Z")];
const items = ["a", "b", 1, true];

const ordered = ["<", "<=", ">", ">=", "==", "!="];
const compared = (operand: string, literals: readonly (string | number)[]) =>
  literals.flatMap((literal) => ordered.map((operator) => `${operand} ${operator} ${literal}`));
const given = (name: string, values: readonly unknown[]) => values.map((value) => ({ [name]: value }));
const plain = (number: number) => (Number.isInteger(number) ? BigInt(number).toString() : String(number));
const subsets = Array.from({ length: 2 ** items.length }, (_, bits) => items.filter((_, i) => bits & (1 << i)));

const universes: Record<string, Universe> = {
  numbers: {
    tests: ["n is missing", "n is present", "n", "n in [5, 6]", "n not in [0]", ...compared("n", numbers.map(plain))],
    contexts: given("n", [...others, 6, ...numbers.flatMap(beside).filter(Number.isFinite)]),
  },
  "texts as they stand": {
    tests: [
      "p is missing",
      "p",
      'p in ["ab", "k"]',
      'p not in ["AB", ""]',
      ...texts.flatMap((text) => [`p == "${text}"`, `p != "${text}"`]),
    ],
    contexts: given("p", [...others, ...texts, "other"]),
  },
  "texts in both cases": {
    tests: [
      "p is present",
      'lower(p) in ["ab", "k"]',
      ...texts.flatMap((text) => [`p == "${text}"`, `lower(p) == "${text.toLowerCase()}"`, `lower(p) != "${text}"`]),
    ],
    contexts: given("p", [...others, ...texts.flatMap(allCases), "-", "other"]),
  },
  "texts of any case": {
    tests: texts.flatMap((text) => [`p == "${text}"`, `p != "${text}"`, `lower(p) == "${text}"`]),
    contexts: given("p", [...others, ...texts.flatMap(allCases), "other"]),
    set: { attributes: { p: { type: "text", "ignore-case": true } } },
  },
  versions: {
    tests: [
      "v is missing",
      'v == "1.2.3"',
      'v != "1.2.3-rc.1"',
      ...compared("v", ["v1", "v1.2", "v1.2.3", "v1.2.3-rc.1", "v1.2.3-rc"]),
    ],
    contexts: given("v", [
      ...others,
      ...versions,
      "0.0.0-0",
      "1.0.0+b",
      "1.0.1-0",
      "1.2.0+b",
      "1.2.1-0",
      "1.2.3+b",
      "1.2.3-rc.1+b",
      "1.2.3-rc.1.0",
      "1.2.3-rc.0",
      "1.2.4-0",
      "99.0.0",
    ]),
  },
  times: {
    tests: [
      "t is present",
      "t == 0",
      "t > 5",
      't == "1970-01-01T00:00Z"',
      't != "1970-01-01T00:00:00.000Z"',
      ...compared("t", ["1970-01-01T00:00Z", "2026-12-01T10:00+01:00"]),
    ],
    contexts: given("t", [
      ...others,
      6,
      ...[0, 5].flatMap(beside),
      ...instants.flatMap((instant) =>
        [instant - 1, instant, instant + 1].flatMap((each) => {
          const iso = new Date(each).toISOString();
          return [each, new Date(each), iso, iso.replace("Z", "00Z"), iso.replace(":00.000", "")];
        }),
      ),
      ...instants.flatMap(beside),
    ]),
  },
  lists: {
    tests: [
      "l is missing",
      "l contains 1",
      "l contains true",
      'l overlaps ["a", "b"]',
      'l covers ["a", "b"]',
      'l covers ["b"]',
      "l overlaps [1]",
    ],
    contexts: given("l", [...others.filter((value) => value !== "x"), ...subsets]),
  },
  "a yes-no with a value for the missing": {
    tests: ["y", "y == true", "y == false", "y != true", "y is missing", "y is present", "not y"],
    contexts: given("y", others),
    set: { attributes: { y: { type: "yes-no", "missing-as": false } } },
  },
  environments: {
    tests: ["a", "b"].flatMap((name) => [
      `environment == "${name}"`,
      `environment != "${name}"`,
      `environment in ["${name}"]`,
      "environment is missing",
    ]),
    contexts: [{}],
    environments: ["a", "b", "c"],
    set: { environments: { a: {}, b: {}, c: {} } },
  },
  "cohorts, windows and flags": {
    tests: [
      "cohort:listed",
      "cohort:meant",
      "cohort:lot",
      "window:w",
      "flag:truth",
      "flag:truth == false",
      'flag:kind == "x"',
      'flag:kind != "y"',
      'flag:kind in ["x", "y"]',
      "k > 1",
    ],
    contexts: [1, 2, undefined].flatMap((id) =>
      ["u0", "u1", undefined].flatMap((u) =>
        [0, 2, undefined].flatMap((k) =>
          [true, false].flatMap((truth) => ["x", "y", "z"].map((kind) => ({ id, u, k, truth, kind }))),
        ),
      ),
    ),
    instants: [Date.parse("2026-12-31T00:00Z"), Date.parse("2027-01-01T00:00Z")],
    set: {
      cohorts: {
        listed: { of: "id", ids: [1] },
        meant: { when: "k > 1" },
        lot: { share: "50%", by: "u", salt: "s" },
      },
      windows: { w: { from: "2027-01-01T00:00Z" } },
      flags: {
        truth: { safe: false, rules: [{ when: "truth", give: true }] },
        kind: {
          variants: { x: 1, y: 2, z: 3 },
          safe: "z",
          rules: ["x", "y"].map((name) => ({ when: `kind == "${name}"`, give: name })),
        },
      },
    },
  },
};

function conditionOf(tests: readonly string[]): fc.Arbitrary<string> {
  const { all } = fc.letrec<{ all: string }>((tie) => ({
    all: fc.oneof(
      { maxDepth: 3 },
      { weight: 3, arbitrary: fc.constantFrom(...tests) },
      {
        weight: 3,
        arbitrary: fc
          .tuple(tie("all"), fc.constantFrom("and", "and", "or"), tie("all"))
          .map(([a, joint, b]) => `(${a} ${joint} ${b})`),
      },
      { weight: 1, arbitrary: tie("all").map((a) => `not (${a})`) },
    ),
  }));
  return all;
}

function definitionsOf(condition: string, { set = {} }: Universe): Definitions {
  const { flags = {}, ...rest } = set as { flags?: object };
  const asked = {
    straight: { safe: false, rules: [{ when: condition, give: true }] },
    opposite: { safe: false, rules: [{ when: `not (${condition})`, give: true }] },
  };
  return defined({ ...rest, flags: { ...flags, ...asked } });
}

/** The modes in which anybody of the universe leaves the condition. */
function reachedModes(definitions: Definitions, universe: Universe): Set<Mode> {
  const reached = new Set<Mode>();
  for (const environment of universe.environments ?? [undefined]) {
    const set = new FlagSet(definitions, environment);
    for (const at of universe.instants ?? [0]) {
      for (const context of universe.contexts) {
        const isTrue = set.value("straight", context, { at }) === true;
        const isFalse = set.value("opposite", context, { at }) === true;
        if (isTrue) reached.add("true").add("not-false");
        else if (isFalse) reached.add("false").add("not-true");
        else reached.add("not-true").add("not-false");
      }
    }
  }
  return reached;
}

function reach(text: string, mode: Mode, set: object = {}, assumptions?: Assumptions) {
  const definitions = defined({ flags: { a: { safe: false } }, ...set });
  return reachOf([{ condition: parseCondition(text).condition!, mode }], definitions, assumptions);
}

describe("what can be reached is exactly what somebody reaches", () => {
  it.each(Object.entries(universes))("%s", (_, universe) => {
    fc.assert(
      fc.property(conditionOf(universe.tests), (text) => {
        const definitions = definitionsOf(text, universe);
        const { condition } = parseCondition(text);
        const reached = reachedModes(definitions, universe);
        const said = modes.map((mode) => [text, mode, reachOf([{ condition: condition!, mode }], definitions)]);
        expect(said).toEqual(modes.map((mode) => [text, mode, reached.has(mode) ? "yes" : "no"]));
      }),
      { numRuns: runs(300) },
    );
  });

  it.each(Object.entries(universes))("each test by itself: %s", (_, universe) => {
    for (const text of universe.tests) {
      const definitions = definitionsOf(text, universe);
      const reached = reachedModes(definitions, universe);
      for (const mode of modes) {
        const { condition } = parseCondition(text);
        const said = reachOf([{ condition: condition!, mode }], definitions);
        expect([text, mode, said]).toEqual([text, mode, reached.has(mode) ? "yes" : "no"]);
      }
    }
  });
});

describe("several goals are reached together", () => {
  const definitions = defined({ flags: { a: { safe: false } } });
  const goals = (...wanted: readonly [string, Mode][]) =>
    wanted.map(([text, mode]) => ({ condition: parseCondition(text).condition!, mode }));

  it("or not", () => {
    expect(isSatisfiable(goals(["n > 1", "true"], ["n > 5", "not-true"]), definitions)).toBe(true);
    expect(isSatisfiable(goals(["n > 1", "not-true"], ["n > 5", "true"]), definitions)).toBe(false);
    expect(isSatisfiable(goals(["n > 1", "not-true"], ["n > 1", "not-false"]), definitions)).toBe(true);
    expect(isSatisfiable(goals(["n is missing", "not-true"], ["n is missing", "not-false"]), definitions)).toBe(false);
    expect(isSatisfiable([], definitions)).toBe(true);
  });
});

describe("parts of texts and patterns", () => {
  // "perhaps": a text may be found that does; "no": they clash outright, or the texts that come into question are few.
  it.each<[string, string]>([
    ['p starts with "ab" and p starts with "abc"', "yes"],
    ['p starts with "ab" and p starts with "b"', "no"],
    ['p starts with "abc" and p starts with "ab"', "yes"],
    ['p ends with "ab" and p ends with "b"', "yes"],
    ['p ends with "ab" and p ends with "a"', "no"],
    ['p starts with "ab" and p ends with "c"', "perhaps"],
    ['p starts with "abc" and not p starts with "ab"', "no"],
    ['p starts with "ab" and not p starts with "abc"', "yes"],
    ['p ends with "abc" and not p ends with "bc"', "no"],
    ['p ends with "bc" and not p ends with "abc"', "yes"],
    ['p starts with "abc" and not p ends with "c"', "perhaps"],
    ['p ends with "abc" and not p starts with "a"', "perhaps"],
    ['lower(p) contains "abc" and not lower(p) contains "b"', "no"],
    // A list that holds one of them does.
    ['p contains "abc" and not p contains "b"', "yes"],
    ['p contains "b" and not p contains "abc"', "yes"],
    ['p starts with "abc" and not p contains "b"', "no"],
    ['p ends with "abc" and not p contains "b"', "no"],
    ['p contains "abc" and not p starts with "abc"', "perhaps"],
    ['p contains "a" and p contains "b"', "yes"],
    ["p matches /a/ and not p matches /a/", "no"],
    ["p matches /a/ and not p matches /a/i", "perhaps"],
    ["p matches /a/ and not p matches /b/", "perhaps"],
    ["p matches /a/ and p matches /b/", "perhaps"],
    ['p matches /a/ and not lower(p) contains ""', "perhaps"],
    ['p matches /a/ and not p contains "a"', "perhaps"],
    ['p contains "a" and not p matches /a/', "perhaps"],
    ['lower(p) starts with "ab" and lower(p) starts with "b"', "no"],
    ['lower(p) starts with "ab" and p starts with "b"', "perhaps"],
    ['p starts with "ab" and p is missing', "no"],
    ['p starts with "ab" and p > 5', "no"],
    ['p starts with "ab" and p == "ab"', "yes"],
    ['p starts with "ab" and p == "ba"', "no"],
    ['p starts with "ab" and p in ["ba", "cab"]', "no"],
    ['p starts with "ab" and p in ["ba", "abba"]', "yes"],
    ['p starts with "ab" and p != "ab"', "perhaps"],
    ['p starts with "ab" and not (p != "ba")', "no"],
    ['p starts with "ab" and not (p not in ["ba", "b"])', "no"],
    ['p starts with "ab" and p not in ["ab"]', "perhaps"],
    ['lower(p) == "abc" and p starts with "AB"', "yes"],
    ['not p starts with "ab"', "yes"],
    ['p starts with ""', "yes"],
    ['p contains "zz" or p starts with "zz"', "yes"],
    ['p contains "a" and p contains 5', "yes"],
    ['lower(p) contains "a" and lower(p) contains 5', "no"],
  ])("%s: %s", (text, expected) => {
    expect(reach(text, "true")).toBe(expected);
  });

  it.each<[string, unknown, string, string]>([
    ['p starts with "x"', "number", "true", "no"],
    ['p starts with "x"', "yes-no", "true", "no"],
    ['p starts with "x"', "list", "true", "no"],
    ['p starts with "x"', "text", "true", "yes"],
    ['p starts with "2"', "time", "true", "perhaps"],
    ['p starts with "4."', "version", "true", "perhaps"],
    ['p starts with "b"', ["ab", "ba"], "true", "yes"],
    ['p starts with "c"', ["ab", "ba"], "true", "no"],
    ['p != "ab" and p is present', ["ab", "ba"], "true", "yes"],
    ['p == "c"', ["ab", "ba"], "true", "no"],
    ['p starts with "a" and p ends with "b"', "text", "true", "perhaps"],
    ["p > 2026-12-01T09:00Z", "time", "true", "yes"],
    ["p is missing", "number", "true", "yes"],
    ["p == 5", "number", "not-true", "yes"],
    ["p", "yes-no", "not-false", "yes"],
  ])("%s, declared as %s, %s: %s where values are of their types", (text, type, mode, expected) => {
    const definitions = defined({ attributes: { p: type }, flags: { a: { safe: false } } });
    const goal = { condition: parseCondition(text).condition!, mode: mode as Mode };
    expect(reachOf([goal], definitions, { declaredTypes: true })).toBe(expected);
  });

  it("are compared without case where the attribute is", () => {
    const set = { attributes: { p: { type: "text", "ignore-case": true } } };
    expect(reach('p starts with "AB" and not p starts with "ab"', "true", set)).toBe("no");
    expect(reach('p starts with "AB" and p starts with "b"', "true", set)).toBe("no");
    expect(reach('p starts with "AB" and p starts with "abc"', "true", set)).toBe("yes");
    expect(reach('p == "x" and p starts with "Y"', "true", set)).toBe("perhaps");
  });
});

describe("flags by what they give", () => {
  const set = {
    flags: {
      a: { safe: false },
      truth: { safe: false },
      number: { safe: 1 },
      text: { safe: "x" },
      data: { safe: [1] },
      kind: { variants: { x: 1, y: 2 }, safe: "x" },
    },
  };
  it.each<[string, Mode, string]>([
    ["flag:truth", "not-true", "yes"],
    ["flag:truth and not flag:truth", "true", "no"],
    ["flag:truth", "not-false", "yes"],
    ["flag:truth is missing", "true", "no"],
    ["flag:number > 5 and flag:number < 3", "true", "no"],
    ["flag:number > 5", "true", "yes"],
    ["flag:number is missing", "true", "no"],
    ["flag:text is missing", "true", "no"],
    ['flag:data contains "x"', "true", "yes"],
    ['flag:data contains "x" and not flag:data overlaps ["x"]', "true", "no"],
    ['flag:text == "z" and flag:text == "y"', "true", "no"],
    ['flag:kind == "x" and flag:kind == "y"', "true", "no"],
    ['flag:kind == "z"', "true", "no"],
    ['flag:kind == "y"', "true", "yes"],
    ["flag:kind is missing", "true", "no"],
    ['flag:text starts with "z"', "true", "yes"],
    ['flag:text starts with "z" and flag:text ends with "y"', "true", "perhaps"],
    ['flag:text starts with "z" and flag:text starts with "y"', "true", "no"],
  ])("%s, %s: %s", (text, mode, expected) => {
    expect(reach(text, mode, set)).toBe(expected);
  });

  // What a test leaves undecided is neither true nor false.
  it.each<[string, boolean]>([
    ["flag:truth", false],
    ["flag:number > 5", false],
    ['flag:text == "x"', false],
    ['flag:text starts with "x"', false],
    ["flag:text > v1.0", true],
    ['flag:kind in ["x"]', false],
    ['flag:data contains "x"', true],
    ["n > 5", true],
  ])("%s can be undecided: %s", (text, expected) => {
    const { condition } = parseCondition(text);
    const goals = (["not-true", "not-false"] as const).map((mode) => ({ condition: condition!, mode }));
    expect(isSatisfiable(goals, defined(set))).toBe(expected);
  });
});

describe("environments that come into question", () => {
  const set = { environments: { a: {}, b: {} } };
  it("are the declared ones, or those that are assumed", () => {
    expect(reach('environment == "a"', "true", set)).toBe("yes");
    expect(reach("environment is missing", "true", set)).toBe("no");
    expect(reach('environment == "a"', "true", set, { environments: ["b"] })).toBe("no");
    expect(reach('environment == "a"', "not-true", set, { environments: ["a"] })).toBe("no");
  });

  it("are any, or none, where a set declares none", () => {
    expect(reach("environment is missing", "true")).toBe("yes");
    expect(reach("environment is present", "true")).toBe("yes");
  });
});

describe("the bounds of the search", () => {
  const listed = (count: number) => `l covers [${Array.from({ length: count }, (_, i) => i).join(", ")}]`;
  it("seven items of a list are tried, of eight nothing is said", () => {
    expect(reach(`${listed(7)} and not l contains 0`, "true")).toBe("no");
    expect(reach(`${listed(8)} and not l contains 0`, "true")).toBe("perhaps");
  });

  it("ways are counted, and beyond the bound nothing is said", () => {
    const ways = (count: number) => Array.from({ length: count }, (_, i) => `(a${i} == 1 or a${i} == 2)`).join(" and ");
    const dead = "n > 1 and n < 0";
    expect(reach(`${ways(8)} and ${dead}`, "true")).toBe("no");
    expect(reach(`${ways(13)} and ${dead}`, "true")).toBe("perhaps");
    expect(reach(ways(100), "true")).toBe("yes");
  });

  it("case outside ASCII is not claimed to be understood", () => {
    expect(reach('lower(p) == "straße" and p != "straße"', "true")).toBe("perhaps");
    expect(reach('lower(p) == "strasse" and p != "strasse"', "true")).toBe("yes");
    expect(reach('lower(p) == "1" and p != "1"', "true")).toBe("no");
  });

  it("nor are all spellings of a version or a time in both cases", () => {
    expect(reach('lower(p) == "1.0.0-rc" and p == v1.0.0-RC', "true")).toBe("perhaps");
    expect(reach('lower(p) == "2026-12-01t09:00z" and p == 2026-12-01T09:00Z', "true")).toBe("perhaps");
    expect(reach('lower(p) == "1.0.0" and lower(p) == v1.0', "true")).toBe("yes");
  });

  it("of 256 spellings of one text some are tried, and nothing is said where all of them are taken", () => {
    const spellings = (count: number) =>
      Array.from({ length: count }, (_, bits) =>
        [..."abcdefgh"].map((letter, i) => (bits & (1 << i) ? letter.toUpperCase() : letter)).join(""),
      );
    // A condition holds some 4,000 characters, so there are two: one that lists them, and one in lower case.
    const quoted = (texts: readonly string[]) => `[${texts.map((text) => `"${text}"`).join(",")}]`;
    const all = spellings(256);
    const lists = [0, 64, 128, 192].map((from) => `p not in ${quoted(all.slice(from, from + 64))}`);
    const goal = (texts: readonly string[]) =>
      texts.map((text) => ({ condition: parseCondition(text).condition!, mode: "true" as const }));
    const definitions = defined({ flags: { a: { safe: false } } });
    expect(reachOf(goal(['lower(p) == "abcdefgh"', ...lists.slice(1)]), definitions)).toBe("yes");
    expect(reachOf(goal(['lower(p) == "abcdefgh"', ...lists]), definitions)).toBe("perhaps");
  });
});
