import { availableParallelism } from "node:os";
import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    include: ["tests/**/*.test.ts"],
    // Most tests wait for processes of their own, or for something to be quiet.
    maxWorkers: 2 * availableParallelism(),
    // These limits end what hangs. They measure nothing, so a busy machine has ample room below them.
    testTimeout: 180_000,
    hookTimeout: 180_000,
    expect: { poll: { timeout: 60_000 } },
  },
});
