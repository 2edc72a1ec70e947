import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    include: ["tests/**/*.test.ts"],
    // These limits end what hangs. They measure nothing, so a busy machine has ample room below them.
    testTimeout: 180_000,
    hookTimeout: 180_000,
    expect: { poll: { timeout: 60_000 } },
  },
});
