// Writes the JavaScript of dist: the public entries, the command, the parsing thread, and what they share. A service
// loads a dozen files instead of two hundred; the code is not made smaller, so that stacks can be read.
import { cpSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { build } from "vite";

const library = {
  index: "src/index.ts",
  core: "src/core.ts",
  http: "src/http.ts",
  testing: "src/testing.ts",
  tools: "src/tools.ts",
  // What is loaded late; which of the two is meant, "imports" of package.json says.
  "late/temporal": "src/late/temporal.ts",
  "late/patterns": "src/late/patterns.ts",
  // Beside the code that starts it.
  "shared/parse-worker": "src/folder/parse-worker.ts",
};

const forNode = {
  "cli/bin": "src/cli/bin.ts",
  "late/temporal.node": "src/late/temporal.node.ts",
  "late/patterns.node": "src/late/patterns.node.ts",
};

/** Packages that CommonJS cannot load everywhere go into its build. */
const insideCommonJs = ["@noble/hashes", "jose", "temporal-polyfill", "temporal-utils"];
const modulesOnly = insideCommonJs.map((name) => new RegExp(`^${name}(?:/|$)`));

const root = join(import.meta.dirname, "..");

export async function bundle() {
  await write("es", "dist", { ...library, ...forNode });
  await write("cjs", "dist/cjs", library, modulesOnly);
  describeCommonJs();
}

/** The declarations once more, beside the CommonJS that they are then taken to describe. */
function describeCommonJs() {
  const dist = join(root, "dist");
  for (const path of readdirSync(dist, { recursive: true })) {
    const isOurs = !path.startsWith("cjs") && !path.startsWith("cli");
    if (isOurs && path.endsWith(".d.ts")) cpSync(join(dist, path), join(dist, "cjs", path));
  }
  writeFileSync(join(dist, "cjs", "LICENSES.txt"), licensesOf(insideCommonJs));
  writeFileSync(join(dist, "cjs", "package.json"), '{ "type": "commonjs" }\n');
}

function licensesOf(packages) {
  const texts = packages.map((name) => {
    const folder = join(root, "node_modules", name);
    const file = readdirSync(folder).find((entry) => /^licen[cs]e/i.test(entry));
    return `${name}\n\n${readFileSync(join(folder, file), "utf8").trim()}\n`;
  });
  return `What follows is contained in these files.\n\n${texts.join("\n\n")}`;
}

async function write(format, folder, entries, inside = []) {
  await build({
    root,
    configFile: false,
    logLevel: "warn",
    ssr: { noExternal: inside },
    resolve: { alias: format === "cjs" ? [{ find: /^#late\/(.*)$/, replacement: join(root, "src/late/$1.ts") }] : [] },
    build: {
      ssr: true,
      outDir: folder,
      emptyOutDir: false,
      target: "node20",
      minify: false,
      rollupOptions: {
        external: format === "es" ? [/^#late\//] : [],
        // As package.json says: only the entries do anything by being loaded.
        treeshake: { moduleSideEffects: false },
        input: Object.fromEntries(Object.entries(entries).map(([name, file]) => [name, join(root, file)])),
        output: {
          format,
          entryFileNames: "[name].js",
          chunkFileNames: "shared/[name].js",
          exports: "named",
          minifyInternalExports: false,
        },
      },
    },
  });
}
