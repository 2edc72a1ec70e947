import { runInNewContext } from "node:vm";
import fc from "fast-check";
import { afterEach, describe, expect, it } from "vitest";
import { FlagSet } from "../../src/core.ts";
import { Asking } from "../../src/judge/asking.ts";
import { HarmlessCopy } from "../../src/judge/context/harmless.ts";
import { isLiteral, isPlainContext, step, steps } from "../../src/judge/context/reach.ts";
import { readPath } from "../../src/judge/context/subject.ts";
import { ofOneStep, ofTwoSteps } from "../../src/judge/fast/readers.ts";
import { longestList } from "../../src/language/index.ts";
import { defined } from "../support/definitions.ts";
import { anyContext } from "../support/generated.ts";
import { anySet, definitionsOf, instant } from "../support/random-sets.ts";
import { runs } from "../support/runs.ts";

class Traveller {
  readonly plan = "foot";
}

const foreignDate = runInNewContext("Object.assign(new Date(0), { a: 1 })") as object;
const foreignFake = { [Symbol.toStringTag]: "Date", a: 1 };

describe("what a context may be read like", () => {
  const own = JSON.parse('{ "__proto__": 1 }') as object;
  it.each<[string, unknown, boolean, boolean]>([
    ["a literal", { a: 1 }, true, true],
    ["an object without a prototype", Object.create(null), false, true],
    ["an instance", new Traveller(), false, false],
    ["an object that stands on another", Object.create({ a: 1 }), false, false],
    ["a list", [1], false, false],
    ["a date", new Date(0), false, false],
    ["null", null, false, false],
    ["nothing", undefined, false, false],
    ["a text", "a", false, false],
    ["a function", () => 1, false, false],
    ["a literal with a __proto__ of its own", own, false, false],
  ])("%s", (_, value, literal, plain) => {
    expect([isLiteral(value), isPlainContext(value)]).toEqual([literal, plain]);
  });
});

describe("a step of a path", () => {
  it.each<[string, unknown, string, unknown]>([
    ["into a literal", { a: 1 }, "a", 1],
    ["into an object without a prototype", Object.assign(Object.create(null) as object, { a: 1 }), "a", 1],
    ["into an instance", new Traveller(), "plan", "foot"],
    ["to what an instance inherits", new Traveller(), "constructor", undefined],
    ["into a date with a property", Object.assign(new Date(0), { a: 1 }), "a", undefined],
    ["into a date of another realm", foreignDate, "a", undefined],
    ["into what only calls itself a date", foreignFake, "a", 1],
    ["into a list", [1], "0", undefined],
    ["into a text", "abc", "length", undefined],
    ["into nothing", undefined, "a", undefined],
    ["into null", null, "a", undefined],
  ])("%s", (_, value, key, found) => {
    expect(step(value, key)).toBe(found);
    expect(steps({ top: value }, ["top", key])).toBe(found);
    expect(readPath({ top: value } as never, ["top", key])).toBe(found);
  });
});

describe("every place in the code that reads for the engine", () => {
  afterEach(() => {
    for (const key of ["smuggled", "inner"]) Reflect.deleteProperty(Object.prototype, key);
  });

  const inners: readonly unknown[] = [
    undefined,
    null,
    1,
    "text",
    [1],
    new Date(0),
    {},
    { inner: 2 },
    { inner: undefined },
    Object.assign(Object.create(null) as object, { inner: 3 }),
    new Traveller(),
  ];
  const poisons: readonly ((key: string) => void)[] = [
    () => {},
    (key) => Object.defineProperty(Object.prototype, key, { value: "everybody", writable: true, configurable: true }),
    (key) =>
      Object.defineProperty(Object.prototype, key, { value: { inner: "all" }, enumerable: true, configurable: true }),
  ];

  it.each([0, 1, 2, 3, 4, 5, 6, 7])("place %d reads as the plain twin does", (place) => {
    const seen: [fast: unknown, plain: unknown][] = [];
    for (const poison of poisons) {
      for (const poisoned of [["smuggled"], ["inner"], ["smuggled", "inner"]]) {
        for (const key of poisoned) poison(key);
        for (const inner of inners) {
          for (const context of [{ smuggled: inner }, {}, { other: inner }] as never[]) {
            seen.push([ofOneStep[place]!("smuggled")(context), steps(context, ["smuggled"])]);
            seen.push([ofTwoSteps[place]!("smuggled", "inner")(context), steps(context, ["smuggled", "inner"])]);
          }
        }
        for (const key of poisoned) Reflect.deleteProperty(Object.prototype, key);
      }
    }
    for (const [fast, plain] of seen) expect(fast).toBe(plain);
  });
});

describe("a harmless copy", () => {
  const paths = [["a"], ["a", "b"], ["a", "b", "c"], ["d"], ["d", "e"], ["f"]];

  it("holds what can be read, whatever else is asked for and in which order", () => {
    const leaf = fc.oneof(
      fc.string(),
      fc.double(),
      fc.boolean(),
      fc.constant(null),
      fc.array(fc.integer(), { maxLength: 3 }),
    );
    const inner = fc.oneof(
      leaf,
      fc.dictionary(fc.constantFrom("b", "e", "c"), fc.oneof(leaf, fc.dictionary(fc.constantFrom("c"), leaf))),
    );
    const context = fc.dictionary(fc.constantFrom("a", "d", "f"), inner);
    fc.assert(
      fc.property(context, fc.shuffledSubarray(paths), (original, asked) => {
        const copy = new HarmlessCopy(original).take(asked);
        for (const path of asked) {
          const there = steps(original, path);
          const isLeaf = typeof there !== "object" || there === null || Array.isArray(there);
          const copied = steps(copy, path);
          if (isLeaf) expect([path, copied]).toEqual([path, there]);
          else expect(typeof copied).toBe("object");
        }
      }),
      { numRuns: runs(1_000) },
    );
  });

  it("leaves out what throws, and takes the rest", () => {
    const throwing = () => {
      throw new Error("not now");
    };
    const list = Object.defineProperty(["x", "y"], 1, { get: throwing });
    const original = {
      get a() {
        return throwing();
      },
      d: {
        e: list,
        get b() {
          return throwing();
        },
      },
      f: new Proxy({}, { get: throwing, getOwnPropertyDescriptor: throwing, getPrototypeOf: throwing }),
      g: new Date(5),
      h: Array.from({ length: longestList + 1 }, () => 1),
    };
    const copy = new HarmlessCopy(original).take([
      ["a"],
      ["a", "b"],
      ["d", "e"],
      ["d", "b"],
      ["f", "x"],
      ["f"],
      ["g"],
      ["h"],
      [],
    ]);
    expect(steps(copy, ["a"])).toBeUndefined();
    expect(steps(copy, ["d", "e"])).toEqual(["x", undefined]);
    expect(steps(copy, ["d", "b"])).toBeUndefined();
    expect(steps(copy, ["f", "x"])).toBeUndefined();
    // A date of its own, so that nobody can move it.
    expect(steps(copy, ["g"])).toEqual(original.g);
    expect(steps(copy, ["g"])).not.toBe(original.g);
    expect(Array.isArray(steps(copy, ["h"]))).toBe(false);
  });

  it("reads each path once, and grows as more is asked for", () => {
    let reads = 0;
    const original = {
      get a() {
        reads++;
        return 1;
      },
      d: 2,
    };
    const copy = new HarmlessCopy(original);
    const path = ["a"];
    copy.take([path]);
    copy.take([path, ["d"]]);
    expect([copy.context["a"], copy.context["d"], reads]).toEqual([1, 2, 1]);
  });
});

describe("one context asked about several flags", () => {
  it("answers as each question alone does", () => {
    fc.assert(
      fc.property(anySet, anyContext, instant, (set, context, at) => {
        const flags = new FlagSet(defined(JSON.parse(JSON.stringify(definitionsOf(set))) as object), "staging");
        const asking = new Asking(flags, context, at, undefined);
        for (const name of [...Object.keys(set.flags), ...Object.keys(set.flags), "nobody"]) {
          expect(asking.judge(name)).toBe(flags.judge(name, context, () => at));
        }
      }),
      { numRuns: runs(200) },
    );
  });

  it("goes on with a copy from the first thing that throws, without asking again what it knows", () => {
    let asked = 0;
    const set = new FlagSet(
      defined({
        flags: {
          one: { safe: 0, rules: [{ when: "x == 1", give: 1 }] },
          two: { safe: 0, rules: [{ when: "y == 1", give: 2 }] },
          three: { safe: 0, rules: [{ when: "flag:one == 1", give: 3 }] },
        },
      }),
    );
    const context = {
      get x() {
        asked++;
        return 1;
      },
      get y() {
        throw new Error("not now");
      },
    };
    const asking = new Asking(set, context, 0, undefined);
    expect(["one", "three", "one"].map((name) => asking.judge(name)?.value)).toEqual([1, 3, 1]);
    expect(asked).toBe(1);
    expect([asking.judge("two")?.value, asking.judge("one")?.value]).toEqual([0, 1]);
    const refusing = new Proxy(
      {},
      {
        getPrototypeOf: () => {
          throw new Error("never");
        },
      },
    );
    for (const odd of [refusing, null, "text", 7, undefined]) {
      expect(new Asking(set, odd, 0, undefined).judge("one")?.value).toBe(0);
    }
  });
});
