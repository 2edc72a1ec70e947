import { followFlags } from "iudex";
import { describe, expect, it } from "vitest";
import { iudex } from "../support/command.ts";
import { folderWith } from "../support/folders.ts";

const flags = (text: string) => folderWith({ "a.yaml": `iudex: 1\n${text}` });

describe("what somebody meant", () => {
  it("is a flag, where a single word is like the name of one, and not a condition", async () => {
    const folder = await flags("flags: { new-checkout: { safe: false } }\n");
    const { code, out, err } = await iudex("why", "new-chekout", "--flags", folder);
    expect([code, out, err]).toEqual([2, "", expect.stringContaining("did you mean new-checkout?")]);
    const other = await iudex("why", "trips > 3", "--as", "trips=5", "--flags", folder);
    expect([other.code, other.out]).toEqual([0, expect.stringContaining("true")]);
  });

  it.each([
    ["flags: { x: { safe: 1, split: [1 a] } }", /a split belongs to a rule: rules: \[\{ split: \[…\] \}\]/, 1],
    ["flags: { x: { safe: 1, rules: [{ when: plan == pro, give: 2 }] } }", /write "pro" if the text is meant/, 1],
    ["windows: { w: { hours: 'Mon-Fr 09:00-17:00', zone: UTC } }", /write Mo-Fr 09:00-17:00: days have two letters/, 1],
    ["defaults: { zone: Nowhere/Land }\nflags: { x: { safe: 1 } }", /There is no time zone “Nowhere\/Land”/, 1],
  ])("is said by a hint, and by one error: %s", async (text, hint, errors) => {
    const { code, out } = await iudex("check", "--flags", await flags(`${text}\n`));
    expect([code, out]).toEqual([1, expect.stringMatching(hint)]);
    expect(out).toContain(`${errors} error`);
  });

  it("is a folder that is not there, without a place in it", async () => {
    const { code, out } = await iudex("check", "--flags", "nowhere");
    expect([code, out.split("\n")[0]]).toEqual([1, "nowhere  error  folder-missing"]);
    expect(out).not.toContain("nowhere/nowhere");
  });

  it("is told in whole sentences also where there is none of what is asked for", async () => {
    const folder = await flags("flags: { a: { safe: false } }\n");
    for (const words of [
      ["why", "b"],
      ["list", "cohorts"],
      ["list", "windows"],
      ["census", "b", "--people", "x.csv"],
      ["set", "b", "--safe", "true"],
    ]) {
      const { out, err } = await iudex(...words, "--flags", folder);
      expect(`${out}${err}`).not.toMatch(/there are\s*(?:\.|$)|: *\.$|undefined/im);
    }
  });
});

it("a symbol, an object or nothing is asked for like any unknown flag", async () => {
  const set = await followFlags(await flags("flags: { a: { safe: 1 } }\n"), { watch: false });
  for (const name of [Symbol("x"), {}, undefined, 7] as never[]) {
    expect(set.value(name)).toBeUndefined();
    expect(set.verdict(name)).toMatchObject({ cause: "fallback", problem: "unknown-flag" });
  }
  await set.close();
});
