import { describe, expect, it } from "vitest";
import { checkDefinitions, type Problem } from "../../src/core.ts";
import { defined, read } from "../support/definitions.ts";

const now = Date.parse("2026-11-23T12:00Z");

function warnings(data: object): readonly Problem[] {
  return checkDefinitions(defined(data), { at: now });
}

/** The warnings about one flag with these rules. */
function warningsOfRules(rules: readonly object[], rest: object = {}): string[] {
  const { flag = {}, ...set } = rest as { flag?: object };
  return warnings({ ...set, flags: { a: { safe: false, by: "id", rules, ...flag } } }).map((p) => p.code);
}

const yes = { give: true };

describe("conditions that can never be true, or always are", () => {
  it.each([
    "trips > 10 and trips < 5",
    "trips > 10 and trips == 10",
    'plan == "a" and plan == "b"',
    'plan == "a" and plan in ["b", "c"]',
    'plan == "a" and plan not in ["a", "c"]',
    "crew and not crew",
    "crew and trips > 3 and crew == false",
    "plan is missing and plan == 5",
    'plan starts with "ab" and plan starts with "b"',
    'plan starts with "ab" and not plan contains "b"',
    'plan == "abc" and plan ends with "d"',
    'lower(plan) == "a" and plan == "B"',
    "v >= v2.0 and v < v2.0.0-rc.1",
    "v > v1.2.3 and v < v1.2.4-0",
    "t > 2026-01-02T00:00Z and t < 2026-01-01T00:00Z",
    'tags contains "x" and not tags overlaps ["x", "y"]',
    'trips > 3 and plan == "x" and trips == "3"',
    "window:w and not window:w",
    "cohort:c and n > 6",
    'environment == "a" and environment == "b"',
    "tags contains 5 and tags is missing",
  ])("never: %s", (when) => {
    const set = {
      environments: { a: {}, b: {} },
      windows: { w: { from: "2026-01-01T00:00Z" } },
      cohorts: { c: { when: "n < 5" } },
    };
    const codes = warningsOfRules([{ when, ...yes }], set).filter((code) => !code.startsWith("unused"));
    expect(codes).toEqual(["never-true"]);
  });

  it.each(["plan is missing or plan is present", "window:w or not window:w", 'environment in ["a", "b"]'])(
    "always: %s",
    (when) => {
      const set = { environments: { a: {}, b: {} }, windows: { w: { from: "2026-01-01T00:00Z" } } };
      expect(warningsOfRules([{ when, ...yes }], set).filter((code) => !code.startsWith("unused"))).toEqual([
        "always-true",
      ]);
    },
  );

  it.each([
    "trips > 10 and trips < 10.5",
    "crew or not crew",
    'plan == "a" or plan != "a"',
    'plan starts with "a" and plan ends with "b"',
    'lower(plan) == "a" and plan == "A"',
    "v >= v2.0 and v < v2.0.1",
    "v > v1.2.3 and v < v1.2.4",
    't > 2026-01-01T00:00Z and t starts with "2026"',
    'tags contains "x" and not tags contains "y"',
    "x == 1764579600000 and x == 2025-12-01T09:00Z",
    'x == v1.0 and x != "1.0.0"',
    "plan matches /a/ and plan matches /b/",
  ])("nothing is said of %s", (when) => {
    expect(warningsOfRules([{ when, ...yes }])).toEqual([]);
  });

  it("names two joined tests that exclude each other on one side of an or", () => {
    const [problem] = warnings({
      flags: { a: { safe: false, rules: [{ when: "crew or (trips > 5 and trips < 3)", ...yes }] } },
    });
    expect(problem).toMatchObject({
      code: "tests-contradict",
      message: expect.stringContaining("“trips > 5” and “trips < 3”"),
    });
  });
});

describe("rules and shares that nobody reaches", () => {
  it.each<[string, object[], string[]]>([
    ["a rule for everyone before", [yes, { when: "crew", ...yes }], ["rule-never-reached"]],
    [
      "a wider condition before",
      [
        { when: "trips > 5", ...yes },
        { when: "trips > 9 and crew", ...yes },
      ],
      ["rule-never-reached"],
    ],
    [
      "a narrower condition before",
      [
        { when: "trips > 9", ...yes },
        { when: "trips > 5", ...yes },
      ],
      [],
    ],
    [
      "two that cover together",
      [
        { when: "x is missing", ...yes },
        { when: "x is present", ...yes },
        { when: "crew", ...yes },
      ],
      ["rule-never-reached"],
    ],
    ["two that leave the undecided", [{ when: "crew", ...yes }, { when: "not crew", ...yes }, yes], []],
    [
      "a share before",
      [
        { share: "99%", ...yes },
        { when: "crew", ...yes },
      ],
      [],
    ],
    ["everybody with an id before", [{ share: "100%", ...yes }, yes], []],
    [
      "an equal share",
      [
        { share: "10%", ...yes },
        { share: "10%", ...yes },
      ],
      ["share-never-reached"],
    ],
    [
      "a smaller share of a part",
      [
        { share: "10%", ...yes },
        { when: "crew", share: "5%", ...yes },
      ],
      ["share-never-reached"],
    ],
    [
      "a larger share",
      [
        { share: "10%", ...yes },
        { share: "11%", ...yes },
      ],
      [],
    ],
    [
      "a smaller share of others",
      [
        { when: "crew", share: "10%", ...yes },
        { share: "5%", ...yes },
      ],
      [],
    ],
    [
      "another salt",
      [
        { share: "10%", ...yes },
        { share: "5%", salt: "other", ...yes },
      ],
      [],
    ],
    [
      "another subject",
      [
        { share: "10%", ...yes },
        { share: "5%", by: "request.id", ...yes },
      ],
      [],
    ],
    [
      "a rising share behind one that is always ahead",
      [
        { share: { rising: ["10% from 2027-01-01T00:00Z", "50% from 2027-02-01T00:00Z"] }, ...yes },
        { share: { rising: ["10% from 2027-01-15T00:00Z", "40% from 2027-03-01T00:00Z"] }, ...yes },
      ],
      ["share-never-reached"],
    ],
    [
      "a rising share that overtakes for a while",
      [
        { share: { rising: ["10% from 2027-01-01T00:00Z", "50% from 2027-02-01T00:00Z"] }, ...yes },
        { share: { rising: ["40% from 2027-01-15T00:00Z"] }, ...yes },
      ],
      [],
    ],
  ])("%s", (_, rules, codes) => {
    expect(warningsOfRules(rules)).toEqual(codes);
  });

  it("says of one environment what is not true of all", () => {
    const when = 'environment == "staging" and crew';
    const flag = { environments: { live: { rules: [{ when, ...yes }] } } };
    const set = { environments: { staging: {}, live: {} }, flag };
    expect(warningsOfRules([{ when, ...yes }], set)).toEqual(["never-true"]);
  });

  it("looks at each environment's own rules, and at what is provided there", () => {
    const flag = { environments: { staging: { rules: [yes, { when: "crew", ...yes }] } } };
    expect(warningsOfRules([{ when: "crew", ...yes }], { environments: { staging: {}, live: {} }, flag })).toEqual([
      "rule-never-reached",
    ]);
    expect(
      warningsOfRules(
        [
          { when: "trips > 1", ...yes },
          { when: "crew", ...yes },
        ],
        { flag: { provided: "trips > 5" } },
      ),
    ).toEqual(["rule-never-reached"]);
  });
});

describe("denying by rule", () => {
  const deny = { when: "contractor", give: false };
  it.each<[string, object[], object, string[]]>([
    ["with a wider value behind", [deny, yes], {}, ["deny-by-rule"]],
    ["with a wider value otherwise", [deny], { flag: { otherwise: true } }, ["deny-by-rule"]],
    ["with nothing wider behind", [{ when: "crew", ...yes }, deny], {}, []],
    ["on a test that always decides", [{ when: "contractor is present", give: false }, yes], {}, []],
    [
      "on an attribute with a value for the missing",
      [deny, yes],
      { attributes: { id: "text", contractor: { type: "yes-no", "missing-as": false } } },
      [],
    ],
    [
      "on a declared attribute that may be missing",
      [deny, yes],
      { attributes: { id: "text", contractor: "yes-no" } },
      ["deny-by-rule"],
    ],
    [
      "on a list, whose id may be missing",
      [{ when: "cohort:c", give: false }, yes],
      { cohorts: { c: { of: "id", ids: ["x"] } } },
      ["deny-by-rule"],
    ],
  ])("%s", (_, rules, rest, codes) => {
    expect(warningsOfRules(rules, rest)).toEqual(codes);
  });
});

describe("what is over, complete or unused", () => {
  it("names it, each with its reason", () => {
    const found = warnings({
      defaults: { zone: "Atlantic/Faroe", by: "id" },
      cohorts: { nobody: { when: "x" }, used: { when: "y" } },
      windows: { past: { until: "2026-11-01" }, open: { from: "2026-11-01" } },
      flags: {
        a: {
          safe: false,
          provided: "cohort:used and window:past",
          rules: [{ share: { rising: ["100% from 2026-11-02"] }, ...yes }],
        },
        b: { variants: { x: 1, y: 2, z: 3 }, safe: "x", rules: [{ split: ["1 x", "0 y"] }] },
      },
    });
    expect(found.map((p) => p.message)).toEqual([
      "This rising share reached its last step, 100%, on 2026-11-02 00:00 Atlantic/Faroe.",
      "Nothing gives the variant “z”: no rule, split, otherwise or safe value names it.",
      "No condition names the cohort “nobody”.",
      "No condition names the window “open”.",
      "The window “past” was shut for good on 2026-11-01 00:00 Atlantic/Faroe.",
    ]);
  });

  it("warns of a literal that a closed text does not hold, and of capitals under lower()", () => {
    const { problems } = read({
      attributes: { plan: ["foot", "freight"] },
      flags: { a: { safe: false, rules: [{ when: 'plan == "freigth" or lower(plan) == "Foot"', ...yes }] } },
    });
    expect(problems).toMatchObject([
      { code: "unlisted-text", help: 'did you mean "freight"?' },
      { code: "lower-with-capitals", help: 'write "foot"' },
      { code: "unlisted-text", help: 'did you mean "foot"?' },
    ]);
  });
});

describe("many rules of ranges", () => {
  const ranges = Array.from({ length: 100 }, (_, i) => ({
    when: `trips >= ${i * 10} and trips < ${i * 10 + 10}`,
    ...yes,
  }));

  it("are seen to leave nobody together", () => {
    const after = { when: "trips >= 0 and trips < 1000", ...yes };
    const found = warnings({ flags: { a: { safe: false, rules: [...ranges, after] } } });
    expect(found.map(({ code, message }) => [code, message])).toEqual([
      [
        "rule-never-reached",
        "This rule is never reached: the rules before it together match everybody whom this one could.",
      ],
    ]);
  });

  it("are seen to leave somebody, were it one number", () => {
    const last = { when: "trips >= 0 and trips <= 1000", ...yes };
    expect(warningsOfRules([...ranges, last])).toEqual([]);
    const holed = ranges.map((rule, i) => (i === 57 ? { ...rule, when: "trips > 570 and trips < 580" } : rule));
    expect(warningsOfRules([...holed, { when: "trips >= 0 and trips < 1000", ...yes }])).toEqual([]);
  });
});
