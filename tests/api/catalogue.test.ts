import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { data, defineCatalogue, type FlagsOptions, followFlags, number, text, yesNo } from "iudex";
import * as v from "valibot";
import { describe, expect, it, onTestFinished } from "vitest";
import { z } from "zod";
import { folderWith } from "../support/folders.ts";
import { collected, next } from "../support/waiting.ts";

const set = `iudex: 1
flags:
  storm: { safe: false }
  seats: { variants: { list: list, deck: deck-plan }, safe: list, rules: [{ when: x, give: deck }] }
  minutes: { safe: 15, rules: [{ when: x, give: 45 }] }
  check-in: { safe: { lanes: 1 }, otherwise: { lanes: "3", open: true } }
`;

const schemas = {
  zod: z.object({ lanes: z.coerce.number(), open: z.boolean().default(false) }),
  valibot: v.object({
    lanes: v.pipe(v.union([v.string(), v.number()]), v.transform(Number)),
    open: v.optional(v.boolean(), false),
  }),
};

const catalogue = defineCatalogue({
  storm: yesNo({ fallback: true }),
  seats: text(["list", "deck-plan"], { fallback: "list" }),
  minutes: number({ fallback: 5 }),
  "check-in": data(schemas.zod, { fallback: { lanes: 0, open: false } }),
});

async function opened<C>(options: FlagsOptions<C>, yaml = set) {
  const folder = await folderWith({ "a.yaml": yaml });
  const flags = await followFlags<C>(folder, { overrides: "", ...options });
  onTestFinished(() => flags.close());
  return { folder, flags };
}

describe("a catalogue", () => {
  it("types values literally, and hands a page its values", async () => {
    const { flags } = await opened({ catalogue });
    const seats: "list" | "deck-plan" = flags.value("seats", { x: true });
    const minutes: number = flags.value("minutes", {});
    expect([seats, minutes]).toEqual(["deck-plan", 15]);
    expect(flags.values({})).toEqual({
      storm: false,
      seats: "list",
      minutes: 15,
      "check-in": { lanes: 3, open: true },
    });
  });

  it.each(Object.entries(schemas))("checks and converts data by a schema of %s", async (_, schema) => {
    const entry = data(schema as typeof schemas.zod, { fallback: { lanes: 0, open: false } });
    const { flags } = await opened({ catalogue: defineCatalogue({ "check-in": entry }) });
    expect(flags.value("check-in")).toEqual({ lanes: 3, open: true });
    expect(flags.verdict("check-in").value).toBe(flags.value("check-in"));
  });

  it.each<[string, string, string]>([
    [
      "a missing flag",
      set.replace("storm:", "strom:"),
      "The catalogue names “storm”, but no file defines it; did you mean strom?",
    ],
    [
      "another type",
      set.replace("safe: 15", "safe: long").replace("45", "longer"),
      "says that “minutes” is number, but it is text in a.yaml (flags.minutes)",
    ],
    [
      "a text that is not listed",
      set.replace("deck: deck-plan", "deck: tour"),
      '“seats” can give "tour" in a.yaml (flags.seats), which the catalogue does not take: it lists list and deck-plan',
    ],
    ["data that its schema refuses", set.replace('"3"', "many"), "lanes: "],
  ])("is held against the set, and refuses one that does not keep it when strict: %s", async (_, yaml, message) => {
    await expect(opened({ catalogue, strict: true }, yaml)).rejects.toThrow(message);
    // A process that starts again goes on as one that was running: only a strict one refuses.
    const { flags } = await opened({ catalogue }, yaml);
    const problems = collected(flags, "problem");
    await expect.poll(() => problems.map((problem) => problem.message)).toEqual([expect.stringContaining(message)]);
  });

  it("gives the fallback of one flag that stops fitting, reports it, and takes the rest of the change", async () => {
    const { folder, flags } = await opened({ catalogue });
    const problems = collected(flags, "problem");
    const changed = next(flags, "change");
    await writeFile(
      join(folder, "a.yaml"),
      set.replace("storm: { safe: false }", "other: { safe: 1 }").replace("safe: 15", "safe: 20"),
    );
    await changed;
    expect(flags.verdict("storm")).toMatchObject({ value: true, cause: "fallback", problem: "unknown-flag" });
    expect(flags.pin({}).value("storm")).toBe(true);
    expect(flags.value("minutes")).toBe(20);
    expect(problems.map((p) => p.message)).toEqual([expect.stringContaining("The catalogue names “storm”")]);
  });

  it("holds overrides to the same rules", async () => {
    const { flags } = await opened({ catalogue, overrides: 'check-in={"lanes":"x"}' });
    const problems = collected(flags, "problem");
    expect(flags.value("check-in").lanes).toBe(3);
    const block = flags.override({ "check-in": { lanes: 9, open: false } });
    expect(flags.value("check-in").lanes).toBe(9);
    block.undo();
    expect(problems).toEqual([]);
  });

  it("refuses schemas that answer later", async () => {
    const later = z.object({ lanes: z.any() }).refine(async () => true);
    const entry = data(later, { fallback: { lanes: 0 } });
    const asking = opened({ catalogue: defineCatalogue({ "check-in": entry }), strict: true });
    await expect(asking).rejects.toThrow("must answer at once");
  });
});

describe("without a catalogue", () => {
  it("an unknown flag throws when strict", async () => {
    const { flags } = await opened({ strict: true });
    expect(() => flags.value("strom")).toThrow("There is no flag “strom”; did you mean storm?");
  });
});
