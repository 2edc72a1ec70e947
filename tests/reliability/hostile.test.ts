import { execFile, execFileSync } from "node:child_process";
import { appendFile, rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { promisify } from "node:util";
import { followFlags } from "iudex";
import { describe, expect, it, onTestFinished } from "vitest";
import { Disk, readUnmoved } from "../../src/files/from/disk.ts";
import { ReadingWorker } from "../../src/files/parse/reading-worker.ts";
import { folderWith, projectRoot, put } from "../support/folders.ts";
import { collected, next, sleep } from "../support/waiting.ts";

const good = "iudex: 1\nflags: { a: { safe: 1 } }\n";

async function opened(files: Record<string, string> = {}, times: { quiet?: number; longest?: number } = {}) {
  const folder = await folderWith({ "a.yaml": good, ...files });
  const flags = await followFlags(folder, { watch: { quiet: 20, ...times } });
  onTestFinished(() => flags.close());
  return { folder, flags };
}

describe("a text that wants to hurt is refused while it is read, within 300 MB, and the good set goes on", () => {
  it.each([
    ["b.yaml", "brackets", "too-deep"],
    ["b.yaml", "braces", "too-deep"],
    ["b.yaml", "dashes", "too-deep"],
    ["b.yaml", "question marks", "too-deep"],
    ["b.yaml", "keys, each further in", "too-deep"],
    ["b.yaml", "numbers", "too-many-nodes"],
    ["b.yaml", "anchors", "too-many-nodes"],
    ["b.json", "JSON brackets", "too-deep"],
    ["b.json", "JSON numbers", "too-many-nodes"],
  ])("in %s: %s", async (file, kind, code) => {
    const folder = await folderWith({ "a.yaml": good });
    const script = join(projectRoot, "tests/support/hostile.mjs");
    const { stdout } = await promisify(execFile)(process.execPath, [script, folder, file, kind]);
    const answer = JSON.parse(stdout) as { codes: string[]; value: number; megabytes: number };
    expect(answer).toMatchObject({ codes: [code], value: 1 });
    expect(answer.megabytes).toBeLessThan(300);
  });
});

it("what is nested in texts and comments is not nested at all", async () => {
  const quoted = JSON.stringify("[{".repeat(200));
  const { flags } = await opened({
    "b.yaml": `iudex: 1 # ${"[".repeat(200)}\nflags:\n  b: { safe: ${quoted} }\n  c:\n    safe: |\n      ${"[ - ".repeat(100)}\n`,
    "c.json": `{ "iudex": 1, "flags": { "d": { "safe": ${JSON.stringify(`\\"${"[".repeat(200)}`)} } } }`,
  });
  expect([flags.value("b"), flags.value("d")]).toEqual(["[{".repeat(200), `\\"${"[".repeat(200)}`]);
});

it("of very many problems a thousand are kept, the last one saying how many more there are", async () => {
  const { folder, flags } = await opened();
  const rejected = next(flags, "rejected");
  const flag = (i: number) => `  f${i}: { safe: 1, otherwise: x${i} }\n`;
  await put(folder, "b.yaml", `iudex: 1\nflags:\n${Array.from({ length: 2_500 }, (_, i) => flag(i)).join("")}`);
  const { problems, summary } = await rejected;
  expect(problems).toHaveLength(1_000);
  expect(problems[500]).toMatchObject({ severity: "error", line: 503 });
  expect(problems.at(-1)).toMatchObject({ code: "more-problems", severity: "error", message: "And 1,501 more." });
  expect(summary).toMatch(/stay in force: 2,500 errors, the first in b\.yaml:3:/);
});

describe("a reading that takes too much is given up, and the next one goes well", () => {
  const large = `iudex: 1\nflags:\n${Array.from({ length: 20_000 }, (_, i) => `  f${i}: { safe: ${i} }\n`).join("")}`;
  const small = `${good}# ${"x".repeat(20_000)}\n`;
  it.each([
    ["memory", { readingTime: 60_000, readingMemory: 16 }, "reading-too-much"],
    ["time", { readingTime: 100, readingMemory: 512 }, "reading-too-long"],
  ])("%s", async (_, most, code) => {
    const aside = new ReadingWorker(most, new URL("../../dist/shared/reading-thread.js", import.meta.url));
    onTestFinished(() => aside.close());
    // Several at once: only the one at fault is given up.
    const [one, other] = await Promise.all([aside.parse("large.yaml", large), aside.parse("small.yaml", small)]);
    expect(one.faults.map((fault) => fault.code)).toEqual([code]);
    if (code === "reading-too-much") expect(other.faults).toEqual([]);
    expect((await aside.parse("tiny.yaml", good)).faults).toEqual([]);
  });
});

it("a folder of more than 64 MB is refused before it is read", async () => {
  const { folder, flags } = await opened();
  const refusals = collected(flags, "rejected");
  const filling = `iudex: 1\n# ${"x".repeat(5_000_000)}\n`;
  for (let i = 0; i < 14; i++) await writeFile(join(folder, `b${String(i).padStart(2, "0")}.yaml`), filling);
  await expect
    .poll(() => refusals.at(-1)?.problems.map(({ code, file }) => `${code} ${file}`))
    .toEqual(["folder-too-large b13.yaml"]);
  expect(flags.value("a")).toBe(1);
});

it("what has become a pipe since it was looked at is not waited for", async () => {
  const folder = await folderWith({ "a.yaml": good });
  const pipe = join(folder, "pipe.yaml");
  execFileSync("mkfifo", [pipe]);
  await expect(readUnmoved(pipe, "what it was", 100)).rejects.toThrow("it has changed");
  const [entry] = (await new Disk(folder).look()).entries.values();
  await expect(readUnmoved(join(folder, "a.yaml"), entry!.mark, 5)).rejects.toThrow("it has changed");
});

describe("the emergency stop is in force before anything else has been read", () => {
  const stop = "iudex: 1\nsuspended: { a: { note: now } }\n";
  const set = "iudex: 1\nflags: { a: { safe: false, otherwise: true } }\n";
  const ids = Array.from({ length: 250_000 }, (_, i) => `P-${i}-${(i * 7_919) % 100_003}`).join("\n");
  const errors = Array.from({ length: 6_000 }, (_, i) => `  f${i}: { safe: 1, otherwise: x }\n`).join("");
  it.each<[string, (folder: string) => Promise<void>, "change" | "rejected"]>([
    [
      "a list of a quarter of a million",
      async (folder) => {
        await writeFile(join(folder, "ids.txt"), ids);
        await put(folder, "b.yaml", "iudex: 1\ncohorts: { c: { of: id, file: ids.txt } }\n");
      },
      "change",
    ],
    ["a file of 6,000 errors", (folder) => put(folder, "b.yaml", `iudex: 1\nflags:\n${errors}`), "rejected"],
  ])("%s", async (_, attack, event) => {
    const { folder, flags } = await opened({ "a.yaml": set });
    const told: string[] = [];
    flags.on("change", ({ summary }) => told.push(summary.includes("suspended") ? "stopped" : "change"));
    flags.on("rejected", () => told.push("rejected"));
    await attack(folder);
    // It has begun to read the rest.
    await sleep(60);
    await put(folder, "suspended.yaml", stop);
    await expect.poll(() => told).toContain(event);
    expect(told[0]).toBe("stopped");
    expect(flags.verdict("a").cause).toBe("suspended");
  });

  it("a thousand files that never rest, and a pipe among them", async () => {
    const text = (i: number, n: number) => [`x${i}.yaml`, `iudex: 1\nflags: { x${i}: { safe: ${n} } }\n`] as const;
    const files = Object.fromEntries(Array.from({ length: 990 }, (_, i) => text(i, 0)));
    const { folder, flags } = await opened({ "a.yaml": set, ...files }, { quiet: 100, longest: 60_000 });
    execFileSync("mkfifo", [join(folder, "pipe.yaml")]);
    let writing = true;
    const writer = (async () => {
      for (let n = 0; writing; n++) {
        const [name, written] = text(n % 990, n);
        await writeFile(join(folder, name), written);
        await sleep(2);
      }
    })();
    await put(folder, "suspended.yaml", stop);
    await expect.poll(() => flags.verdict("a").cause).toBe("suspended");
    await rm(join(folder, "suspended.yaml"));
    await expect.poll(() => flags.verdict("a").cause).toBe("otherwise");
    writing = false;
    await writer;
  });
});

it("a list of half a million is read while others have their turn", async () => {
  const ids = (first: number) => Array.from({ length: 500_000 }, (_, i) => `P-${first + i}-x`).join("\n");
  const { folder, flags } = await opened({
    "a.yaml":
      "iudex: 1\ncohorts: { c: { of: id, file: ids.txt } }\nflags: { a: { safe: false, provided: cohort:c, otherwise: true } }\n",
    "ids.txt": ids(0),
  });
  let turns = 0;
  const counting = setInterval(() => void turns++, 1);
  const text = ids(1);
  const changed = next(flags, "change");
  await put(folder, "ids.txt", text);
  turns = 0;
  await changed;
  clearInterval(counting);
  expect([flags.value("a", { id: "P-0-x" }), flags.value("a", { id: "P-500000-x" })]).toEqual([false, true]);
  // Reading takes the better part of a second; if it held everybody up there would be a handful.
  expect(turns).toBeGreaterThan(60);
});

describe("a writer that never rests", () => {
  it("beside the folder delays nothing", async () => {
    const { folder, flags } = await opened({}, { quiet: 150, longest: 600_000 });
    let writing = true;
    const writer = (async () => {
      while (writing) {
        await appendFile(join(folder, "../service.log"), "a line\n");
        await appendFile(join(folder, "service.log"), "a line\n");
        await sleep(10);
      }
    })();
    const changed = next(flags, "change");
    await put(folder, "a.yaml", good.replace("1 }", "2 }"));
    await changed;
    expect(flags.value("a")).toBe(2);
    writing = false;
    await writer;
  });

  it("of one file delays that file alone, and is never taken half-way", async () => {
    const whole = (n: number) => `iudex: 1\nflags:\n  b: { safe: ${n} }\n  c: { safe: ${n} }\n`;
    const { folder, flags } = await opened({ "b.yaml": whole(0) }, { quiet: 150, longest: 600_000 });
    let writing = true;
    const writer = (async () => {
      for (let n = 1; writing; n++) {
        // Cut off in the middle of a flag most of the time.
        await writeFile(join(folder, "b.yaml"), whole(n).slice(0, 40));
        await sleep(30);
      }
      await writeFile(join(folder, "b.yaml"), whole(-1));
    })();
    // It goes on for so long that nobody waits for it any more.
    await sleep(800);
    for (let n = 2; n < 5; n++) {
      await put(folder, "a.yaml", good.replace("1 }", `${n} }`));
      await expect.poll(() => flags.value("a")).toBe(n);
      expect([flags.value("b"), flags.value("c")]).toEqual([0, 0]);
    }
    writing = false;
    await writer;
    await expect.poll(() => [flags.value("b"), flags.value("c")]).toEqual([-1, -1]);
  });
});
