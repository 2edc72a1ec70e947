import { execFile } from "node:child_process";
import { join } from "node:path";
import { promisify } from "node:util";
import { expect, it } from "vitest";
import { projectRoot } from "../support/folders.ts";

it("everything that fuzzing has kept, and a few seconds of chance, give an answer", async () => {
  const fuzz = join(projectRoot, "scripts/fuzz/index.mjs");
  const { stdout } = await promisify(execFile)(process.execPath, [fuzz, "--seconds", "3"]);
  const [, inputs, outcomes] = /: (\d+) inputs, (\d+) different outcomes/.exec(stdout)!.map(Number) as number[];
  expect(inputs).toBeGreaterThan(0);
  expect(outcomes).toBeGreaterThan(60);
});
