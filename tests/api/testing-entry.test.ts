import { variant } from "iudex";
import {
  assertGives,
  combinations,
  eachVariant,
  flagsFrom,
  flagsFromFolder,
  overrideUntilEnd,
  overriding,
  testClock,
} from "iudex/testing";
import { describe, expect, it, test } from "vitest";
import { coveringRows } from "../../src/testing/combinations.ts";
import { demoFolder } from "../support/folders.ts";

const definitions = {
  windows: { winter: { from: "2026-12-01", until: "2027-03-01", zone: "Atlantic/Faroe" } },
  flags: {
    storm: { safe: false },
    timetable: { safe: false, provided: "window:winter", otherwise: true },
    seats: { variants: { list: 1, deck: 2, tour: 3 }, safe: "list" },
    minutes: { safe: 15, rules: [{ when: "freight", give: 120 }] },
  },
};

describe("flags without files", () => {
  it("stand on definitions, and a clock that is set and advanced", () => {
    const clock = testClock("2026-11-30T23:59:59Z");
    const flags = flagsFrom(definitions, { clock });
    expect(flags.value("timetable")).toBe(false);
    clock.advance(1_000);
    expect(flags.value("timetable")).toBe(true);
    clock.set(new Date("2027-03-01T00:00Z"));
    expect(flags.value("timetable")).toBe(false);
    expect(() => testClock("noon")).toThrow("noon is not an instant");
  });

  it("say what is wrong with definitions, and are strict about names", () => {
    expect(() => flagsFrom({ flags: { a: { safe: 1, otherwise: true } } })).toThrow(
      "/flags/a/otherwise: The flag is a number",
    );
    expect(() => flagsFrom(definitions).value("strom")).toThrow("did you mean storm?");
  });

  it("come from a folder, without a watcher", async () => {
    const flags = await flagsFromFolder(demoFolder, { environment: "production" });
    expect(flags.value("hold-minutes")).toBe(15);
    await flags.close();
  });
});

describe("overrides undo themselves", () => {
  const flags = flagsFrom(definitions);
  test.sequential("at the end of a test", (t) => {
    overrideUntilEnd(t, flags, { storm: true, seats: variant("deck") });
    expect([flags.value("storm"), flags.value("seats")]).toEqual([true, 2]);
  });
  test.sequential("so that the next one sees nothing of them", () => {
    expect([flags.value("storm"), flags.value("seats")]).toEqual([false, 1]);
  });

  const parallel = [10, 20, 30].map((n) =>
    overriding(flags, { minutes: n }, async () => {
      for (let i = 0; i < 20; i++) {
        await new Promise((resolve) => setTimeout(resolve, i % 3));
        if (flags.value("minutes") !== n) throw new Error("an override leaked");
      }
      return n;
    }),
  );
  test("and do not meet in tests that run at the same time", async () => {
    expect(await Promise.all(parallel.map((work) => work()))).toEqual([10, 20, 30]);
    expect(flags.value("minutes")).toBe(15);
  });

  test("also in node:test", async () => {
    const { execFileSync } = await import("node:child_process");
    const script = `import test from "node:test"; import assert from "node:assert"; import { flagsFrom, overrideUntilEnd } from "iudex/testing";
      const flags = flagsFrom({ flags: { storm: { safe: false } } });
      test("on", (t) => { overrideUntilEnd(t, flags, { storm: true }); assert.equal(flags.value("storm"), true); });
      test("off", () => assert.equal(flags.value("storm"), false));`;
    const out = execFileSync(process.execPath, ["--test-reporter=tap", "--input-type=module", "-e", script], {
      encoding: "utf8",
    });
    expect(out).toContain("# pass 2");
    expect(out).toContain("# fail 0");
  });
});

describe("both paths", () => {
  it("are run by eachVariant, a yes-no both ways", async () => {
    const flags = flagsFrom(definitions);
    const seen: unknown[] = [];
    await eachVariant(flags, "seats", (name) => seen.push([name, flags.value("seats")]));
    await eachVariant(flags, "storm", async (value) => seen.push([value, flags.value("storm")]));
    await eachVariant(flags, "minutes", (value) => seen.push([value, flags.value("minutes")]));
    expect(seen).toEqual([
      ["list", 1],
      ["deck", 2],
      ["tour", 3],
      [false, false],
      [true, true],
      [15, 15],
      [120, 120],
    ]);
  });

  it("and every pair of values by a small set of combinations", async () => {
    const flags = flagsFrom(definitions);
    const names = ["storm", "timetable", "seats", "minutes"] as const;
    const rows = combinations(flags, names);
    const seen = await Promise.all(
      rows.map((row) => flags.withOverrides(row, async () => names.map((name) => flags.value(name)))),
    );
    for (const [i, a] of names.entries()) {
      for (const [j, b] of names.entries()) {
        if (i >= j) continue;
        const wanted = flags.possible(a).values.length * flags.possible(b).values.length;
        expect(new Set(seen.map((values) => `${values[i]} ${values[j]}`)).size, `${a} and ${b}`).toBe(wanted);
      }
    }
    expect(rows.length).toBeLessThan(2 * 2 * 3 * 2);
  });

  it.each([
    [[2, 2, 2, 2, 2, 2, 2, 2, 2, 2], 2, 12],
    [[3, 3, 3, 3], 2, 15],
    [[2, 3, 4], 3, 24],
    [[5], 2, 5],
  ])("of sizes %j, strength %d, there are at most %d", (sizes, strength, most) => {
    const rows = coveringRows(sizes, Math.min(strength, sizes.length));
    expect(rows.length).toBeLessThanOrEqual(most);
    expect(rows.every((row) => row.every((value, i) => value >= 0 && value < sizes[i]!))).toBe(true);
  });
});

it("an assertion that fails shows the explanation", () => {
  const flags = flagsFrom(definitions);
  assertGives(flags, "minutes", { freight: true }, 120);
  expect(() => assertGives(flags, "minutes", { freight: "yes" }, 120)).toThrow(
    /Expected minutes to give 120, but it gives 15\.[\s\S]*undecided: freight is a text/,
  );
});
