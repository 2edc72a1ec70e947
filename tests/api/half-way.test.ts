import { execFile } from "node:child_process";
import { appendFileSync } from "node:fs";
import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { promisify } from "node:util";
import { followFlags } from "iudex";
import { loadFolder } from "iudex/tools";
import { describe, expect, it, onTestFinished } from "vitest";
import { Disk } from "../../src/files/from/disk.ts";
import { parseYaml } from "../../src/files/parse/yaml.ts";
import { readSteadily } from "../../src/files/read.ts";
import { folderWith, projectRoot } from "../support/folders.ts";
import { next } from "../support/waiting.ts";

const run = promisify(execFile);

describe("a reading that fails for a moment", () => {
  it("for want of descriptors is made again, though nothing was touched", async () => {
    const files = Object.fromEntries(
      Array.from({ length: 40 }, (_, i) => [`f${i}.yaml`, `iudex: 1\nflags: { f${i}: { safe: 1 } }\n`]),
    );
    const folder = await folderWith({
      ...files,
      "list.yaml":
        "iudex: 1\ncohorts: { c: { of: id, file: ids.txt } }\nflags: { l: { safe: 1, provided: cohort:c } }\n",
      "ids.txt": "A-1\n",
    });
    const script = join(projectRoot, "tests/support/starved.mjs");
    // Enough for the program to start with; all but four of them are then held.
    const { stdout } = await run("sh", ["-c", 'ulimit -n 120; exec node "$0" "$1" 4', script, folder]);
    const [whole, starved, again] = JSON.parse(stdout) as { flags: number; codes: string[] }[];
    expect(whole).toEqual({ flags: 41, codes: [] });
    expect(starved).toEqual({
      flags: 0,
      codes: expect.arrayContaining([expect.stringMatching(/unreadable|list-missing/)]),
    });
    expect(again).toEqual(whole);
  });
});

it("a list that does not come to rest is held back, and its last whole reading stays", async () => {
  const definition =
    "iudex: 1\ncohorts: { c: { of: id, file: ids.txt } }\nflags: { a: { safe: 1, provided: cohort:c } }\n";
  const folder = await folderWith({ "a.yaml": definition, "ids.txt": "A-1\nA-2\n" });
  const disk = new Disk(folder);
  const content = await readSteadily(() => disk.look());
  await writeFile(join(folder, "ids.txt"), "B-1\n");
  // Whenever the files have been looked at, somebody goes on writing.
  let writes = 1;
  const lookAndWrite = async () => {
    const files = await disk.look();
    appendFileSync(join(folder, "ids.txt"), `B-${++writes}\n`);
    return files;
  };
  const unsettled = await readSteadily(lookAndWrite, { before: content });
  const ids = ({ lists }: typeof content) =>
    [...lists.values()].map(({ result }) => "ids" in result && result.ids.size);
  expect(writes).toBeGreaterThan(2);
  expect(ids(unsettled)).toEqual([2]);
  expect(ids(await readSteadily(() => disk.look(), { before: unsettled }))).toEqual([writes]);
});

describe("file systems that count time coarsely", () => {
  const flags = (n: number) => `iudex: 1\nflags: { a: { safe: ${n} } }\n`;

  it("a file that was read right after it had changed is compared by what it holds", async () => {
    const folder = await folderWith({ "a.yaml": flags(1) });
    const { content } = await loadFolder(folder);
    await writeFile(join(folder, "a.yaml"), flags(2));
    const after = await loadFolder(folder);
    // As if both had been written under one stamp.
    const [before, now] = [content.files.get("a.yaml")!, after.content.files.get("a.yaml")!];
    Object.assign(before.entry, { mark: now.entry.mark });
    expect((await loadFolder(folder, content)).definitions?.flags.get("a")?.source.safe).toBe(2);
  });

  it("and so is a list", async () => {
    const folder = await folderWith({
      "a.yaml": "iudex: 1\ncohorts: { c: { of: id, file: ids.txt } }\nflags: { a: { safe: 1, provided: cohort:c } }\n",
      "ids.txt": "A-1\n",
    });
    const { content } = await loadFolder(folder);
    await writeFile(join(folder, "ids.txt"), "A-2\n");
    const after = await loadFolder(folder);
    const [[, before], [, now]] = [[...content.lists][0]!, [...after.content.lists][0]!];
    Object.assign(before.entry!, { mark: now.entry!.mark });
    const cohort = (await loadFolder(folder, content)).definitions?.cohorts.get("c");
    expect(cohort?.kind === "list" && [cohort.ids.has("A-1"), cohort.ids.has("A-2")]).toEqual([false, true]);
  });
});

it("an error in a large file leaves the event loop free while it is located", async () => {
  const large = (last: string) =>
    `iudex: 1\nflags:\n${Array.from({ length: 6_000 }, (_, i) => `  f${i}: { safe: false, about: "What flag ${i} is for" }\n`).join("")}  last: { safe: ${last} }\n`;
  const folder = await folderWith({ "large.yaml": large("1"), "small.yaml": "iudex: 1\nflags: { s: { safe: 1 } }\n" });
  const flags = await followFlags(folder);
  onTestFinished(() => flags.close());
  const bad = large("null");
  let longest = 0;
  let last = performance.now();
  const beat = setInterval(() => {
    const now = performance.now();
    longest = Math.max(longest, now - last);
    last = now;
  }, 1);
  onTestFinished(() => clearInterval(beat));
  const rejected = next(flags, "rejected");
  await writeFile(join(folder, "large.yaml"), bad);
  const { problems } = await rejected;
  expect(problems[0]).toMatchObject({ file: "large.yaml", line: 6_003 });
  clearInterval(beat);
  // What locating it on this thread would take, on this machine and now.
  const start = performance.now();
  parseYaml(bad);
  expect(longest / (performance.now() - start)).toBeLessThan(0.5);
  expect(flags.value("last")).toBe(1);
});
