// npm run simulate -- --seed N --days D: builds the library into a world in which disk, net, clocks and chance are made up.
import { spawnSync } from "node:child_process";
import { join } from "node:path";
import { build } from "vite";
import { ensureInstalled, root } from "./setup.mjs";

ensureInstalled();
const world = join(root, "tests/world");

/** What the library finds in the place of what Node has. */
const inPlace = {
  "node:fs": "machine/fs-callbacks.ts",
  "node:fs/promises": "machine/fs.ts",
  "node:crypto": "machine/crypto.ts",
  "node:os": "machine/os.ts",
  "node:timers/promises": "machine/timers.ts",
};

const pretend = {
  name: "pretend",
  enforce: "pre",
  resolveId(source, importer = "") {
    if (source.startsWith("#late/")) return join(root, "src/late", `${source.slice("#late/".length)}.node.ts`);
    const isOurs = importer.startsWith(join(root, "src")) && inPlace[source];
    return isOurs ? join(world, inPlace[source]) : null;
  },
};

export async function buildWorld() {
  const outDir = join(root, "reports/world");
  await build({
    root,
    configFile: false,
    logLevel: "warn",
    plugins: [pretend],
    ssr: { noExternal: true },
    build: {
      ssr: join(world, "simulate.ts"),
      outDir,
      emptyOutDir: true,
      minify: false,
      target: "node20",
      sourcemap: true,
      rollupOptions: { output: { format: "es", entryFileNames: "simulate.mjs", inlineDynamicImports: true } },
    },
  });
  return join(outDir, "simulate.mjs");
}

const file = await buildWorld();
const { status } = spawnSync(process.execPath, ["--enable-source-maps", file, ...process.argv.slice(2)], {
  stdio: "inherit",
});
process.exit(status ?? 1);
