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
  const { asked, changes, torn, unhandled, early, late } = JSON.parse(stdout) as Record<string, number>;
  expect({ torn, unhandled }).toEqual({ torn: 0, unhandled: 0 });
  expect(asked).toBeGreaterThan(100_000);
  expect(changes).toBeGreaterThan(20);
  expect(late! / early!).toBeLessThan(1.05);
}, 300_000);
