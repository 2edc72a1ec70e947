import { spawnSync } from "node:child_process";
import { readFile } from "node:fs/promises";
import { join } from "node:path";
import { expect, it } from "vitest";
import { folderWith, projectRoot } from "../support/folders.ts";

const against = {
  "src/core/judge/a.ts": 'export { load } from "../../files/load.ts";',
  "src/core/judge/b.ts": 'export type { Flags } from "../../runtime/flags.ts";',
  "src/core/c.ts": 'export { readFile } from "node:fs";',
  "src/files/d.ts": 'export { openFlags } from "../runtime/flags.ts";',
  "src/runtime/e.ts": 'export { run } from "../cli/program.ts";',
  "src/runtime/f.ts": 'export { gate } from "../http/index.ts";',
  "src/tools/k.ts": 'export { openFlags } from "../runtime/flags.ts";',
  "src/runtime/l.ts": 'export { takeCensus } from "../tools/index.ts";',
  "src/http/g.ts": 'export { run } from "../cli/program.ts";',
};

const along = {
  "src/core/judge/h.ts": 'export { limits } from "../limits.ts";',
  "src/files/i.ts": 'export { limits } from "../core/limits.ts";',
  "src/cli/m.ts": 'export { takeCensus } from "../tools/index.ts";',
  "src/tools/n.ts": 'export { load } from "../files/load.ts";',
  "src/cli/j.ts": 'export { openFlags } from "../runtime/flags.ts";',
};

it("refuses imports that run against the arrows, and lets the others pass", async () => {
  const config = await readFile(join(projectRoot, "biome.json"), "utf8");
  const folder = await folderWith({
    ...against,
    ...along,
    "biome.json": config.replace('"vcs": { "enabled": true', '"vcs": { "enabled": false'),
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
