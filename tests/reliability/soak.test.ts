import { execFile } from "node:child_process";
import { join } from "node:path";
import { promisify } from "node:util";
import { expect, it } from "vitest";
import { folderWith, projectRoot } from "../support/folders.ts";

it("a minute of ten writers and constant asking: no torn set, no leak, no rejection unhandled", async () => {
  const folder = await folderWith({});
  const soak = join(projectRoot, "tests/support/soak.mjs");
  const { stdout } = await promisify(execFile)(process.execPath, ["--expose-gc", soak, folder, "60"], {
    timeout: 280_000,
  });
  const { asked, changes, torn, unhandled, early, late, between } = JSON.parse(stdout) as Record<string, number>;
  expect({ torn, unhandled }).toEqual({ torn: 0, unhandled: 0 });
  expect(asked).toBeGreaterThan(100_000);
  expect(changes).toBeGreaterThan(20);
  // Sets that nobody lets go take 50 kB and more each. What moves by itself is some 300 kB, for all changes together.
  expect(late! - early!, `${early} bytes, then ${late} after ${between} changes`).toBeLessThan(1_000_000);
}, 300_000);
