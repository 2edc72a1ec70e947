// Writes the JavaScript of dist: the public entries, the command, the parsing thread, and what they share. A service
// loads a dozen files instead of two hundred; the code is not made smaller, so that stacks can be read.
import { cpSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { build } from "vite";
import { root } from "./setup.mjs";

const library = {
  index: "src/index.ts",
  core: "src/core.ts",
  http: "src/http.ts",
  testing: "src/testing.ts",
  tools: "src/tools.ts",
  // Beside the code that starts it.
  "shared/parse-worker": "src/folder/parse-worker.ts",
};

/** Packages that CommonJS cannot load everywhere go into its build. */
const modulesOnly = ["@noble/hashes", "jose", "temporal-polyfill"];

export async function bundle() {
  await write("es", "dist", { ...library, "cli/bin": "src/cli/bin.ts" });
  await write("cjs", "dist/cjs", library, modulesOnly);
  describeCommonJs();
}

/** The same declarations, taken for CommonJS where they stand there. */
function describeCommonJs() {
  const dist = join(root, "dist");
  const isWanted = (path) => !path.startsWith(join(dist, "cjs")) && !path.startsWith(join(dist, "cli"));
  const isDeclaration = (path) => path.endsWith(".d.ts") || !/\.[a-z]+$/.test(path);
  cpSync(dist, join(root, "dist-cjs"), { recursive: true, filter: (path) => isWanted(path) && isDeclaration(path) });
  writeFileSync(join(dist, "cjs", "package.json"), '{ "type": "commonjs" }\n');
}

async function write(format, folder, entries, inside = []) {
  await build({
    root,
    configFile: false,
    logLevel: "warn",
    ssr: { noExternal: inside },
    build: {
      ssr: true,
      outDir: folder,
      emptyOutDir: false,
      target: "node20",
      minify: false,
      rollupOptions: {
        input: Object.fromEntries(Object.entries(entries).map(([name, file]) => [name, join(root, file)])),
        output: { format, entryFileNames: "[name].js", chunkFileNames: "shared/[name].js", exports: "named" },
      },
    },
  });
}
