// What is told of an ask beside its outcome: at what a test was undecided, who it was about, and whether two contexts
// read alike.
import { describe, expect, it } from "vitest";
import { FlagSet } from "../../src/core.ts";
import { DefinitionSet } from "../../src/model/index.ts";
import { defined } from "../support/definitions.ts";

const yes = { give: true };

describe("the attributes at which tests were undecided", () => {
  const data = {
    environments: { live: {}, test: {} },
    attributes: { id: "text", crew: "yes-no", trips: "number", email: "text", lot: "text", tags: "list" },
    windows: { w: { from: "2026-12-01T00:00Z" } },
    cohorts: {
      meant: { when: "trips > 5 or crew" },
      within: { when: "not cohort:meant and email is present" },
      listed: { of: "id", ids: ["A-17"] },
      drawn: { share: "50%", by: "lot" },
    },
    flags: {
      plain: { safe: false, rules: [{ when: 'crew and email == "a"', ...yes }, { when: "trips > 5", ...yes }, yes] },
      skipped: { safe: false, rules: [{ when: "crew and (trips > 5 or crew)", ...yes }] },
      withheld: { safe: false, provided: "crew", rules: [{ when: "trips > 5", ...yes }] },
      twice: {
        safe: false,
        provided: "crew",
        environments: { live: { provided: 'email == "a"' }, test: { provided: "trips > 5" } },
      },
      cohorts: {
        safe: false,
        rules: [
          { when: "cohort:within", ...yes },
          { when: "cohort:listed", ...yes },
          { when: "cohort:drawn", ...yes },
        ],
      },
      asking: { safe: false, rules: [{ when: 'window:w and flag:data == "x" and flag:plain', ...yes }] },
      data: { safe: 1 },
    },
  };
  const definitions = defined({ ...data, flags: { ...data.flags, data: { safe: "x", rules: [] } } });

  function undecided(flag: string, context: unknown, environment = "live", of = definitions) {
    const set = new FlagSet(of, environment);
    return set.undecided(set.judge(flag, context, () => 0)!, context, () => 0);
  }

  it.each<[string, object, readonly string[]]>([
    ["plain", {}, ["crew", "email", "trips"]],
    ["plain", { crew: true, email: "b" }, ["trips"]],
    ["plain", { crew: true, email: "a" }, []],
    ["plain", { crew: false, trips: 9 }, ["email"]],
    ["plain", { crew: "yes", email: 5, trips: 9 }, ["crew", "email"]],
    ["skipped", { crew: false }, ["trips"]],
    ["skipped", {}, ["crew", "trips"]],
    ["withheld", {}, ["crew"]],
    ["withheld", { crew: false }, []],
    ["withheld", { crew: true }, ["trips"]],
    ["twice", {}, ["crew"]],
    ["twice", { crew: true }, ["email"]],
    ["twice", { crew: true, email: "b" }, []],
    ["cohorts", { email: "a" }, ["trips", "crew", "id", "lot"]],
    // Decided as a whole, so that what is undecided inside does not matter.
    ["cohorts", {}, ["id", "lot"]],
    ["cohorts", { crew: true, email: "a" }, ["id", "lot"]],
    ["cohorts", { crew: false, trips: 1, email: "a" }, []],
    ["cohorts", { crew: false, trips: 1, id: "A-18", lot: "" }, ["lot"]],
    ["asking", {}, []],
    ["data", {}, []],
  ])("of %s for %j", (flag, context, expected) => {
    expect(undecided(flag, context)).toEqual(expected);
  });

  it("by the environment, and by a flag whose variant is of another type than the literal", () => {
    expect(undecided("twice", { crew: true, trips: "many" }, "test")).toEqual(["trips"]);
    expect(undecided("twice", { crew: true, email: 5 }, "test")).toEqual(["trips"]);
    const flags = { a: { safe: false, rules: [{ when: "flag:number > v1.0", ...yes }] }, number: { safe: "x" } };
    expect(undecided("a", {}, undefined, defined({ flags }))).toEqual(["flag:number"]);
  });

  it("of contexts that have to be read with care", () => {
    class Person {
      crew = true;
    }
    const throwing = {
      get crew(): boolean {
        throw new Error("no");
      },
    };
    expect(undecided("withheld", new Person())).toEqual(["trips"]);
    expect(undecided("withheld", throwing)).toEqual(["crew"]);
    expect(undecided("withheld", null)).toEqual(["crew"]);
  });

  it("and none where no rule was asked", () => {
    const place = { file: "suspended.yaml", path: ["suspended", "a"] };
    const nothing = { since: undefined, who: undefined, note: undefined, in: undefined, except: undefined };
    const flags = new DefinitionSet(defined({ flags: { a: { safe: false, provided: "crew" } } }));
    const stopped = new FlagSet(
      flags.withSuspensions(new Map([["a", { flag: "a", place, stops: [{ place, ...nothing }] }]])),
    );
    const outcome = stopped.judge("a", {}, () => 0)!;
    expect([outcome.cause, stopped.undecided(outcome, {}, () => 0)]).toEqual(["suspended", []]);
  });
});

describe("who an ask was about", () => {
  const set = new FlagSet(
    defined({
      flags: {
        own: { safe: false, by: "account.id" },
        ruled: { safe: false, rules: [{ share: "10%", by: "request", ...yes }] },
        nobody: { safe: false },
      },
    }),
  );
  it.each<[string, readonly string[], unknown]>([
    ["own", ["account", "id"], "A-17"],
    // Of a rule that goes by something else than its flag, nobody is told.
    ["ruled", [], undefined],
    ["nobody", [], undefined],
    ["unknown", [], undefined],
  ])("%s", (flag, path, id) => {
    const subject = set.subject(flag);
    expect([subject.path, subject.read({ account: { id: "A-17" }, request: 7 })]).toEqual([path, id]);
    expect(set.subject(flag)).toBe(subject);
  });
});

describe("two contexts read alike only if every path reads the same in both", () => {
  const set = new FlagSet(
    defined({
      flags: {
        a: { safe: false, by: "id", provided: "p is present and q.r is present" },
        b: { safe: false, provided: "other is present" },
      },
    }),
  );
  const reading = set.readingOf(["a", "missing"]);
  const cacheKey = (p: unknown, r?: unknown) => reading({ p, q: { r }, other: Math.random() }).cacheKey;

  const different: readonly unknown[] = [
    undefined,
    "",
    "-",
    "n1;",
    "1",
    1,
    1n,
    -1,
    0,
    Number.NaN,
    true,
    false,
    "true",
    "yes;",
    new Date(0),
    new Date(1),
    [],
    [""],
    ["", ""],
    ["a", "b"],
    ["ab"],
    [1],
    [true],
    [undefined],
    ["a", 1],
  ];
  it("no two of these are", () => {
    const told = different.map((value) => cacheKey(value));
    expect(told.every((text) => typeof text === "string")).toBe(true);
    expect(new Set(told).size).toBe(different.length);
    const besides = different.map((value) => cacheKey("x", value));
    expect(new Set([...told, ...besides]).size).toBe(2 * different.length);
  });

  it("these are, whatever else they hold", () => {
    for (const value of different) expect([value, cacheKey(value)]).toEqual([value, cacheKey(structuredClone(value))]);
    expect(cacheKey(null)).toBe(cacheKey(undefined));
    expect(reading({ q: null }).cacheKey).toBe(reading({ p: undefined, q: 5, id: 9 }).cacheKey);
    expect(cacheKey("a", "b")).not.toBe(cacheKey("ab", ""));
  });

  it.each([[{}], [[[]]], [[{}]], [() => 1], [Symbol("x")], [[new Date(0)]], [new Map()]])(
    "that cannot be told of %s",
    (value) => {
      expect(cacheKey(value)).toBeUndefined();
      expect(cacheKey("x", value)).toBeUndefined();
    },
  );

  it("nor of a list that is longer than conditions look into", () => {
    expect(cacheKey(new Array(100_000).fill(1))).toBeTypeOf("string");
    expect(cacheKey(new Array(100_001).fill(1))).toBeUndefined();
  });

  it("subjects count where they are told of, and only those of the flags that are meant", () => {
    const withSubjects = set.readingOf(["a"], true);
    expect(withSubjects({ id: 1 }).cacheKey).not.toBe(withSubjects({ id: 2 }).cacheKey);
    expect(reading({ id: 1 }).cacheKey).toBe(reading({ id: 2 }).cacheKey);
    expect(set.readingOf(["b"], true)({ id: 1 }).cacheKey).toBe(set.readingOf(["b"], true)({ id: 2 }).cacheKey);
    const read = (context: unknown) => JSON.parse(JSON.stringify(context));
    expect(read(reading({ id: 1, p: "x", q: { r: 2, s: 3 }, more: 1 }).context)).toEqual({ p: "x", q: { r: 2 } });
    expect(read(withSubjects({ id: 1, p: "x" }).context)).toEqual({ id: 1, p: "x" });
  });
});
