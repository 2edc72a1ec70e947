import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { brotliCompressSync } from "node:zlib";
import { build, type Rollup } from "vite";
import { expect, it } from "vitest";
import { projectRoot } from "../support/folders.ts";
import { scratch } from "../support/scratch.ts";

/** Bytes of what a page loads for these exports, as a page is built: minified, compressed. */
async function sizeOf(...exported: string[]): Promise<number> {
  const entry = join(await scratch(), "entry.js");
  await writeFile(entry, exported.map((line) => `${line.replaceAll("dist/", join(projectRoot, "dist/"))}\n`).join(""));
  const { output } = (await build({
    configFile: false,
    logLevel: "error",
    build: {
      write: false,
      target: "es2022",
      modulePreload: false,
      rollupOptions: { input: entry, preserveEntrySignatures: "strict", external: ["react"] },
    },
  })) as Rollup.RollupOutput;
  expect(output).toHaveLength(1);
  const { code, imports } = output[0];
  expect(imports.filter((each) => each !== "react")).toEqual([]);
  return brotliCompressSync(code).length;
}

const client = 'export { followPage } from "dist/page.js";';
const hooks = 'export { FlagsProvider, useFlag, useFlags } from "dist/page-react.js";';

it("weighs two kilobytes at most, with the hooks 2.6, and depends on nothing but React", async () => {
  expect(await sizeOf(client)).toBeLessThanOrEqual(2_048);
  expect(await sizeOf(client, hooks)).toBeLessThanOrEqual(2_600);
});

it("has nothing of Node or of schemas in a page's catalogue", async () => {
  expect(await sizeOf('export * from "dist/catalogue.js";')).toBeLessThan(300);
});
