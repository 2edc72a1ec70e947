// What a page would load for the core: minified, compressed by brotli; and beside it the client of a page.
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { brotliCompressSync } from "node:zlib";
import { build } from "vite";

const dist = join(import.meta.dirname, "../dist");

/** kB of what is loaded first, and of everything. */
async function sizesOf(line) {
  const home = await mkdtemp(join(tmpdir(), "iudex-bench-"));
  const entry = join(home, "entry.js");
  await writeFile(entry, line);
  try {
    const { output } = await build({
      configFile: false,
      logLevel: "error",
      build: {
        write: false,
        target: "es2022",
        modulePreload: false,
        rollupOptions: { input: entry, preserveEntrySignatures: "strict" },
      },
    });
    const sizes = output.map(({ code }) => brotliCompressSync(code ?? "").length / 1_000);
    return { first: sizes[0], all: sizes.reduce((sum, size) => sum + size, 0) };
  } finally {
    await rm(home, { recursive: true });
  }
}

export async function run() {
  const core = await sizesOf(`export { readDefinitions, FlagSet } from ${JSON.stringify(join(dist, "core.js"))};`);
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
