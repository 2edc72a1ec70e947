import { spawnSync } from "node:child_process";
import { readFile } from "node:fs/promises";
import { join } from "node:path";
import { expect, it } from "vitest";
import { roomRules } from "../../scripts/rooms.mjs";
import { folderWith, projectRoot } from "../support/folders.ts";

const against = {
  "src/judge/a.ts": 'export { load } from "../folder/load.ts";',
  "src/judge/b.ts": 'export type { Flags } from "../runtime/flags.ts";',
  "src/values/c.ts": 'export { readFile } from "node:fs";',
  "src/values/d.ts": 'export { problem } from "../problems/problem.ts";',
  "src/model/e.ts": 'export { Outcome } from "../judge/outcome.ts";',
  "src/judge/f.ts": 'export type { Explanation } from "../insight/explain/explanation.ts";',
  "src/checks/g.ts": 'export { Census } from "../insight/census/census.ts";',
  "src/folder/h.ts": 'export { followFlags } from "../runtime/flags.ts";',
  "src/runtime/i.ts": 'export { run } from "../cli/program.ts";',
  "src/runtime/j.ts": 'export { gate } from "../http/index.ts";',
  "src/tools/k.ts": 'export { followFlags } from "../runtime/flags.ts";',
  "src/runtime/l.ts": 'export { takeCensus } from "../tools/index.ts";',
  "src/http/m.ts": 'export { run } from "../cli/program.ts";',
};

const along = {
  "src/judge/n.ts": 'export { limits } from "../values/limits.ts";',
  "src/folder/o.ts": 'export { limits } from "../values/limits.ts";',
  "src/insight/explain/p.ts": 'export { Outcome } from "../../judge/outcome.ts";',
  "src/cli/q.ts": 'export { takeCensus } from "../tools/index.ts";',
  "src/tools/r.ts": 'export { load } from "../folder/load.ts";',
  "src/cli/s.ts": 'export { followFlags } from "../runtime/flags.ts";',
};

it("refuses imports that run against the arrows, and lets the others pass", async () => {
  const config = JSON.parse(await readFile(join(projectRoot, "biome.json"), "utf8")) as { vcs: object };
  const folder = await folderWith({
    ...against,
    ...along,
    "biome.json": JSON.stringify({ ...config, vcs: { enabled: false } }),
  });
  const biome = join(projectRoot, "node_modules/.bin/biome");
  const ran = spawnSync(biome, ["lint", "--reporter=github", "--max-diagnostics=100", "."], {
    cwd: folder,
    encoding: "utf8",
  });
  const refused = [...ran.stdout.matchAll(/noRestrictedImports,file=([^,]+)/g)].map(([, file]) =>
    file!.slice(file!.indexOf("src/")),
  );
  expect(refused.sort()).toEqual(Object.keys(against).sort());
});

it("the lint configuration holds every room's rule, as the table has it", async () => {
  const { overrides } = JSON.parse(await readFile(join(projectRoot, "biome.json"), "utf8")) as { overrides: object[] };
  expect(overrides).toEqual(expect.arrayContaining(roomRules()));
});
