import { rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import fc from "fast-check";
import { followFlags } from "iudex";
import { expect, it, onTestFinished } from "vitest";
import { loadFolder } from "../../src/files/load.ts";
import { settleRevision } from "../../src/files/revision.ts";
import { folderWith, put } from "../support/folders.ts";
import { runs } from "../support/runs.ts";
import { next, sleep } from "../support/waiting.ts";

// Whatever a reading takes over from the one before, it must come to what a first reading would.

const names = ["a", "b", "m", "y", "z"];

const anyFlag = fc.constantFrom(
  "{ safe: 1 }",
  "{ safe: 2, otherwise: 3 }",
  "{ safe: 1, rules: [{ when: trips > 3, give: 2 }] }",
  '{ safe: 1, provided: "cohort:crew" }',
  '{ safe: 1, rules: [{ when: "flag:z == 1 and window:winter", give: 2 }] }',
  "{ safe: 1, environments: { staging: { otherwise: 4 } } }",
  "{ safe: true, otherwise: 1 }",
  "{ safe: 5, schema: { file: small.json } }",
  "{ safe: 1, by: trips, rules: [{ share: 10%, give: 2 }] }",
);
const anyFlags = fc
  .uniqueArray(fc.tuple(fc.constantFrom(...names), anyFlag), { selector: ([name]) => name, maxLength: 3 })
  .map((flags) => `flags: { ${flags.map(([name, flag]) => `${name}: ${flag}`).join(", ")} }`);
const anyPart = fc.oneof(
  { weight: 4, arbitrary: anyFlags },
  fc.constantFrom(
    "cohorts: { crew: { when: plan == 'foot' } }",
    "cohorts: { crew: { of: id, ids: [A-1] } }",
    "cohorts: { crew: { of: id, file: ids.txt }, more: { when: 'flag:a == 1' } }",
    "attributes: { trips: number, plan: [foot, vehicle] }",
    "attributes: { trips: text }",
    "environments: { staging: {}, production: {} }",
    "windows: { winter: { from: 2026-12-01, until: 2027-03-01, zone: UTC } }",
    "defaults: { by: account.id }",
    "flags: [",
  ),
);
const written = (file: string, text: fc.Arbitrary<string>) =>
  fc.record({ file: fc.constant(file), text: fc.option(text, { nil: undefined, freq: 4 }) });
/** A file that is written anew, or goes. */
const anyStep = fc.oneof(
  ...["1.yaml", "2.yaml", "3.yaml", "4.yaml"].map((file) =>
    written(
      file,
      anyPart.map((part) => `iudex: 1\n${part}\n`),
    ),
  ),
  written(
    "suspended.yaml",
    fc.constantFrom("iudex: 1\nsuspended: { a: {} }\n", "iudex: 1\nsuspended: { z: { in: [staging] } }\n"),
  ),
  written("ids.txt", fc.constantFrom("A-1\n", "A-2\nA-3\n", "")),
  written("small.json", fc.constantFrom('{ "maximum": 3 }', '{ "maximum": 9 }', "{")),
);

async function make(folder: string, { file, text }: { file: string; text: string | undefined }): Promise<void> {
  if (text === undefined) await rm(join(folder, file), { force: true });
  else await writeFile(join(folder, file), text);
}

it("a folder that was read before is read as if it never had been, whatever changes", async () => {
  let [readings, usable] = [0, 0];
  await fc.assert(
    fc.asyncProperty(fc.array(fc.array(anyStep, { minLength: 1, maxLength: 2 }), { maxLength: 8 }), async (steps) => {
      const folder = await folderWith({ "0.yaml": "iudex: 1\nflags: { always: { safe: 0 } }\n" });
      let { content } = await loadFolder(folder);
      for (const changes of steps) {
        for (const change of changes) await make(folder, change);
        const again = await loadFolder(folder, content);
        const anew = await loadFolder(folder);
        content = again.content;
        readings++;
        expect(again.problems).toEqual(anew.problems);
        expect([...(again.definitions?.flags.keys() ?? [])]).toEqual([...(anew.definitions?.flags.keys() ?? [])]);
        if (!again.definitions) continue;
        usable++;
        await settleRevision(again.definitions, content.tools.memory);
        expect(again.definitions.revision).toBe(anew.definitions!.revision);
      }
      await rm(join(folder, ".."), { recursive: true, force: true });
    }),
    { numRuns: runs(Number(process.env["IUDEX_RUNS"] ?? 100)) },
  );
  // Neither are all of them broken, nor is none.
  expect(usable / readings).toBeGreaterThan(0.1);
  expect(usable / readings).toBeLessThan(0.9);
});

it("what is in force is what the files said last, as long as they said it soundly", async () => {
  const definitions = fc.array(anyStep, { minLength: 1, maxLength: 3 });
  await fc.assert(
    fc.asyncProperty(fc.array(definitions, { minLength: 1, maxLength: 6 }), async (steps) => {
      const folder = await folderWith({ "0.yaml": "iudex: 1\nenvironments: { staging: {}, production: {} }\n" });
      // Long enough that the changes of one step are one, on a busy machine too.
      const flags = await followFlags(folder, { environment: "staging", watch: { quiet: 80 } });
      let sound = flags.revision;
      for (const changes of steps) {
        for (const change of changes.filter(({ file }) => file !== "suspended.yaml")) await make(folder, change);
        const refused = next(flags, "rejected");
        const { definitions } = await loadFolder(folder);
        sound = definitions?.revision ?? sound;
        if (definitions) await expect.poll(() => flags.revision, { interval: 5 }).toBe(sound);
        else await Promise.race([refused, sleep(400)]);
        expect(flags.revision).toBe(sound);
      }
      await flags.close();
      await rm(join(folder, ".."), { recursive: true, force: true });
    }),
    { numRuns: runs(Number(process.env["IUDEX_RUNS"] ?? 20)), endOnFailure: true },
  );
});

it.each(["a-first", "z-last"])("a flag that comes and goes again is a change each time: %s", async (name) => {
  const folder = await folderWith({ "m.yaml": "iudex: 1\nflags: { m: { safe: 1 }, n: { safe: 1 } }\n" });
  const flags = await followFlags(folder, { watch: { quiet: 20 } });
  onTestFinished(() => flags.close());
  const { revision } = flags;
  const came = next(flags, "change");
  await put(folder, "more.yaml", `iudex: 1\nflags: { ${name}: { safe: 2 } }\n`);
  expect(await came).toMatchObject({ from: revision, changes: [{ name }] });
  expect((await loadFolder(folder)).definitions?.revision).toBe(flags.revision);
  const went = next(flags, "change");
  await rm(join(folder, "more.yaml"));
  expect(await went).toMatchObject({ to: revision, changes: [{ name }] });
});
