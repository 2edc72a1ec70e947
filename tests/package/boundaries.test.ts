import { spawnSync } from "node:child_process";
import { readdir, readFile } from "node:fs/promises";
import { join } from "node:path";
import { expect, it } from "vitest";
import { roomRules } from "../../scripts/rooms.mjs";
import { folderWith, projectRoot } from "../support/folders.ts";

const against = {
  "src/judge/a.ts": 'export { load } from "../files/index.ts";',
  "src/judge/b.ts": 'export type { Flags } from "../flags/index.ts";',
  "src/values/c.ts": 'export { readFile } from "node:fs";',
  "src/values/d.ts": 'export { problem } from "../problems/index.ts";',
  "src/model/e.ts": 'export { Outcome } from "../judge/index.ts";',
  "src/judge/f.ts": 'export type { Explanation } from "../insight/index.ts";',
  "src/checks/g.ts": 'export { Census } from "../insight/index.ts";',
  "src/files/h.ts": 'export { followFlags } from "../flags/index.ts";',
  "src/flags/i.ts": 'export { run } from "../cli/program.ts";',
  "src/flags/j.ts": 'export { gate } from "../http/index.ts";',
  "src/study/k.ts": 'export { followFlags } from "../flags/index.ts";',
  "src/flags/l.ts": 'export { takeCensus } from "../study/index.ts";',
  "src/http/m.ts": 'export { run } from "../cli/program.ts";',
  // Not by the door.
  "src/judge/n.ts": 'export { limits } from "../values/limits.ts";',
  "src/insight/explain/o.ts": 'export { Outcome } from "../../judge/outcome.ts";',
  "src/core.ts": 'export { Outcome } from "./judge/outcome.ts";',
  // From above the rooms.
  "src/flags/p.ts": 'export type { Verdict } from "../core.ts";',
  "src/insight/explain/q.ts": 'export type { Verdict } from "../../index.ts";',
};

const along = {
  "src/judge/r.ts": 'export { limits } from "../values/index.ts";',
  "src/files/s.ts": 'export { limits } from "../values/index.ts";',
  "src/insight/explain/t.ts": 'export { Outcome } from "../../judge/index.ts";',
  "src/insight/explain/u.ts": 'export { change } from "../change/compare.ts";',
  "src/cli/v.ts": 'export { takeCensus } from "../study/index.ts";',
  "src/study/w.ts": 'export { load } from "../files/index.ts";',
  "src/cli/x.ts": 'export { followFlags } from "../flags/index.ts";',
  "src/http.ts": 'export { gate } from "./http/index.ts";',
};

const circle = {
  "src/values/one.ts": 'import type { Two } from "./two.ts";\nexport interface One {\n  readonly two: Two;\n}',
  "src/values/two.ts": 'import type { One } from "./one.ts";\nexport interface Two {\n  readonly one: One;\n}',
};

async function refusedBy(rule: string, files: Readonly<Record<string, string>>): Promise<string[]> {
  const config = JSON.parse(await readFile(join(projectRoot, "biome.json"), "utf8")) as { vcs: object };
  const folder = await folderWith({ ...files, "biome.json": JSON.stringify({ ...config, vcs: { enabled: false } }) });
  const biome = join(projectRoot, "node_modules/.bin/biome");
  const ran = spawnSync(biome, ["lint", "--reporter=github", "--max-diagnostics=100", "."], {
    cwd: folder,
    encoding: "utf8",
  });
  const places = [...ran.stdout.matchAll(new RegExp(`${rule},file=([^,]+)`, "g"))].map(([, file]) => file!);
  return [...new Set(places.map((file) => file.slice(file.indexOf("src/"))))].sort();
}

it("refuses imports that run against the arrows or past a door, and lets the others pass", async () => {
  expect(await refusedBy("noRestrictedImports", { ...against, ...along })).toEqual(Object.keys(against).sort());
});

it("refuses circles, of types too", async () => {
  expect(await refusedBy("noImportCycles", circle)).toEqual(Object.keys(circle));
});

it("the lint configuration holds every room's rule, as the table has it", async () => {
  const { overrides } = JSON.parse(await readFile(join(projectRoot, "biome.json"), "utf8")) as { overrides: object[] };
  expect(overrides).toEqual(expect.arrayContaining(roomRules()));
});

it("keeps files to 400 lines", async () => {
  const files = (await readdir(join(projectRoot, "src"), { recursive: true })).filter((file) => file.endsWith(".ts"));
  const sizes = await Promise.all(
    files.map(async (file) => ({
      file,
      lines: (await readFile(join(projectRoot, "src", file), "utf8")).split("\n").length - 1,
    })),
  );
  expect(sizes.filter(({ lines }) => lines > 400)).toEqual([]);
});

/** The files that importing one of dist loads: what it imports statically, and what those do. */
async function loadedBy(file: string, seen = new Map<string, string>()): Promise<ReadonlyMap<string, string>> {
  if (seen.has(file)) return seen;
  const text = await readFile(file, "utf8");
  seen.set(file, text);
  for (const [, from] of text.matchAll(/^(?:import|export)\b[^;]*?["'](\.[^"']+)["'];?$/gm))
    await loadedBy(join(file, "..", from!), seen);
  return seen;
}

it.each(["index", "fleet", "http", "testing"])("importing iudex/%s does not load the reader of YAML", async (entry) => {
  const loaded = await loadedBy(join(projectRoot, "dist", `${entry}.js`));
  expect(loaded.size).toBeGreaterThan(1);
  const readers = [...loaded].filter(([, text]) => text.includes("YAMLParseError")).map(([file]) => file);
  expect(readers).toEqual([]);
  // It is in what is loaded when a file in YAML is met, so that this test looks for the right thing.
  const tools = await loadedBy(join(projectRoot, "dist", "tools.js"));
  expect([...tools.values()].some((text) => text.includes("YAMLParseError"))).toBe(true);
});
