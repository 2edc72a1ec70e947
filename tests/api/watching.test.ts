import { execFileSync } from "node:child_process";
import { closeSync, openSync, writeFileSync, writeSync } from "node:fs";
import { rename, rm, symlink, writeFile } from "node:fs/promises";
import { basename, dirname, join } from "node:path";
import { followFlags } from "iudex";
import { describe, expect, it, type TestContext } from "vitest";
import { folderWith, put } from "../support/folders.ts";
import { collected, sleep } from "../support/waiting.ts";

const rounds = 20;
const filler = Array.from(
  { length: 40 },
  (_, i) => `  filler-${i}: { safe: ${i}, about: so that a half-written file is a valid one }`,
).join("\n");
const text = (n: number) => `iudex: 1\nflags:\n  round: { safe: ${n} }\n${filler}\n  last: { safe: ${n} }\n`;

/**
 * Changes a folder 20 times in one of the ways in which files change in real life; every change must be seen, and no
 * verdict may come from a file that was only half there. What is to be read only when it is whole is written without
 * waiting: on a busy machine a write that is waited for may come later than things must be quiet.
 */
async function seesEveryChange(
  { expect, onTestFinished }: TestContext,
  folder: string,
  change: (n: number) => Promise<void>,
): Promise<void> {
  const flags = await followFlags(folder);
  onTestFinished(() => flags.close());
  const rejected = collected(flags, "rejected");
  const torn: unknown[] = [];
  flags.on("change", () => {
    if (flags.value("round") !== flags.value("last")) torn.push([flags.value("round"), flags.value("last")]);
  });
  for (let n = 1; n <= rounds; n++) {
    await change(n);
    await expect.poll(() => flags.value("round"), { interval: 10 }).toBe(n);
  }
  expect(torn).toEqual([]);
  expect(rejected).toEqual([]);
}

/** One commit with its tag, in the words of `git fast-import`: all of them at once are one process instead of sixty. */
function commitOf(n: number): string {
  const [time, note, file] = [1_764_000_000 + n, `round ${n}`, text(n)];
  return `commit refs/heads/main
committer Crew <crew@ternhaven.example> ${time} +0000
data ${Buffer.byteLength(note)}
${note}
M 100644 inline a.yaml
data ${Buffer.byteLength(file)}
${file}
reset refs/tags/v${n}
from refs/heads/main

`;
}

describe.concurrent("every change is seen, none is read torn", () => {
  it("truncated and written at once", async (t) => {
    const folder = await folderWith({ "a.yaml": text(0) }, t);
    await seesEveryChange(t, folder, async (n) => writeFileSync(join(folder, "a.yaml"), text(n)));
  });

  it("truncated, half written, and gone on with after a pause", async (t) => {
    const folder = await folderWith({ "a.yaml": text(0) }, t);
    await seesEveryChange(t, folder, async (n) => {
      const whole = text(n);
      const half = whole.indexOf("\n", whole.length / 2) + 1;
      const file = openSync(join(folder, "a.yaml"), "w");
      writeSync(file, whole.slice(0, half));
      await sleep(20);
      writeSync(file, whole.slice(half));
      closeSync(file);
    });
  });

  it("written aside and renamed", async (t) => {
    const folder = await folderWith({ "a.yaml": text(0) }, t);
    await seesEveryChange(t, folder, async (n) => {
      await writeFile(join(folder, ".a.yaml.new"), text(n));
      await rename(join(folder, ".a.yaml.new"), join(folder, "a.yaml"));
    });
  });

  it("mounted by an orchestrator, which swaps a link", async (t) => {
    const folder = await folderWith({}, t);
    const version = async (n: number) => {
      await put(folder, `..version-${n}/a.yaml`, text(n));
      await symlink(`..version-${n}`, join(folder, "..data_tmp"));
      await rename(join(folder, "..data_tmp"), join(folder, "..data"));
      if (n > 0) await rm(join(folder, `..version-${n - 1}`), { recursive: true });
    };
    await version(0);
    await symlink("..data/a.yaml", join(folder, "a.yaml"));
    await seesEveryChange(t, folder, version);
  });

  it("a folder that is itself a link, turned to another folder", async (t) => {
    const home = dirname(await folderWith({}, t));
    const link = join(home, "current");
    const turn = async (n: number) => {
      await put(home, `release-${n}/a.yaml`, text(n));
      await symlink(`release-${n}`, `${link}.new`);
      await rename(`${link}.new`, link);
    };
    await turn(0);
    await seesEveryChange(t, link, turn);
  });

  it("git checkout", async (t) => {
    const folder = await folderWith({ "a.yaml": text(0) }, t);
    const git = (words: string[], input = "") => execFileSync("git", words, { cwd: folder, input });
    git(["init", "-q", "-b", "main"]);
    git(["fast-import", "--quiet"], Array.from({ length: rounds + 1 }, (_, n) => commitOf(n)).join(""));
    git(["checkout", "-qf", "v0"]);
    await seesEveryChange(t, folder, async (n) => void git(["checkout", "-q", `v${n}`]));
  });

  it("a list file", async (t) => {
    const set = `iudex: 1\ncohorts: { c: { of: id, file: ids.txt } }\nflags: { a: { safe: false, provided: cohort:c, otherwise: true } }\n`;
    const folder = await folderWith({ "a.yaml": set, "ids.txt": "A-0\n" }, t);
    const flags = await followFlags(folder);
    t.onTestFinished(() => flags.close());
    for (let n = 1; n <= 3; n++) {
      await writeFile(join(folder, "ids.txt"), `A-${n}\n`);
      await t.expect.poll(() => flags.value("a", { id: `A-${n}` })).toBe(true);
    }
  });

  it("a thousand saves, of which the last one counts", async (t) => {
    const folder = await folderWith({ "a.yaml": text(0) }, t);
    const flags = await followFlags(folder);
    t.onTestFinished(() => flags.close());
    const changes = collected(flags, "change");
    for (let n = 1; n <= 1_000; n++) {
      await writeFile(join(folder, "a.yaml"), text(n));
      if (n % 50 === 0) await sleep(60);
    }
    await t.expect.poll(() => flags.value("last")).toBe(1_000);
    t.expect(changes.length).toBeLessThan(1_000);
  });
});

it("keeps no process alive, and leaves no handle open when closed", () => {
  const script = `import { followFlags } from "iudex";
    const flags = await followFlags(process.argv[1], { environment: "production" });
    await flags.close();
    await new Promise((resolve) => setTimeout(resolve, 50));
    const open = process.getActiveResourcesInfo().filter((kind) => kind !== "TTYWrap" && kind !== "PipeWrap");
    console.log(JSON.stringify(open));`;
  const demo = join(dirname(dirname(import.meta.dirname)), "examples/ternhaven/flags");
  const out = execFileSync(process.execPath, ["--input-type=module", "-e", script, demo], {
    encoding: "utf8",
    timeout: 60_000,
    cwd: dirname(dirname(import.meta.dirname)),
  });
  expect(JSON.parse(out)).toEqual([]);
  expect(basename(demo)).toBe("flags");
});
