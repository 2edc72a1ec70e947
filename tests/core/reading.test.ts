import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { explain, FlagSet } from "../../src/core.ts";
import { parseText } from "../../src/files/parse/parse.ts";
import { alignScalar } from "../../src/files/places/align.ts";
import { readOverrideVariable } from "../../src/flags/override-variable.ts";
import { readInSteps } from "../../src/reading/index.ts";
import { canonicalJson } from "../../src/values/data.ts";
import { nearest } from "../../src/values/names.ts";
import { codes, read } from "../support/definitions.ts";
import { runs } from "../support/runs.ts";

it("reads own keys only, whatever stands on Object.prototype", () => {
  const flags = { a: { safe: false, rules: [{ when: "x", give: true }] } };
  Object.assign(Object.prototype, { smuggled: 1, split: ["1 a"], provided: "y" });
  Object.defineProperty(Object.prototype, "share", { value: "0%", configurable: true });
  try {
    const { definitions, problems } = read({ flags });
    expect(problems).toEqual([]);
    expect(new FlagSet(definitions!).value("a", { x: true })).toBe(true);
    expect(canonicalJson({ share: "1%", a: 1 })).toBe('{"a":1,"share":"1%"}');
  } finally {
    for (const key of ["smuggled", "split", "provided", "share"]) Reflect.deleteProperty(Object.prototype, key);
  }
});

describe("two readings that take turns", () => {
  const flags = (salt: number, fault: boolean) =>
    Object.fromEntries(
      Array.from({ length: 100 }, (_, i) => {
        const give = fault && i % 10 === 3 ? `none ${salt}` : salt;
        return [`f${i}`, { safe: 0, rules: [{ when: `x == ${i} and (y > ${salt})`, give }] }];
      }),
    );

  it("do not disturb each other: each has its own problems, places and flags", () => {
    const names = ["a.json", "b.json"];
    const readings = names.map((file, salt) =>
      readInSteps([{ file, data: { iudex: 1, flags: flags(salt, salt === 1) } }]),
    );
    const results = readings.map((reading) => reading.next());
    while (results.some(({ done }) => !done)) {
      for (const [i, reading] of readings.entries()) if (!results[i]!.done) results[i] = reading.next();
    }
    const [sound, faulty] = results.map(({ value }) => value!);
    expect(sound!.problems).toEqual([]);
    expect(sound!.definitions?.flags.get("f7")?.source.rules?.[0]?.give).toBe(0);
    const places = faulty!.problems.map(({ code, place }) => [code, place.file, ...place.path]);
    const wanted = [3, 13, 23, 33, 43, 53, 63, 73, 83, 93];
    expect(places).toEqual(wanted.map((i) => ["value-type", "b.json", "flags", `f${i}`, "rules", 0, "give"]));
  });

  it("nor does a condition that cannot be read disturb the next one", () => {
    const broken = `${"(".repeat(40)}x`;
    const rules = [
      { when: broken, give: true },
      { when: "((x))", give: true },
      { when: "x = 1", give: true },
    ];
    const { problems } = read({ flags: { a: { safe: false, rules } } });
    expect(problems.map(({ place }) => place.path.at(-2))).toEqual([0, 2]);
    expect(codes({ flags: { a: { safe: false, rules: [{ when: "((x))", give: true }] } } })).toEqual([]);
  });
});

describe("the tables of the format", () => {
  const flag = (rest: object) => ({ flags: { a: { safe: false, by: "id", ...rest } } });
  it.each<[string, object, string[]]>([
    ["an empty set of rules", flag({ rules: [] }), []],
    ["neither give nor split", flag({ rules: [{ when: "x" }] }), ["not-exactly-one"]],
    ["both", flag({ rules: [{ give: true, split: ["1 a"] }] }), ["not-exactly-one"]],
    ["a condition that is empty", flag({ rules: [{ when: " ", give: true }] }), ["condition-empty"]],
    ["a condition that is not a text", flag({ provided: true }), ["wrong-type"]],
    ["rules that are none", flag({ rules: [null, "x", []] }), ["null-value", "wrong-type", "wrong-type"]],
    ["settings that are none", flag({ environments: { e: null } }), ["null-value"]],
    ["a condition that comes late", flag({ rules: [{ give: true, when: "x" }] }), ["late-condition"]],
    ["a share over 100", flag({ rules: [{ share: "101%", give: true }] }), ["share-invalid"]],
    ["a share with a blank", flag({ rules: [{ share: "10 %", give: true }] }), ["share-invalid"]],
    ["no steps", flag({ rules: [{ share: { rising: [] }, give: true }] }), ["empty-list"]],
    [
      "steps that go back",
      flag({ rules: [{ share: { rising: ["1% from 2026-01-02T00:00Z", "2% from 2026-01-01T00:00Z"] }, give: true }] }),
      ["share-order"],
    ],
    [
      "steps that fall",
      flag({ rules: [{ share: { rising: ["2% from 2026-01-01T00:00Z", "1% from 2026-01-02T00:00Z"] }, give: true }] }),
      ["share-falls"],
    ],
    [
      "a step without a zone",
      flag({ rules: [{ share: { rising: ["1% from 2026-01-02"] }, give: true }] }),
      ["zone-missing"],
    ],
    [
      "a share without a subject",
      { flags: { a: { safe: false, rules: [{ share: "1%", give: true }] } } },
      ["subject-missing"],
    ],
    ["a subject that is not a path", flag({ by: "a b" }), ["path-invalid"]],
    ["a salt that is not a name", flag({ salt: "1x" }), ["name-invalid"]],
    ["variants of two types", { flags: { a: { variants: { x: 1, y: "2" }, safe: "x" } } }, ["value-type"]],
    ["no variants", { flags: { a: { variants: {}, safe: "x" } } }, ["empty-list"]],
    ["a split of plain values", flag({ rules: [{ split: ["1 a"] }] }), ["split-invalid"]],
    [
      "a split that names nobody",
      { flags: { a: { by: "id", variants: { x: 1 }, safe: "x", rules: [{ split: ["1 y"] }] } } },
      ["unknown-variant"],
    ],
    [
      "a split that repeats",
      { flags: { a: { by: "id", variants: { x: 1 }, safe: "x", rules: [{ split: ["1 x", "2 x"] }] } } },
      ["split-invalid"],
    ],
    [
      "a split without weight",
      { flags: { a: { by: "id", variants: { x: 1 }, safe: "x", rules: [{ split: ["0 x"] }] } } },
      ["split-invalid"],
    ],
    ["null in a data value", { flags: { a: { safe: { x: null } } } }, []],
    ["null elsewhere", flag({ otherwise: null }), ["null-value"]],
    ["an environment that is not declared", flag({ environments: { live: {} } }), ["unknown-environment"]],
    [
      "a condition on one that is not declared",
      { environments: { live: {} }, ...flag({ provided: 'environment == "liv"' }) },
      ["unknown-environment"],
    ],
    ["a review date that does not exist", flag({ "review-by": "2026-02-30" }), ["time-invalid"]],
    ["another lifespan", flag({ lifespan: "short" }), ["wrong-type"]],
    ["a cohort of two kinds", { cohorts: { c: { when: "x", of: "id", ids: [] } }, ...flag({}) }, ["not-exactly-one"]],
    ["a list without its attribute", { cohorts: { c: { ids: [] } }, ...flag({}) }, ["missing-key"]],
    ["a column without a file", { cohorts: { c: { of: "id", ids: [], column: "x" } }, ...flag({}) }, ["unknown-key"]],
    ["an empty id", { cohorts: { c: { of: "id", ids: [""] } }, ...flag({}) }, ["id-invalid"]],
    [
      "an attribute in two spellings",
      { attributes: { 'a["b"]': "text", "a.b": "text", id: "text" }, ...flag({}) },
      ["defined-twice"],
    ],
    ["a type that does not exist", { attributes: { id: "string" }, flags: { a: { safe: false } } }, ["wrong-type"]],
    [
      "a value for the missing of another type",
      { attributes: { id: "text", n: { type: "number", "missing-as": "1" } }, ...flag({}) },
      ["value-type"],
    ],
    ["circles through cohorts", { cohorts: { c: { when: "flag:a" } }, ...flag({ provided: "cohort:c" }) }, ["circle"]],
    ["circles by oneself", flag({ provided: "flag:a" }), ["circle"]],
    [
      "flags that refer in a line",
      { flags: { a: { safe: true, provided: "flag:b" }, b: { safe: true, provided: "flag:c" }, c: { safe: true } } },
      [],
    ],
  ])("%s", (_, data, expected) => {
    expect(codes(JSON.parse(JSON.stringify(data)) as object)).toEqual(expected);
  });

  describe("references that follow each other", () => {
    /** f0 asks f1, that one a cohort, that one f2, and so on: `length` references in a row. */
    function chain(length: number): { flags: Record<string, object>; cohorts: Record<string, object> } {
      const nameOf = (i: number) => (i % 3 === 1 ? `cohort:c${i}` : `flag:f${i}`);
      const set = { flags: {} as Record<string, object>, cohorts: {} as Record<string, object> };
      for (let i = 0; i <= length; i++) {
        const next = i < length ? nameOf(i + 1) : 'id == "A-17"';
        if (i % 3 === 1) set.cohorts[`c${i}`] = { when: next };
        else set.flags[`f${i}`] = { safe: false, rules: [{ when: next, give: true }] };
      }
      return set;
    }

    it("are judged and explained, a hundred of them", () => {
      const { definitions, problems } = read(chain(100));
      expect(problems).toEqual([]);
      const flags = new FlagSet(definitions!);
      expect(["A-17", "B-2"].map((id) => flags.value("f0", { id }))).toEqual([true, false]);
      expect(explain(flags, "f0", { id: "A-17" }, { at: 0 })!.value).toBe(true);
    });

    it.each([101, 5_000])("are refused where there are %i, once, where they get too many", (length) => {
      const { definitions, problems } = read(chain(length));
      expect(definitions).toBeUndefined();
      const at = length - 101;
      expect(problems).toEqual([
        expect.objectContaining({
          code: "too-deep",
          severity: "error",
          message: "More than 100 references follow each other from here.",
          place: expect.objectContaining({
            path: at % 3 === 1 ? ["cohorts", `c${at}`, "when"] : ["flags", `f${at}`, "rules", 0, "when"],
          }),
        }),
      ]);
    });

    it("count by the longest way, whichever is written first", () => {
      const set = chain(99);
      const rules = (names: string[]) => ({
        safe: false,
        rules: names.map((when) => ({ when, give: true })),
      });
      const more = (names: string[]) => codes({ ...set, flags: { ...set.flags, more: rules(names) } });
      expect(more(["flag:f98", "flag:f0", "flag:f99"])).toEqual([]);
      set.flags["before"] = rules(["flag:f99", "flag:f0"]);
      expect(more(["flag:f99", "flag:before"])).toEqual(["too-deep"]);
      expect(more(["flag:before", "flag:f99"])).toEqual(["too-deep"]);
    });
  });

  it.each<[string, object, string, string | undefined]>([
    ["undeclared", { trips: "number" }, "trps > 1", "did you mean trips?"],
    ["a prefix left out", { "account.id": "text" }, 'id == "x"', "did you mean account.id?"],
    ["a number for a version", { v: "version" }, "v >= 4.2", "write v4.2"],
    ["a text for a number", { n: "number" }, 'n == "5"', undefined],
    ["a yes-no that is none", { n: "number" }, "n", undefined],
    ["a list test on a text", { t: "text" }, 't overlaps ["x"]', undefined],
    ["a version among closed texts that are none", { t: ["a", "b"] }, "t >= v1", undefined],
    ["lower() of a number", { n: "number" }, 'lower(n) == "x"', undefined],
  ])("a test that declared types rule out: %s", (_, attributes, condition, help) => {
    const [problem] = read({ attributes, flags: { a: { safe: true, provided: condition } } }).problems;
    expect(problem?.severity).toBe("error");
    expect(problem?.help).toBe(help ?? problem?.help);
    if (help) expect(problem?.help).toBe(help);
  });

  it.each(["v == 4.2", "t contains 5", "time < 5", 'time starts with "2026"', "v in [1]"])(
    "what may be decided is let through, or not: %s",
    (condition) => {
      const allowed = {
        "v == 4.2": false,
        "t contains 5": false,
        "time < 5": true,
        'time starts with "2026"': true,
        "v in [1]": false,
      };
      const { definitions } = read({
        attributes: { v: "version", t: "text", time: "time" },
        flags: { a: { safe: true, provided: condition } },
      });
      expect(definitions !== undefined).toBe(allowed[condition as keyof typeof allowed]);
    },
  );
});

describe("definitions handed in by a program", () => {
  it("may go on changing without the set", () => {
    const flags: Record<string, { safe: unknown; rules?: object[] }> = {
      a: { safe: 1, rules: [{ when: "x", give: 2 }] },
    };
    const before = new FlagSet(read({ flags }).definitions!);
    flags["a"]!.safe = "text";
    flags["a"]!.rules!.push({ give: "text" });
    expect([before.value("a", {}), before.value("a", { x: true })]).toEqual([1, 2]);
    expect(read({ flags }).problems.map((p) => p.code)).toEqual(["value-type"]);
    flags["a"]!.rules!.shift();
    expect(new FlagSet(read({ flags }).definitions!).value("a", {})).toBe("text");
  });

  it("see a flag that gives a list as one", () => {
    const flags = {
      ports: { safe: ["Kelpmoor"] },
      a: { safe: false, rules: [{ when: 'flag:ports contains "Kelpmoor"', give: true }] },
    };
    expect(new FlagSet(read({ flags }).definitions!).value("a", {})).toBe(true);
  });
});

describe("texts of files", () => {
  it("keep `__proto__` as a key like any other, in YAML and JSON", () => {
    for (const [file, text] of [
      ["a.yaml", "x: { __proto__: 1 }"],
      ["a.json", '{"x":{"__proto__":1}}'],
    ] as const) {
      const { data } = parseText(file, text) as { data: { x: object } };
      expect(Object.keys(data.x)).toEqual(["__proto__"]);
      expect(Object.getPrototypeOf(data.x)).toBe(Object.prototype);
    }
  });

  it("note the spelling of what looks like something else", () => {
    expect([...parseText("a.yaml", "a: [007, 1e5, 12345678901234567890, off, 'on', 7]").spellings]).toEqual([
      ["/a/0", "007"],
      ["/a/1", "1e5"],
      ["/a/2", "12345678901234567890"],
      ["/a/3", "off"],
    ]);
  });

  it.each([
    ["plain", "when: a == 1", "a == 1", 6],
    ["single quotes", "when: 'a == ''x'''", "a == 'x'", 7],
    ["double quotes", 'when: "a == \\"x\\" \\u0061"', 'a == "x" a', 7],
    ["folded", "when: >-\n  a\n  b", "a b", 11],
    ["literal", "when: |\n  a\n  b\n", "a\nb\n", 10],
    ["plain over lines", "when: a\n  b", "a b", 6],
  ])("give each character of a scalar its place: %s", (_, text, value, first) => {
    const start = text.indexOf(":") + 2;
    const range = { start, end: text.length };
    expect(alignScalar(text, range, value, { start: 0, end: 1 })).toEqual({ start: first, end: first + 1 });
    const last = alignScalar(text, range, value.trimEnd(), {
      start: value.trimEnd().length - 1,
      end: value.trimEnd().length,
    });
    expect(last.end).toBeLessThanOrEqual(text.length);
    expect(last.start).toBeGreaterThanOrEqual(first);
  });
});

describe("small helpers", () => {
  it.each([
    ["zone-fare", "zone-fares"],
    ["Zone_Fares", "zone-fares"],
    ["strom", "storm"],
    ["entirely-different", undefined],
  ])("nearest: %s → %s", (word, near) => {
    expect(nearest(word, ["storm", "zone-fares", "seats"])).toBe(near);
  });

  it("read the variable of overrides", () => {
    const { values, faults } = readOverrideVariable(
      'a=true,b = "x, y", c=[1,2], d={"e":"f,g"}, h=plain text,, a=false, =1',
    );
    const data = Object.fromEntries([...values].map(([name, written]) => [name, written.asData]));
    expect(data).toEqual({ a: true, b: "x, y", c: [1, 2], d: { e: "f,g" }, h: "plain text" });
    expect(faults).toEqual([
      "IUDEX_OVERRIDES: “a” stands there twice; the first one holds.",
      "IUDEX_OVERRIDES: “=1” is not “flag=value”.",
    ]);
  });
});

describe("canonical JSON", () => {
  it("has its keys in order whatever they are, and leaves undefined members out", () => {
    const key = fc.oneof(fc.constantFrom("10", "9", "-1", "01", "a", "b", "__proto__", "toJSON", "ø", ""), fc.string());
    const { value } = fc.letrec((tie) => ({
      value: fc.oneof(
        { maxDepth: 4 },
        fc.constantFrom(null, true, 0, -0, 1.5, "a", "\ud800", undefined),
        fc.array(tie("value"), { maxLength: 3 }),
        fc
          .array(fc.tuple(key, tie("value")), { maxLength: 4 })
          .map((members) => Object.fromEntries(members.map(([name, member]) => [name, member] as const))),
      ),
    }));
    fc.assert(
      fc.property(value, (data) => {
        expect(canonicalJson(data)).toBe(written(data));
      }),
      { numRuns: runs(2_000) },
    );
    expect(canonicalJson({ b: { 10: 1, 9: 2 }, a: [undefined, { y: undefined, x: 1 }] })).toBe(
      '{"a":[null,{"x":1}],"b":{"10":1,"9":2}}',
    );
  });

  /** Written down from what RFC 8785 says, member by member. */
  function written(data: unknown): string {
    if (Array.isArray(data)) return `[${data.map(written).join(",")}]`;
    if (typeof data !== "object" || data === null) return data === undefined ? "null" : JSON.stringify(data);
    const members = Object.entries(data).filter(([, member]) => member !== undefined);
    const inOrder = members.sort(([one], [other]) => (one < other ? -1 : 1));
    return `{${inOrder.map(([name, member]) => `${JSON.stringify(name)}:${written(member)}`).join(",")}}`;
  }
});
