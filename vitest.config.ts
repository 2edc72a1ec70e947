import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    include: ["tests/**/*.test.ts"],
    // Most tests wait for processes of their own.
    maxWorkers: "100%",
    // These limits end what hangs. They measure nothing, so a busy machine has ample room below them.
    testTimeout: 180_000,
    hookTimeout: 180_000,
    expect: { poll: { timeout: 60_000 } },
  },
});
