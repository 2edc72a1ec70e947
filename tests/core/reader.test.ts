import { afterEach, describe, expect, it } from "vitest";
import { readerOf } from "../../src/judge/context/reader.ts";

class Traveller {
  readonly plan = "foot";
  get shouted() {
    return "FOOT";
  }
}

describe("the reader of a path", () => {
  it.each<[string[], object, unknown]>([
    [["a"], { a: 1 }, 1],
    [["a"], {}, undefined],
    [["a"], { a: null }, null],
    [["a", "b"], { a: { b: 2 } }, 2],
    [["a", "b"], { a: null }, undefined],
    [["a", "b"], { a: "text" }, undefined],
    [["a", "length"], { a: [1, 2] }, undefined],
    [["a", "length"], { a: "text" }, undefined],
    [["a", "b"], { a: Object.assign(Object.create(null), { b: 3 }) }, 3],
    [["a", "plan"], { a: new Traveller() }, "foot"],
    [["a", "shouted"], { a: new Traveller() }, undefined],
    [["a", "getTime"], { a: new Date(0) }, undefined],
    [["a", "b", "c"], { a: { b: { c: 4 } } }, 4],
    [["a", "b", "c"], { a: { b: [] } }, undefined],
    [["a", "b", "c", "d"], { a: { b: { c: { d: 5 } } } }, 5],
    [["a.b"], { "a.b": 6, a: { b: 7 } }, 6],
    [["toString"], {}, undefined],
    [["a", "constructor"], { a: {} }, undefined],
    [["a", "constructor"], { a: { constructor: 8 } }, 8],
  ])("of %j finds own properties of objects, and nothing else: %j", (path, context, expected) => {
    expect(readerOf(path)(context as never)).toBe(expected);
  });

  it("is the same for the same path, and another for every other, however many there are", () => {
    const paths = Array.from({ length: 2_500 }, (_, i) => (i % 3 === 0 ? [`p${i}`] : [`p${i % 50}`, `q${i}`]));
    const context: Record<string, unknown> = {};
    for (const [i, [head, next]] of paths.entries()) {
      if (next === undefined) context[head!] ??= i;
      else context[head!] = { ...(typeof context[head!] === "object" ? (context[head!] as object) : {}), [next]: i };
    }
    const wanted = paths.map(([head, next]) => {
      const value = context[head!];
      return next === undefined ? value : (value as Record<string, unknown>)[next];
    });
    expect(paths.map((path) => readerOf(path)(context))).toEqual(wanted);
    expect(readerOf(["p1", "q1"])).toBe(readerOf(["p1", "q1"]));
  });

  it("is not mistaken for that of a path whose keys hold odd characters", () => {
    const context = { a: { b: "two steps" }, "a\u0000b": "one step", "a.b": "dotted" };
    const paths = [["a", "b"], ["a\u0000b"], ["a.b"]];
    expect(paths.map((path) => readerOf(path)(context))).toEqual(["two steps", "one step", "dotted"]);
    expect(paths.reverse().map((path) => readerOf(path)(context))).toEqual(["dotted", "one step", "two steps"]);
  });

  it("asks a getter once", () => {
    let asked = 0;
    const context = {
      get account() {
        asked++;
        return { id: "A-17" };
      },
    };
    expect([readerOf(["account", "id"])(context), asked]).toEqual(["A-17", 1]);
  });

  describe("while Object.prototype has been added to", () => {
    afterEach(() => void Reflect.deleteProperty(Object.prototype, "smuggledKey"));

    it("does not find what stands there", () => {
      Object.defineProperty(Object.prototype, "smuggledKey", { value: "everybody", configurable: true });
      expect(readerOf(["smuggledKey"])({})).toBe(undefined);
      expect(readerOf(["a", "smuggledKey"])({ a: {} })).toBe(undefined);
      expect(readerOf(["a", "smuggledKey"])({ a: { smuggledKey: "own" } })).toBe("own");
    });
  });
});
