import { describe, expect, it } from "vitest";
import { FlagSet } from "../../src/core.ts";
import { HarmlessCopy } from "../../src/judge/context/harmless.ts";
import { answerOf, defined } from "../support/definitions.ts";

describe("contexts of every make", () => {
  class Traveller {
    readonly trips = 140;
    readonly account = { id: "A-17" };
    get crew(): boolean {
      return true;
    }
  }

  it("are read by their own properties: instances, objects without a prototype, maps, lists", () => {
    expect(answerOf('trips == 140 and account.id == "A-17"', new Traveller())).toBe("true");
    expect(answerOf("crew is missing", new Traveller())).toBe("true");
    const bare = Object.assign(Object.create(null) as object, {
      crew: true,
      inner: Object.assign(Object.create(null) as object, { deep: { est: 1 } }),
    });
    expect(answerOf("crew and inner.deep.est == 1", bare)).toBe("true");
    expect(answerOf("size is missing", new Map([["size", 1]]))).toBe("true");
    expect(answerOf('["0"] is missing', ["x"])).toBe("true");
    expect(answerOf("inner.length is missing and inner.size is missing", { inner: [1, 2] })).toBe("true");
    expect(answerOf("when.own is missing", { when: Object.assign(new Date(0), { own: 1 }) })).toBe("true");
  });

  it("may hide what they hold behind proxies that answer", () => {
    const proxy = new Proxy({ trips: 140 }, {});
    expect(answerOf("trips == 140", proxy)).toBe("true");
    expect(answerOf("inner.trips == 140", { inner: proxy })).toBe("true");
  });

  it("count what throws as missing, and judge the rest", () => {
    const context = {
      trips: 140,
      get email(): string {
        throw new Error("not now");
      },
      account: new Proxy(
        {},
        {
          getOwnPropertyDescriptor() {
            throw new Error("no");
          },
          get() {
            throw new Error("no");
          },
        },
      ),
    };
    expect(answerOf("email is missing and trips == 140", context)).toBe("true");
    expect(answerOf("account.id is missing and account is present", context)).toBe("true");
    expect(answerOf('email == "x" or trips > 100', context)).toBe("true");
  });

  it("may hold lists that claim any length, or throw when looked into", () => {
    const sparse: unknown[] = [];
    sparse.length = 4_294_967_295;
    const endless = new Proxy([], { get: (_, key) => (key === "length" ? 1e12 : undefined) });
    const throwing = Object.defineProperty(["dog"], 1, {
      enumerable: true,
      get() {
        throw new Error("no");
      },
    });
    const started = performance.now();
    expect(
      answerOf('tags contains "dog"', {
        tags: throwing,
        get other(): never {
          throw new Error("no");
        },
      }),
    ).toBe("true");
    for (const tags of [sparse, endless]) {
      const flags = new FlagSet(defined({ flags: { a: { safe: 0, rules: [{ when: "tags is present", give: 1 }] } } }));
      expect([0, 1]).toContain(flags.value("a", { tags }));
    }
    expect(performance.now() - started).toBeLessThan(5_000);
  });

  it("are not changed by being judged", () => {
    const context = Object.freeze({ account: Object.freeze({ id: "A-17" }), tags: Object.freeze(["a"]) });
    const before = JSON.stringify(context);
    answerOf('account.id == "A-17" and tags contains "a"', context);
    expect(JSON.stringify(context)).toBe(before);
    const bare = Object.create(null) as Record<string, unknown>;
    bare["account"] = Object.create(null);
    new HarmlessCopy(bare).take([["account"], ["account", "id"], ["account", "plan"]]);
    expect(Object.keys(bare["account"] as object)).toEqual([]);
  });
});

describe("a harmless copy", () => {
  it("holds the paths asked for and nothing else, longer ones beside shorter ones", () => {
    const context = { account: { id: "A-17", plan: "foot", secret: 1 }, trips: 3, other: true };
    for (const paths of [
      [["account"], ["account", "id"], ["trips"]],
      [["account", "id"], ["trips"], ["account"]],
    ]) {
      const copy = new HarmlessCopy(context).take(paths);
      expect(Object.keys(copy).sort()).toEqual(["account", "trips"]);
      expect((copy["account"] as { id: string }).id).toBe("A-17");
      expect(copy["trips"]).toBe(3);
    }
  });
});

describe("time", () => {
  it("is asked for once in a question, and only if something depends on it", () => {
    let asked = 0;
    const clock = () => {
      asked++;
      return Date.parse("2026-12-01T12:00Z");
    };
    const set = new FlagSet(
      defined({
        windows: { w: { from: "2026-12-01T00:00Z" }, x: { until: "2026-12-02T00:00Z" } },
        flags: {
          timeless: { safe: 0, rules: [{ when: "trips > 3", give: 1 }] },
          timed: {
            safe: 0,
            by: "id",
            rules: [{ when: "window:w and window:x", share: { rising: ["100% from 2026-12-01T09:00Z"] }, give: 1 }],
          },
        },
      }),
    );
    set.value("timeless", { trips: 5 }, { at: clock });
    expect(asked).toBe(0);
    expect(set.value("timed", { id: "A-17" }, { at: clock })).toBe(1);
    expect(asked).toBe(1);
  });

  it("that nobody tells leaves windows shut and shares at nothing", () => {
    const set = new FlagSet(
      defined({
        windows: { w: { hours: "00:00-24:00", zone: "UTC" } },
        flags: {
          a: {
            safe: 0,
            by: "id",
            rules: [
              { when: "window:w", give: 1 },
              { share: { rising: ["100% from 1970-01-01T00:00Z"] }, give: 2 },
            ],
          },
        },
      }),
    );
    expect(set.value("a", { id: 1 })).toBe(0);
    for (const at of [Number.NaN, Number.POSITIVE_INFINITY, -1e300])
      expect([0, 1, 2]).toContain(set.value("a", { id: 1 }, { at }));
  });
});
