import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import fc from "fast-check";
import { readDefinitions } from "iudex/core";
import { loadFolder } from "iudex/tools";
import { expect, it } from "vitest";
import { fromParts, inParts } from "../../src/files/parse/parts.ts";
import { folderWith } from "../support/folders.ts";
import { runs } from "../support/runs.ts";

/** Everything of a generator. */
function whole<T>(steps: Generator<unknown, T>): { readonly value: T; readonly pauses: number } {
  for (let pauses = 0; ; pauses++) {
    const { done, value } = steps.next();
    if (done) return { value: value as T, pauses };
  }
}

const values = fc.letrec((tie) => ({
  value: fc.oneof(
    { maxDepth: 4 },
    fc.oneof(fc.string(), fc.double({ noNaN: true }), fc.boolean(), fc.constant(null)),
    fc.array(tie("value"), { maxLength: 6 }),
    fc.dictionary(fc.oneof(fc.string(), fc.constant("__proto__"), fc.constant("7")), tie("value"), { maxKeys: 6 }),
  ),
})).value;

/** Data that is large in one place or another: many members, long lists, one inside the other. */
const large = fc
  .record({ inner: values, members: fc.integer({ min: 0, max: 4_500 }), items: fc.integer({ min: 0, max: 4_500 }) })
  .map(({ inner, members, items }) => ({
    iudex: 1,
    flags: Object.fromEntries(Array.from({ length: members }, (_, i) => [i % 997 ? `f-${i}` : "__proto__", inner])),
    cohorts: { many: { ids: Array.from({ length: items }, (_, i) => `A-${i}`), inner }, inner },
    ["__proto__" as string]: inner,
  }));

it("what a thread has read is taken over in parts, and is the same", () => {
  fc.assert(
    fc.property(fc.oneof(values, large), fc.integer({ min: 0, max: 5_000 }), (data, spelled) => {
      const spellings = new Map(Array.from({ length: spelled }, (_, i) => [`/flags/f-${i}/safe`, `0x${i}`]));
      const range = { start: 1, end: 2 };
      const faults = [{ code: "yaml-syntax", message: "…", expected: "…", range }] as const;
      const parted = inParts({ data, spellings, faults });
      const { value, pauses } = whole(fromParts(parted));
      expect(value).toEqual({ data, spellings, faults });
      // The order of keys counts, and so does whose they are.
      expect(JSON.stringify(value.data)).toBe(JSON.stringify(data));
      expect(pauses).toBe(parted.parts.length);
      for (const part of parted.parts) expect(part.length).toBeLessThan(150_000);
    }),
    { numRuns: runs(30) },
  );
});

const problemsOf = (problems: readonly { readonly code: string; readonly message: string }[]) =>
  problems.map(({ code, message }) => `${code}: ${message}`).sort();

// JSON is YAML too.
it.each(["json", "yaml"])("a large file in %s means what it means in pieces, its faults included", async (ending) => {
  const file = `a.${ending}`;
  const flag = (i: number) => ({ safe: i, rules: [{ when: `trips > ${i}`, give: 1 }] });
  const entries = Array.from({ length: 3_000 }, (_, i): [string, object] => [`flag-${i}`, flag(i)]);
  const sound = {
    iudex: 1,
    flags: Object.fromEntries(entries),
    windows: { w: { hours: "Mo-Fr 07:00-19:00", zone: "UTC" } },
  };
  const folder = await folderWith({ [file]: JSON.stringify(sound) });
  const { definitions, problems } = await loadFolder(folder);
  expect(problemsOf(problems)).toEqual(problemsOf(readDefinitions([{ file, data: sound }]).problems));
  expect([...(definitions?.flags.keys() ?? [])]).toEqual(entries.map(([name]) => name));

  entries[40] = ["no name!", flag(40)];
  entries[1_007] = ["flag-1007", { safe: 0, rules: "none" }];
  const broken = {
    ...sound,
    flags: Object.fromEntries(entries),
    windows: { w: { houses: "Mo" } },
    cohorts: { c: { when: 7 } },
  };
  await writeFile(join(folder, file), JSON.stringify(broken));
  const refused = await loadFolder(folder);
  expect(refused.definitions).toBeUndefined();
  expect(problemsOf(refused.problems)).toEqual(problemsOf(readDefinitions([{ file, data: broken }]).problems));
  const codes = refused.problems.map(({ code }) => code);
  expect(codes).toEqual(expect.arrayContaining(["name-invalid", "unknown-key", "wrong-type"]));
});
