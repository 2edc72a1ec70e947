import { expect, it } from "vitest";
import { iudex, iudexAlone } from "../support/command.ts";
import { demoFolder } from "../support/folders.ts";

const production = ["--env", "production", "--at", "2026-12-05T12:00Z", "--flags", demoFolder];

// What the other tests ask is asked in a process that stays.
it.each<[number, string[]]>([
  [0, ["why", "zone-fares", ...production, "--as", "account.id=A-3", "trips=many"]],
  [0, ["list", ...production, "--json"]],
  [0, ["set", "--help"]],
  [1, ["check", "--flags", "nowhere"]],
  [2, ["why", "seat-mp", ...production]],
  [2, ["wy"]],
])("ends with %i, and says the same in a process of its own as in one that stays: %j", async (code, words) => {
  const alone = await iudexAlone({}, ...words);
  expect(alone.code).toBe(code);
  expect(alone.out + alone.err).not.toBe("");
  expect(await iudex(...words)).toEqual(alone);
});
