import { fileURLToPath } from "node:url";
import { defineConfig } from "vitest/config";

const entry = (name: string) => fileURLToPath(new URL(`./src/${name}.ts`, import.meta.url));

/** For mutation tests of the core: tests that need no process, page or folder of their own, on the sources as they are. */
export default defineConfig({
  resolve: {
    alias: [
      { find: /^#late\/(.*)$/, replacement: fileURLToPath(new URL("./src/late/$1.ts", import.meta.url)) },
      { find: /^iudex\/core$/, replacement: entry("core") },
      { find: /^iudex\/testing$/, replacement: entry("testing") },
      { find: /^iudex$/, replacement: entry("index") },
    ],
  },
  test: {
    include: ["tests/core/**/*.test.ts"],
    // They ask at random what the others ask on purpose, and would be run for every mutant.
    exclude: ["tests/core/oracle.test.ts"],
    // One place for all, and few repetitions: every mutant pays for loading the core and for asking at random.
    isolate: false,
    pool: "threads",
    maxWorkers: 1,
    env: { IUDEX_FEW_RUNS: "yes" },
    testTimeout: 10_000,
  },
});
