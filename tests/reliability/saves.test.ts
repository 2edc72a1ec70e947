import { execFileSync, spawnSync } from "node:child_process";
import { mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { followFlags } from "iudex";
import { describe, expect, it, onTestFinished } from "vitest";
import { folderWith } from "../support/folders.ts";
import { next } from "../support/waiting.ts";

const text = (n: number) => `iudex: 1\nflags:\n  a: { safe: ${n} }\n`;
const has = (program: string) => spawnSync("which", [program]).status === 0;

async function opened(folder: string) {
  const flags = await followFlags(folder);
  onTestFinished(() => flags.close());
  return flags;
}

describe("real programs save", () => {
  it.runIf(has("vim"))(
    "vim, which renames the old file and writes a new one",
    async () => {
      const folder = await folderWith({ "a.yaml": text(0) });
      const flags = await opened(folder);
      for (let n = 1; n <= 5; n++) {
        const words = [
          "-u",
          "NONE",
          "-es",
          "-c",
          "set backupcopy=no writebackup",
          "-c",
          `%s/safe: [0-9]*/safe: ${n}/`,
          "-c",
          "wq",
          join(folder, "a.yaml"),
        ];
        spawnSync("vim", words, { stdio: "ignore", timeout: 60_000 });
        expect(await readFile(join(folder, "a.yaml"), "utf8")).toBe(text(n));
        await expect.poll(() => flags.value("a")).toBe(n);
      }
    },
    90_000,
  );

  it.runIf(has("rsync"))(
    "rsync, which writes aside and renames",
    async () => {
      const [folder, source] = [await folderWith({ "a.yaml": text(0) }), await folderWith({})];
      const flags = await opened(folder);
      for (let n = 1; n <= 5; n++) {
        await writeFile(join(source, "a.yaml"), text(n));
        execFileSync("rsync", ["-a", "--ignore-times", `${source}/`, `${folder}/`]);
        await expect.poll(() => flags.value("a")).toBe(n);
      }
    },
    90_000,
  );
});

// A small file system of its own is needed, which only some machines let a test mount.
const small = await mkdtemp(join(tmpdir(), "iudex-small-"));
const mounts = spawnSync("mount", ["-t", "tmpfs", "-o", "size=16k", "tmpfs", small]).status === 0;
if (mounts) spawnSync("umount", [small]);
await rm(small, { recursive: true, force: true });

it.runIf(mounts)("a full disk cuts a file short: it is refused, and takes the place of no good set", async () => {
  const folder = await folderWith({});
  execFileSync("mount", ["-t", "tmpfs", "-o", "size=16k", "tmpfs", folder]);
  onTestFinished(() => void spawnSync("umount", [folder]));
  await writeFile(join(folder, "a.yaml"), text(1));
  const flags = await opened(folder);
  const rejected = next(flags, "rejected");
  const huge = `${text(2)}  b: { safe: "${"x".repeat(40_000)}" }\n`;
  await expect(writeFile(join(folder, "a.yaml"), huge)).rejects.toThrow(/ENOSPC/);
  expect((await rejected).problems[0]?.code).toMatch(/yaml-syntax|format-missing/);
  expect(flags.value("a")).toBe(1);
  const changed = next(flags, "change");
  await writeFile(join(folder, "a.yaml"), text(3));
  await changed;
  expect(flags.value("a")).toBe(3);
});
