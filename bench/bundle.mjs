// What a page would load for the core: minified, compressed by brotli; and beside it the client of a page.
import { join } from "node:path";
import { filesLoadedFor } from "../scripts/page-size.mjs";

const dist = join(import.meta.dirname, "../dist");

/** kB of what is loaded first, and of everything. */
async function sizesOf(line) {
  const sizes = (await filesLoadedFor(line)).map(({ bytes }) => bytes / 1_000);
  return { first: sizes[0], all: sizes.reduce((sum, size) => sum + size, 0) };
}

export async function run() {
  const core = await sizesOf(
    `export { openDefinitions, readDefinitions, FlagSet } from ${JSON.stringify(join(dist, "core.js"))};`,
  );
  const page = await sizesOf(`export { followPage } from ${JSON.stringify(join(dist, "page.js"))};`);
  return [
    {
      name: `kB of iudex/core for a page, loaded first (${core.all.toFixed(0)} with everything)`,
      ratio: core.first,
      atMost: 45,
    },
    { name: "kB of iudex/page", ratio: page.first, atMost: 2.05 },
  ];
}
