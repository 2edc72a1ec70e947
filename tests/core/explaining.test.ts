import { describe, expect, it } from "vitest";
import { describeFlag, explain, FlagSet, formatExplanation } from "../../src/core.ts";
import { loadFolder } from "../../src/files/load.ts";
import { compareSets } from "../../src/insight/change/compare.ts";
import { defined } from "../support/definitions.ts";
import { demoFolder } from "../support/folders.ts";

const noon = Date.parse("2026-12-02T12:00Z");

describe("explanations", () => {
  const set = (rest: object) => new FlagSet(defined({ flags: {}, ...rest }));
  const lines = (flags: FlagSet, context: object) =>
    formatExplanation(explain(flags, "a", context, { at: noon })!).split("\n");

  it("say which side of a condition decided", () => {
    const flags = set({ flags: { a: { safe: false, rules: [{ when: "x > 1 and (y == 2 or not z)", give: true }] } } });
    expect(lines(flags, { x: 5, y: 3, z: true })).toEqual(
      expect.arrayContaining(["               ^^^^^^ false: y is 3", "                             ^ true: z is true"]),
    );
    expect(lines(flags, { x: 0, y: 2 })).toContain("    ^^^^^ false: x is 0");
    expect(lines(flags, { x: 5 }).filter((line) => line.includes("undecided"))).toHaveLength(2);
  });

  it("notice a key that is spelt with dots", () => {
    const flags = set({ flags: { a: { safe: false, provided: "account.id == 1" } } });
    expect(lines(flags, { "account.id": 1 }).join("\n")).toContain(
      'the context has a key spelt "account.id", but the path means account and in it id',
    );
  });

  it("tell what was taken for a missing attribute, and hide private ones everywhere", () => {
    const flags = set({
      attributes: { contractor: { type: "yes-no", "missing-as": false }, id: { type: "text", private: true } },
      cohorts: { c: { of: "id", ids: ["secret"] } },
      flags: {
        a: {
          safe: false,
          by: "id",
          rules: [
            { when: "contractor", give: true },
            { when: 'cohort:c and id starts with "s"', share: "0%", give: true },
          ],
        },
      },
    });
    const text = lines(flags, { id: "secret" }).join("\n");
    expect(text).toContain("contractor is missing, taken as false");
    expect(text).toContain("id is •••, which is in its list");
    expect(text).toContain("share 0% by id: ••• is outside");
    expect(text).not.toContain("secret");
  });

  it("say why there is no id to hash", () => {
    const flags = set({ flags: { a: { safe: false, by: "id", rules: [{ share: "50%", give: true }] } } });
    expect(lines(flags, { id: "" }).join("\n")).toContain("share 50% by id: no id, id is missing or no id");
  });

  it("name overrides, what is provided, and the split", () => {
    const flags = set({
      flags: {
        a: { variants: { x: 1, y: 2 }, safe: "x", by: "id", provided: "on", rules: [{ split: ["1 x", "3 y"] }] },
      },
    });
    expect(lines(flags, { on: true, id: "A-17" }).join("\n")).toMatch(
      /split 1 x, 3 y by id: A-17 gets ([xy])\n {4}the shortest time wins: \1 \d+\.\d{4}, [xy] \d+\.\d{4}/,
    );
    expect(lines(flags, { on: false })[0]).toBe(
      "a is 1 (variant x): what it is provided on does not hold, so it gives its safe value",
    );
  });
});

describe("a flag in a sentence", () => {
  it.each([
    ["storm-mode", "Everybody gets false."],
    ["duty-desk", "During duty hours and while storm-mode is off, everybody gets true; otherwise false."],
    ["berth-view", "Pilot captains get true, everybody else false."],
    [
      "winter-timetable",
      "From 1 December 2026 through 28 February 2027, Atlantic/Faroe time, everybody gets true; otherwise false.",
    ],
    [
      "hold-minutes",
      'People whose account.plan is "freight" get 120, people whose account.plan is "vehicle" and either whose trips is at least 50 or who are among testers get 45, everybody else 15.',
    ],
    [
      "seat-map",
      'Only where app.version is at least v4.2: people who have account.id and whose account.plan is one of "foot", "vehicle" get classic (50%), deck (25%) or tour (25%), everybody else classic; where not, everybody gets classic.',
    ],
    [
      "zone-fares",
      "Crew, 10% of people whose trips is more than 100, and 1% of all people (25% from 4 December 2026, 09:00, 100% from 8 December 2026, 09:00, Atlantic/Faroe time), get true, everybody else false.",
    ],
  ])("%s", async (name, sentence) => {
    const { definitions } = await loadFolder(demoFolder);
    expect(describeFlag(definitions!, name, "production", noon)).toBe(sentence);
  });

  it("knows suspensions and negations", () => {
    const definitions = defined({
      flags: { a: { safe: 1, rules: [{ when: 'not (x or y) and not z is missing and not p in ["q"]', give: 2 }] } },
    });
    expect(describeFlag(definitions, "a", undefined, noon)).toBe(
      'People whose x is false and whose y is false and whose z is given and whose p is known and is none of "q" get 2, everybody else 1.',
    );
    expect(describeFlag(definitions, "nobody", undefined, noon)).toBeUndefined();
  });

  it.each([
    ["(n >= 5 or cohort:c) and not x", "People whose x is false and either whose n is at least 5 or who are among c"],
    ["n >= 5 or cohort:c", "People whose n is at least 5 or who are among c"],
    ['not (p == "a" and cohort:c)', 'People whose p is known and is not "a" or who are known not to be among c'],
    [
      "x and (n > 1 or y and cohort:c)",
      "People whose x is true and either whose n is more than 1 or (whose y is true and who are among c)",
    ],
    ["n > 1 or window:w", "People whose n is more than 1 or while w is open"],
  ])("says who is meant by %s", (when, people) => {
    const definitions = defined({
      cohorts: { c: { when: "id == 1" } },
      windows: { w: { from: "2026-12-01", zone: "UTC" } },
      flags: { a: { safe: 1, rules: [{ when, give: 2 }] } },
    });
    expect(describeFlag(definitions, "a", undefined, noon)).toBe(`${people} get 2, everybody else 1.`);
  });
});

describe("what a sentence says is true", () => {
  const sentence = (rules: readonly object[], windows: object = {}) => {
    const definitions = defined({ windows, flags: { a: { safe: 1, by: "id", otherwise: 5, rules } } });
    return describeFlag(definitions, "a", undefined, noon);
  };

  it.each<[object, string]>([
    [{ from: "2026-12-07", until: "2026-12-14" }, "from 7 December 2026 through 13 December 2026, UTC time"],
    [{ through: "2026-12-24" }, "through 24 December 2026, UTC time"],
    [{ until: "2026-12-24T18:00" }, "until 24 December 2026, 18:00, UTC time"],
    [{ until: "2026-12-24T18:00:30" }, "until 24 December 2026, 18:00:30, UTC time"],
    [
      { from: "2026-12-01", except: ["2026-12-25", "2026-12-24"] },
      "from 1 December 2026, UTC time, but for 24 December 2026 and 25 December 2026",
    ],
    [{ from: "2026-12-01", hours: "07:00-19:00" }, "during w"],
  ])("of a window %j: %s", (window, words) => {
    const upper = words.charAt(0).toUpperCase() + words.slice(1);
    expect(sentence([{ when: "window:w", give: 2 }], { w: { zone: "UTC", ...window } })).toBe(
      `${upper}, everybody gets 2; otherwise 5.`,
    );
  });

  it("does not take the time of one rule for that of the next", () => {
    const windows = { w: { from: "2026-12-07", until: "2026-12-14", zone: "UTC" } };
    const week = "rom 7 December 2026 through 13 December 2026, UTC time";
    const german = { when: 'country == "de"', give: 2 };
    expect(sentence([{ when: "window:w", give: 7 }, german], windows)).toBe(
      `F${week}, everybody gets 7; otherwise people whose country is "de" get 2, everybody else 5.`,
    );
    expect(sentence([german, { when: "window:w", give: 7 }], windows)).toBe(
      `People whose country is "de" get 2; otherwise f${week}, everybody gets 7; otherwise everybody gets 5.`,
    );
  });

  it("does not take two groups for one", () => {
    expect(
      sentence([
        { when: "not contractor", give: 2 },
        { share: "10%", give: 2 },
      ]),
    ).toBe("People whose contractor is false, and 10% of all people, get 2, everybody else 5.");
  });

  it("does not hold of those of whom nothing is known", () => {
    for (const [when, words] of [
      ["not contractor", "whose contractor is false"],
      ["trips != 5", "whose trips is known and is not 5"],
      ['not email starts with "a"', 'whose email is known and does not start with "a"'],
      ["not trips > 5", "whose trips is at most 5"],
    ])
      expect(sentence([{ when, give: 2 }])).toBe(`People ${words} get 2, everybody else 5.`);
  });
});

describe("what a rule lacks", () => {
  it.each<[string, object, string[]]>([
    ["a and b", { a: true }, ["b"]],
    ["a and b and c", {}, ["a", "b", "c"]],
    ["a or (b and c)", { b: true }, ["a"]],
    ["(a and d) or (b and c)", { b: true }, ["c"]],
    ["a and not (b or c)", { a: true, b: true, c: true }, ["not b", "not c"]],
    ["not (a and b)", { a: true, b: true }, ["not a"]],
    // A person can change an attribute sooner than the environment.
    ['environment == "live" or (a and b)', {}, ["a", "b"]],
    ["a and b", { a: true, b: true }, []],
  ])("of %s for %j: %j", (when, context, wanted) => {
    const set = new FlagSet(
      defined({ environments: { staging: {}, live: {} }, flags: { f: { safe: 1, rules: [{ when, give: 2 }] } } }),
      "staging",
    );
    const explanation = explain(set, "f", context)!;
    const [step] = explanation.steps;
    const lacks = step?.step === "rule" ? (step.condition?.lacks ?? []) : [];
    expect(lacks.map(({ text, wanted: answer }) => (answer === "true" ? text : `not ${text}`))).toEqual(wanted);
    // What is said to be lacking is enough.
    const given = {
      ...context,
      ...Object.fromEntries(wanted.map((each) => (each.startsWith("not ") ? [each.slice(4), false] : [each, true]))),
    };
    expect(set.value("f", given)).toBe(2);
    if (wanted.length > 0) expect(formatExplanation(explanation)).toContain(`what it lacks: ${wanted.join(" and ")}`);
  });
});

describe("what a change means", () => {
  const flag = (rest: object) =>
    defined({
      environments: { staging: {}, live: {} },
      cohorts: { c: { when: "x" } },
      flags: { a: { safe: 1, by: "id", ...rest } },
    });
  const rule = { name: "first", when: "cohort:c", give: 2 };
  it.each<[string, object, object, string[]]>([
    ["a value", {}, { safe: 3 }, ["safe 1 → 3"]],
    [
      "a share raised",
      { rules: [{ ...rule, share: "10%" }] },
      { rules: [{ ...rule, share: "25%" }] },
      ["rule “first”: share raised from 10% to 25%"],
    ],
    ["a rule added", { rules: [] }, { rules: [rule] }, ["rule “first” added"]],
    ["a rule taken out", { rules: [rule] }, { rules: [] }, ["rule “first” taken out"]],
    [
      "rules moved",
      { rules: [rule, { name: "b", give: 3 }] },
      { rules: [{ name: "b", give: 3 }, rule] },
      ["rule “first” moved from place 1 to 2"],
    ],
    ["an environment", {}, { environments: { staging: { otherwise: 5 } } }, ["in staging: otherwise 5 added"]],
    ["a condition in front", {}, { provided: "y" }, ['provided "y" added, which narrows it']],
  ])("%s", (_, before, after, words) => {
    expect(compareSets(flag(before), flag(after))).toEqual([{ part: "flag", name: "a", kind: "changed", words }]);
  });

  it("is told of cohorts too, and of nothing where nothing changed", () => {
    const other = defined({
      environments: { staging: {}, live: {} },
      cohorts: { c: { when: "z" }, d: { of: "id", ids: [] } },
      flags: { a: { safe: 1, by: "id" } },
    });
    expect(compareSets(flag({}), other).map(({ part, name, kind }) => `${part} ${name} ${kind}`)).toEqual([
      "cohort c changed",
      "cohort d added",
    ]);
    expect(compareSets(flag({}), flag({}))).toEqual([]);
  });
});
