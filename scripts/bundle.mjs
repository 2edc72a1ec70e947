// Writes the JavaScript of dist: the public entries, the command, the parsing thread, and what they share. A service
// loads a dozen files instead of two hundred; the code is not made smaller, and source maps lead back to src.
import { cpSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { build } from "vite";

const library = {
  index: "src/index.ts",
  catalogue: "src/catalogue.ts",
  core: "src/core.ts",
  desk: "src/desk.ts",
  fleet: "src/fleet.ts",
  http: "src/http.ts",
  page: "src/page.ts",
  "page-react": "src/page-react.ts",
  testing: "src/testing.ts",
  tools: "src/tools.ts",
  // Beside the code that starts it.
  "shared/reading-thread": "src/files/parse/reading-thread.ts",
};

/** What only modules have. What is loaded late stands in several files; "imports" of package.json says which is meant where. */
const onlyModules = {
  "cli/bin": "src/cli/bin.ts",
  "late/temporal.node": "src/late/temporal.node.ts",
  "late/patterns.node": "src/late/patterns.node.ts",
  "late/temporal.page": "src/late/temporal.page.ts",
  "late/patterns.page": "src/late/patterns.page.ts",
};

/** CommonJS has the calendar and the engine of patterns as they are; Node's modules take them from there when needed. */
const onlyCommonJs = {
  "late/temporal": "src/late/temporal.ts",
  "late/patterns": "src/late/patterns.ts",
};

/**
 * Packages that stand in our own files: those that only the commands need, or only some sets, which a service then need not
 * install; and small ones that every program loads, each of which costs as much to find as to read.
 */
const ownFiles = [
  "@noble/hashes",
  "fastest-levenshtein",
  "commander",
  "yaml",
  "picocolors",
  "proper-lockfile",
  "json-schema-library",
  "jsonc-parser",
  "csv-stringify",
  "hono",
  "@hono/node-server",
  "d3-scale",
  "d3-shape",
  "@stdlib/math-base-special-erfc",
  "@stdlib/math-base-special-gammainc",
  "@stdlib/math-base-special-gammaln",
  "@stdlib/stats-base-dists-normal-quantile",
  "@stdlib/stats-base-dists-t-quantile",
];

/** Packages that CommonJS cannot load everywhere go into its build as well. */
const modulesOnly = ["jose", "temporal-polyfill", "temporal-utils"];

const root = join(import.meta.dirname, "..");

export async function bundleModules() {
  const inside = withTheirs(ownFiles);
  await write("es", "dist", { ...library, ...onlyModules }, inside);
  writeFileSync(join(root, "dist", "LICENSES.txt"), licensesOf(inside));
}

export async function bundleCommonJs() {
  const inside = [...withTheirs(ownFiles), ...modulesOnly];
  await write("cjs", "dist/cjs", { ...library, ...onlyCommonJs }, inside);
  writeFileSync(join(root, "dist", "cjs", "LICENSES.txt"), licensesOf(inside));
}

/** Packages with all that they depend on in turn. */
function withTheirs(packages) {
  const all = new Set();
  const take = (name) => {
    if (all.has(name)) return;
    all.add(name);
    const { dependencies = {} } = JSON.parse(readFileSync(join(root, "node_modules", name, "package.json"), "utf8"));
    for (const each of Object.keys(dependencies)) take(each);
  };
  for (const name of packages) take(name);
  return [...all].sort();
}

/** The declarations once more, beside the CommonJS that they are then taken to describe. */
export function describeCommonJs() {
  const dist = join(root, "dist");
  for (const path of readdirSync(dist, { recursive: true })) {
    const isOurs = !path.startsWith("cjs") && !path.startsWith("cli");
    if (isOurs && path.endsWith(".d.ts")) cpSync(join(dist, path), join(dist, "cjs", path));
  }
  writeFileSync(join(dist, "cjs", "package.json"), '{ "type": "commonjs" }\n');
}

/** Each text once, whatever number of packages comes under it. */
function licensesOf(packages) {
  const named = new Map();
  for (const name of packages) {
    const folder = join(root, "node_modules", name);
    const file = readdirSync(folder).find((entry) => /^licen[cs]e/i.test(entry));
    const { version, license } = JSON.parse(readFileSync(join(folder, "package.json"), "utf8"));
    const text = file ? readFileSync(join(folder, file), "utf8").trim() : "";
    named.set(text, [...(named.get(text) ?? []), `${name} ${version} (${license})`]);
  }
  const texts = [...named].map(([text, names]) => `${names.join("\n")}\n\n${text}\n`);
  return `What follows is contained in these files.\n\n${texts.join("\n\n")}`;
}

/** CommonJS packages that ask for their own file's name are told it as modules are. */
const namesOfFiles = {
  name: "names-of-files",
  renderChunk: (code) =>
    code.includes("__filename") ? { code: code.replace(/\b__filename\b/g, "import.meta.filename"), map: null } : null,
};

/** Two outputs of one graph: the first, which is not written, tells which entries load what. */
async function write(format, folder, entries, inside = []) {
  let names;
  const look = {
    name: "look",
    generateBundle(_, files) {
      names = chunksOf(Object.values(files).filter(({ type }) => type === "chunk"));
      for (const file of Object.keys(files)) delete files[file];
    },
  };
  const options = optionsFor(format, folder, entries, inside);
  const plain = options.build.rollupOptions.output;
  const chunked = { ...plain, onlyExplicitManualChunks: true, manualChunks: (id) => names.get(id) };
  options.build.rollupOptions.output = [{ ...plain, plugins: [look] }, chunked];
  await build(options);
}

/** Entries that load little, and load nothing that they do not need for others. */
const small = ["catalogue", "page", "page-react", "cli/bin", "shared/reading-thread"];

/**
 * A file costs as much to find as to read. So what a service loads is two files: what judging needs too, and the rest. What
 * a small entry needs stands apart, and so does what only others share.
 *
 * @param chunks what is loaded together by the same entries, each in a file of its own
 * @returns the name of the file for each module that is to be in one of the two
 */
function chunksOf(chunks) {
  const byFile = new Map(chunks.map((chunk) => [chunk.fileName, chunk]));
  const loadedBy = new Map(chunks.map((chunk) => [chunk, new Set()]));
  const load = (chunk, entry) => {
    if (loadedBy.get(chunk).has(entry)) return;
    loadedBy.get(chunk).add(entry);
    for (const file of chunk.imports) if (byFile.has(file)) load(byFile.get(file), entry);
  };
  for (const chunk of chunks) if (chunk.isEntry) load(chunk, chunk.name);
  const names = new Map();
  for (const [chunk, entries] of loadedBy) {
    if (chunk.isEntry || !entries.has("index") || small.some((name) => entries.has(name))) continue;
    for (const id of Object.keys(chunk.modules)) names.set(id, entries.has("core") ? "judging" : "service");
  }
  return names;
}

function optionsFor(format, folder, entries, inside) {
  return {
    root,
    configFile: false,
    logLevel: "warn",
    ssr: { noExternal: inside.map((name) => new RegExp(`^${name}(?:/|$)`)) },
    plugins: format === "es" ? [namesOfFiles] : [],
    resolve: {
      alias: [
        ...(format === "cjs" ? [{ find: /^#late\/(.*)$/, replacement: join(root, "src/late/$1.ts") }] : []),
        // The same code as modules, of which only what is used is taken.
        { find: /^yaml$/, replacement: join(root, "node_modules/yaml/browser/index.js") },
      ],
    },
    build: {
      ssr: true,
      outDir: folder,
      emptyOutDir: false,
      target: "node20",
      minify: false,
      sourcemap: true,
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
          // The sources are in the package beside them.
          sourcemapExcludeSources: true,
        },
      },
    },
  };
}
