// A flag that is renamed, copied or removed: nobody gets anything else by it, and nothing names what is not there.
import { mkdir, readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import fc from "fast-check";
import type { Definitions } from "iudex/core";
import { type Change, EditSession, loadFolder, makeChange, NothingToChange } from "iudex/tools";
import { expect, it } from "vitest";
import { stringify } from "yaml";
import { FlagSet } from "../../src/core.ts";
import { iudex } from "../support/command.ts";
import { folderWith } from "../support/folders.ts";
import { anyContext } from "../support/generated.ts";
import { anySet, definitionsOf, environments, instant } from "../support/random-sets.ts";

async function changed(work: EditSession, change: Change): Promise<EditSession> {
  const next = await work.with(await makeChange(change, work));
  expect(next.loaded.problems.filter(({ severity }) => severity === "error")).toEqual([]);
  return next;
}

const asks = (definitions: Definitions, environment: string) => new FlagSet(definitions as never, environment);

it("gives everybody the verdict of before, in every flag and environment, at every instant", async () => {
  const people = fc.array(fc.tuple(anyContext, instant), { minLength: 20, maxLength: 20 });
  let comparisons = 0;
  await fc.assert(
    fc.asyncProperty(anySet, people, fc.boolean(), fc.boolean(), async (set, asked, isJson, isStopped) => {
      const data = definitionsOf(set) as { environments: object };
      const passes = { ...data, environments: { ...data.environments, staging: { passes: ["second", "first"] } } };
      const folder = await folderWith({
        ...(isJson ? { "a.json": JSON.stringify(passes, undefined, 2) } : { "a.yaml": stringify(passes) }),
        ...(isStopped
          ? { "suspended.yaml": "iudex: 1\nsuspended:\n  first: { in: [staging] } # the boats stay\n" }
          : {}),
      });
      const before = EditSession.of(await loadFolder(folder));
      const renamed = await changed(before, { change: "rename", flag: "first", to: "primus" });
      const copied = await changed(renamed, { change: "copy", flag: "primus", to: "alter" });
      const [was, is] = [before.loaded.definitions!, copied.loaded.definitions!];
      expect(is.environments.get("staging")!.source).toMatchObject({ passes: ["second", "primus"] });
      expect([...is.flags.keys()].sort()).toEqual(["alter", "primus", "second"]);
      for (const environment of environments) {
        const [old, now] = [asks(was, environment), asks(is, environment)];
        for (const [context, at] of asked) {
          for (const [from, to] of [
            ["first", "primus"],
            ["second", "second"],
          ] as const) {
            const { value, cause, rule } = old.verdict(from, context, { at })!;
            expect(now.verdict(to, context, { at })).toMatchObject({
              value,
              cause,
              ...(rule === undefined ? {} : { rule }),
            });
            comparisons++;
          }
          // A stop is not copied.
          if (!isStopped || environment !== "staging")
            expect(now.value("alter", context, { at })).toEqual(now.value("primus", context, { at }));
        }
      }
      if (isStopped)
        expect(copied.texts.get("suspended.yaml")).toContain("  primus: { in: [staging] } # the boats stay");
    }),
    { numRuns: 100 },
  );
  expect(comparisons).toBe(100 * 2 * 20 * 2);
});

const text = `iudex: 1
environments: { production: { passes: [a] } }
attributes: { id: text }
cohorts: { calm: { when: not flag:a } }
flags:
  # What it is for.
  a: { safe: false, by: id, rules: [{ share: 10%, give: true }] }
  b: { safe: 1, by: id, rules: [{ name: twice, when: 'flag:a and id == "flag:a"', give: 2 }, { name: twice, give: 3 }] }
`;

it("follows the name and nothing that only looks like it", async () => {
  const work = EditSession.of(await loadFolder(await folderWith({ "a.yaml": text })));
  const after = await changed(work, { change: "rename", flag: "a", to: "c" });
  expect(after.texts.get("a.yaml")).toBe(
    text
      .replace("[a]", "[c]")
      .replace("not flag:a", "not flag:c")
      .replace("  a: { safe: false, by: id,", "  c: { safe: false, by: id, salt: a,")
      .replace("flag:a and", "flag:c and"),
  );
});

it("is removed only when nothing names it, and what does is said, in the code too", async () => {
  const folder = await folderWith({ "a.yaml": text, "suspended.yaml": "iudex: 1\nsuspended: { a: {} }\n" });
  const set = (...words: string[]) => iudex("set", ...words, "--yes", "--flags", folder);
  expect(await set("a", "--remove-flag")).toMatchObject({
    code: 2,
    err: "a cannot be removed: b (rule 1 “twice”), cohort:calm (when), the passes of production and suspended.yaml name it.\nchange these first\n",
  });
  const code = join(folder, "../code");
  await mkdir(code);
  await writeFile(join(code, "page.ts"), '// b\nif (flags.value("b") === 2) open();\n');
  const removed = await set("b", "--remove-flag", "--code", code);
  expect(removed).toMatchObject({ code: 0 });
  expect(removed.out).toContain("The code names b, and gets its fallback then:\n  page.ts:2:17\n");
  expect(await readFile(join(folder, "a.yaml"), "utf8")).not.toContain("  b:");
});

it.each<[string, string[], number, string]>([
  [
    "a rule whose name stands twice",
    ["b", "--rule", "twice", "--give", "4"],
    2,
    "“twice” is the name of 2 rules: 1 and 2.\nwrite the number: --rule 1 or 2\n",
  ],
  [
    "a second rule of a name",
    ["b", "--new-rule", "twice", "--give", "4"],
    2,
    "Rule 1 is called “twice” already.\nchoose another name, or set that rule with --rule\n",
  ],
  [
    "a place that is not a number",
    ["b", "--rule", "2", "--place", "x"],
    2,
    "“x” is not a number from 1.\nwrite --place 2\n",
  ],
  [
    "an example that is not a number",
    ["b", "--drop-example", "x"],
    2,
    "“x” is not a number from 1.\nwrite --drop-example 2\n",
  ],
  ["an example that is not there", ["b", "--drop-example", "3"], 2, "b has no example 3.\nit has no examples\n"],
  ["a name that is taken", ["b", "--rename", "a"], 2, "There is a flag “a” already, in a.yaml.\nchoose another name\n"],
  [
    "two changes at once",
    ["b", "--rename", "c", "--safe", "2"],
    2,
    "--safe does not go with --rename.\nmake one change after the other\n",
  ],
  ["what is so already", ["b", "--safe", "1"], 0, "The files say so already.\n"],
])("refuses %s", async (_, words, code, said) => {
  const folder = await folderWith({ "a.yaml": text });
  const { code: ended, out, err } = await iudex("set", ...words, "--yes", "--flags", folder);
  expect([ended, out + err]).toEqual([code, said]);
  expect(await readFile(join(folder, "a.yaml"), "utf8")).toBe(text);
});

it("an example stands once", async () => {
  const work = EditSession.of(await loadFolder(await folderWith({ "a.yaml": text })));
  const example: Change = { change: "example", flag: "b", as: { id: "A-1" }, gives: "3" };
  const once = await changed(work, example);
  const twice = makeChange(example, once);
  await expect(twice).rejects.toThrow(NothingToChange);
  await expect(twice).rejects.toThrow("Example 1 of b says so already.");
});
