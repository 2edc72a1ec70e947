import { availableParallelism } from "node:os";
import { defineConfig } from "vitest/config";
import { BaseSequencer, type TestSpecification } from "vitest/node";

/** What takes longest, most of it waiting: begun first, it leaves room for the others and is not waited for in the end. */
const longest = [
  "reliability/world",
  "reliability/soak",
  "package/packed",
  "fleet/engines",
  "page/browser",
  "reliability/hostile",
  "fleet/following",
  "booking/booking",
  "desk/page",
  "http/pages",
  "http/requests",
  "fleet/stops",
  "core/sentences",
  "files/writing",
  "api/remembered",
  "core/oracle",
].map((name) => `/tests/${name}.test.ts`);

class LongestFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const isLong = ({ moduleId }: TestSpecification) => longest.some((name) => moduleId.endsWith(name));
    const place = ({ moduleId }: TestSpecification) => longest.findIndex((name) => moduleId.endsWith(name));
    const others = await super.sort(files.filter((file) => !isLong(file)));
    return [...files.filter(isLong).sort((a, b) => place(a) - place(b)), ...others];
  }
}

export default defineConfig({
  test: {
    include: ["tests/**/*.test.ts"],
    globalSetup: "tests/support/one-run.ts",
    // Most tests wait for processes of their own, or for something to be quiet.
    maxWorkers: 2 * availableParallelism(),
    // Modules are loaded once for many files: two instances of the library share nothing that can change.
    isolate: false,
    // What is built is run as it is, not as the test runner would rewrite it.
    server: { deps: { external: [/\/dist\//] } },
    sequence: { sequencer: LongestFirst },
    // These limits end what hangs. They measure nothing, so a busy machine has ample room below them.
    testTimeout: 180_000,
    hookTimeout: 180_000,
    expect: { poll: { timeout: 60_000 } },
  },
});
