import { execFileSync } from "node:child_process";
import { writeFileSync } from "node:fs";
import { access, mkdtemp, readdir, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { runInNewContext } from "node:vm";
import { build } from "vite";
import { afterAll, beforeAll, expect, it } from "vitest";
import { demoFolder, projectRoot } from "../support/folders.ts";

/** What ships is what is tested: the tarball, installed into an empty folder. */
let home: string;

beforeAll(async () => {
  home = await mkdtemp(join(tmpdir(), "iudex-packed-"));
  const [packed] = JSON.parse(shell("npm", ["pack", "--json", "--pack-destination", home], projectRoot)) as {
    filename: string;
  }[];
  await writeFile(join(home, "package.json"), '{ "name": "empty", "private": true }');
  shell("npm", ["install", "--no-audit", "--no-fund", "--loglevel=error", `./${packed!.filename}`], home);
}, 180_000);

afterAll(() => rm(home, { recursive: true, force: true }));

function shell(command: string, words: string[], cwd: string): string {
  return execFileSync(command, words, { cwd, encoding: "utf8", stdio: ["ignore", "pipe", "pipe"] });
}

/** What the type checker says of `ask.ts` in a package of that type. */
function typesIn(type: string, settings: object): string {
  const compilerOptions = {
    strict: true,
    exactOptionalPropertyTypes: true,
    noUncheckedIndexedAccess: true,
    noEmit: true,
    target: "es2022",
    lib: ["es2023", "esnext.disposable", "dom"],
    ...settings,
    typeRoots: [join(projectRoot, "node_modules/@types")],
    types: ["node"],
  };
  writeFileSync(join(home, "tsconfig.json"), JSON.stringify({ compilerOptions, files: ["ask.ts"] }));
  writeFileSync(join(home, "package.json"), JSON.stringify({ name: "empty", private: true, type }));
  try {
    return shell(join(projectRoot, "node_modules/.bin/tsc"), ["-p", "."], home);
  } catch (error) {
    return String((error as { stdout: unknown }).stdout);
  }
}

const ask = `followFlags(process.argv[2], { environment: "production", watch: false }).then((flags) => console.log(flags.value("hold-minutes", {})));`;

it("installs eight packages beside itself, and names what it holds of others", async () => {
  const lock = JSON.parse(await readFile(join(home, "package-lock.json"), "utf8")) as { packages: object };
  const installed = Object.keys(lock.packages).filter((path) => path !== "" && !path.endsWith("/iudex"));
  expect(installed.length).toBeLessThanOrEqual(8);
  const licences = await readFile(join(home, "node_modules/iudex/dist/LICENSES.txt"), "utf8");
  for (const name of ["@noble/hashes", "commander", "json-schema-library", "jsonc-parser", "yaml"])
    expect(licences).toContain(`${name} `);
});

it("is imported as a module", async () => {
  await writeFile(
    join(home, "ask.mjs"),
    `import { followFlags } from "iudex";\nimport "iudex/core";\nimport "iudex/catalogue";\nimport "iudex/http";\nimport "iudex/page";\nimport "iudex/tools";\nimport "iudex/testing";\n${ask}`,
  );
  expect(shell(process.execPath, ["ask.mjs", demoFolder], home).trim()).toBe("15");
});

it("is required", async () => {
  await writeFile(
    join(home, "ask.cjs"),
    `const { followFlags } = require("iudex");\nrequire("iudex/core");\nrequire("iudex/catalogue");\nrequire("iudex/http");\nrequire("iudex/page");\nrequire("iudex/tools");\n${ask}`,
  );
  expect(shell(process.execPath, ["ask.cjs", demoFolder], home).trim()).toBe("15");
  // As where modules cannot be required: in test runners that know CommonJS only.
  const alone = ["--no-experimental-require-module", "ask.cjs", demoFolder];
  expect(shell(process.execPath, alone, home).trim()).toBe("15");
});

it.each([
  ["a module", "fail.mjs", 'import { FlagsError, followFlags } from "iudex";'],
  ["CommonJS", "fail.cjs", 'const { FlagsError, followFlags } = require("iudex");'],
])("leads from a stack to the line of its source, as %s", async (_, file, load) => {
  await writeFile(
    join(home, file),
    `${load}\nfollowFlags({}).catch((error) => console.log(error instanceof FlagsError, error.stack));`,
  );
  const printed = shell(process.execPath, ["--enable-source-maps", file], home);
  const [, source, line] = /at openShelf \((.+):(\d+):\d+\)/.exec(printed) ?? [];
  expect(source, printed).toBe(join(home, "node_modules/iudex/src/follow/follow-flags.ts"));
  const lines = (await readFile(source!, "utf8")).split("\n");
  expect(lines[Number(line) - 1]).toContain("new FlagsError(");
});

it("its core is bundled for a page, calendar and patterns included", async () => {
  await writeFile(
    join(home, "page.js"),
    `import { FlagSet, openDefinitions } from "iudex/core";
const flags = {
  winter: { safe: false, rules: [{ when: "window:winter", give: true }] },
  ferry: { safe: false, rules: [{ when: "ship matches /^TH-[0-9]+$/", give: true }] },
};
const windows = { winter: { from: "2026-12-01", until: "2027-03-01", zone: "Atlantic/Faroe" } };
const at = Date.parse("2026-12-24T12:00Z");
globalThis.answer = openDefinitions([{ file: "a.json", data: { iudex: 1, windows, flags } }]).then(({ definitions }) => {
  const set = new FlagSet(definitions);
  return [set.value("winter", {}, { at }), set.value("winter", {}, { at: 0 }), set.value("ferry", { ship: "TH-7" })];
});
`,
  );
  await build({
    root: home,
    configFile: false,
    logLevel: "error",
    build: { lib: { entry: "page.js", formats: ["iife"], name: "page" }, outDir: "page", minify: false },
  });
  const [script] = (await readdir(join(home, "page"))).filter((name) => name.endsWith(".js"));
  const code = await readFile(join(home, "page", script!), "utf8");
  expect(/createRequire|["'`]node:/.test(code)).toBe(false);
  const page = { answer: undefined as unknown, TextEncoder, TextDecoder, console };
  runInNewContext(code, Object.assign(page, { globalThis: page }));
  expect(await page.answer).toEqual([true, false, true]);
});

it.each([
  ["a CommonJS package", "commonjs", { module: "nodenext" }],
  ["a CommonJS package with a bundler", "commonjs", { module: "preserve", moduleResolution: "bundler" }],
])("has types for %s", async (_, type, settings) => {
  await writeFile(
    join(home, "ask.ts"),
    `import { followFlags, type Verdict } from "iudex";
import { FlagSet } from "iudex/core";
import { nodeGate } from "iudex/http";
import { flagsFrom } from "iudex/testing";
import { compareSets } from "iudex/tools";
export const verdict = async (): Promise<Verdict> => (await followFlags("flags")).verdict("x", { a: 1 });
// @ts-expect-error the name of a folder is a text
void followFlags(1);
console.log(FlagSet, nodeGate, flagsFrom, compareSets);
`,
  );
  expect(typesIn(type, settings)).toBe("");
});

it("has types that hold in the strictest settings", async () => {
  await writeFile(
    join(home, "ask.ts"),
    `import { followFlags, type Verdict } from "iudex";
import { FlagSet, readDefinitions } from "iudex/core";
import { allOf, fetchGate, nodeGate } from "iudex/http";
import { compareSets, takeCensus } from "iudex/tools";
const flags = await followFlags("flags");
const verdict: Verdict = flags.verdict("x", { a: 1 });
// @ts-expect-error a flag's value may be undefined
const value: boolean = flags.value("x", {});
const { definitions } = readDefinitions([{ file: "a.json", data: {} }]);
if (definitions) new FlagSet(definitions).value("x", {});
console.log(verdict, value, compareSets, takeCensus, fetchGate(flags, { context: () => ({}) }).values({ only: ["x"] }));
nodeGate(flags, { context: () => ({}) }).closedUnless(allOf("x", "y"));
`,
  );
  expect(typesIn("module", { module: "nodenext" })).toBe("");
});

it("brings the pages and pictures that its README and their pages lead to", async () => {
  const installed = join(home, "node_modules/iudex");
  const pages = ["README.md"];
  for (const page of pages) {
    const text = await readFile(join(installed, page), "utf8");
    for (const [, target] of text.matchAll(/\]\((?!https?:|#)([^)#]+)/g)) {
      const path = join(page, "..", target!);
      await expect(access(join(installed, path)), `${path}, to which ${page} leads`).resolves.toBeUndefined();
      if (path.startsWith("docs/") && path.endsWith(".md") && !pages.includes(path)) pages.push(path);
    }
  }
  expect(pages.length).toBeGreaterThan(10);
});

it("closes its internals", async () => {
  await writeFile(join(home, "inside.mjs"), `import "iudex/dist/values/names.js";`);
  expect(() => shell(process.execPath, ["inside.mjs"], home)).toThrow(/ERR_PACKAGE_PATH_NOT_EXPORTED/);
});

it("brings its command", () => {
  expect(
    shell(join(home, "node_modules/.bin/iudex"), ["check", "--at", "2026-12-02T12:00Z", "--flags", demoFolder], home),
  ).toContain("nothing to complain of");
});
