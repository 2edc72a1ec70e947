import { join } from "node:path";
import { expect, it } from "vitest";
import { filesLoadedFor } from "../../scripts/page-size.mjs";
import { projectRoot } from "../support/folders.ts";

/** Bytes of what a page loads for these exports, which is one file and nothing else but React. */
async function sizeOf(...exported: string[]): Promise<number> {
  const lines = exported.map((line) => line.replaceAll("dist/", join(projectRoot, "dist/")));
  const files = await filesLoadedFor(lines.join("\n"), ["react"]);
  expect(files).toHaveLength(1);
  expect(files[0]!.imports.filter((each) => each !== "react")).toEqual([]);
  return files[0]!.bytes;
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
