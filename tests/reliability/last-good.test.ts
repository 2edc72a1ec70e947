import { execFileSync, fork, spawn } from "node:child_process";
import { createHash, createHmac } from "node:crypto";
import { rmSync, symlinkSync, truncateSync, writeFileSync } from "node:fs";
import { chmod, readdir, readFile, rename, rm, stat, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { followFlags } from "iudex";
import { describe, expect, it, onTestFinished } from "vitest";
import { folderWith, halfWritten, projectRoot, put } from "../support/folders.ts";
import { kills } from "../support/runs.ts";
import { collected, next, sleep } from "../support/waiting.ts";

const set = (n: number) =>
  `iudex: 1\ncohorts: { c: { of: id, file: ids.txt } }\nflags:\n  a: { safe: ${n}, about: ${"x".repeat(20_000)} }\n  b: { safe: false, provided: cohort:c, otherwise: true }\n`;
const broken = "iudex: 1\nflags: {{";

/** The record of good sets in a folder for copies that holds those of one source. */
async function recordIn(kept: string): Promise<string> {
  const [source] = await readdir(join(kept, "sets"));
  return join(kept, "sets", source!, "good.json");
}

interface Record {
  sets: {
    savedAt: string;
    files: { name: string; sha256: string; size: number }[];
    parsed: { sha256: string; size: number };
  }[];
}

async function setsIn(kept: string): Promise<Record["sets"]> {
  return (JSON.parse((await readFile(await recordIn(kept), "utf8")).split("\n")[0]!) as Record).sets;
}

/** Signs a record that says something else, by the folder's key or by another. */
async function reseal(kept: string, edit: (record: Record) => void, by?: Uint8Array): Promise<void> {
  const path = await recordIn(kept);
  const record = JSON.parse((await readFile(path, "utf8")).split("\n")[0]!) as Record;
  edit(record);
  const text = JSON.stringify(record);
  const signature = createHmac("sha256", by ?? (await readFile(join(kept, "key"))))
    .update(text)
    .digest("hex");
  await writeFile(path, `${text}\n${signature}\n`);
}

/** Puts bytes beside the others, under their digest. */
async function putBlob(kept: string, bytes: string): Promise<{ sha256: string; size: number }> {
  const sha256 = createHash("sha256").update(bytes).digest("hex");
  await writeFile(join(kept, "files", sha256), bytes);
  return { sha256, size: Buffer.byteLength(bytes) };
}

describe("the last good copy", () => {
  it("brings a start up while the files are broken, says so, and gives way to mended files", async () => {
    const folder = await folderWith({ "a.yaml": set(1), "ids.txt": "A-17\n" });
    const kept = join(folder, "../kept");
    const first = await followFlags(folder, { lastGood: kept, watch: false });
    expect(first.origin.kind).toBe("files");
    await first.close();

    await writeFile(join(folder, "a.yaml"), broken);
    await rm(join(folder, "ids.txt"));
    await put(folder, "suspended.yaml", "iudex: 1\nsuspended: { b: {} }\n");
    const flags = await followFlags(folder, { lastGood: kept });
    onTestFinished(() => flags.close());
    const problem = next(flags, "problem");
    expect(flags.origin).toMatchObject({ kind: "last-good", savedAt: expect.stringMatching(/^20/) });
    expect(flags.value("a")).toBe(1);
    expect(flags.verdict("b", { id: "A-17" }).cause).toBe("suspended");
    expect((await problem).message).toMatch(/The files cannot be used, so the copy of .* is in force: \d error/);

    const changed = next(flags, "change");
    await writeFile(join(folder, "ids.txt"), "A-18\n");
    await rm(join(folder, "suspended.yaml"));
    await writeFile(join(folder, "a.yaml"), set(2));
    await changed;
    await expect.poll(() => flags.origin.kind).toBe("files");
    expect([flags.value("a"), flags.value("b", { id: "A-18" })]).toEqual([2, true]);
  });

  it("keeps three, and passes over those that were tampered with", async () => {
    const folder = await folderWith({ "a.yaml": set(0), "ids.txt": "A-17\n" });
    const kept = join(folder, "../kept");
    for (let n = 1; n <= 5; n++) {
      await writeFile(join(folder, "a.yaml"), set(n));
      await (await followFlags(folder, { lastGood: kept, watch: false })).close();
      await sleep(5);
    }
    const sets = await setsIn(kept);
    expect(sets).toHaveLength(3);
    const newest = join(kept, "files", sets[0]!.files.find(({ name }) => name === "a.yaml")!.sha256);
    await writeFile(newest, (await readFile(newest, "utf8")).replace("safe: 5", "safe: 6"));
    await writeFile(join(folder, "a.yaml"), broken);
    const flags = await followFlags(folder, { lastGood: kept, watch: false });
    expect(flags.value("a")).toBe(4);
    await flags.close();
  });

  it("clears what was left half-written long ago, and not what somebody may be writing", async () => {
    const folder = await folderWith({ "a.yaml": set(1), "ids.txt": "A-17\n" });
    const kept = join(folder, "../kept");
    const keep = async () => (await followFlags(folder, { lastGood: kept, watch: false })).close();
    await keep();
    const { young, old } = await halfWritten(kept);
    await keep();
    const names = await readdir(kept);
    expect(names).toContain(young);
    expect(names).not.toContain(old);
  });

  it("is of what is in force, whatever its files say by the time it is written", async () => {
    const folder = await folderWith({ "a.yaml": set(1), "ids.txt": "A-17\n" });
    const kept = join(folder, "../kept");
    const first = await followFlags(folder, { lastGood: kept, watch: { quiet: 20 } });
    await expect.poll(async () => (await setsIn(kept).catch(() => [])).length).toBe(1);
    // Nothing at all in a list is an error, so a copy with it would be of no use.
    first.on("change", () => writeFileSync(join(folder, "ids.txt"), ""));
    const [changed, rejected] = [next(first, "change"), next(first, "rejected")];
    await writeFile(join(folder, "ids.txt"), "A-18\n");
    await Promise.all([changed, rejected]);
    await first.close();
    const again = await followFlags(folder, { lastGood: kept, watch: false });
    expect(again.origin.kind).toBe("last-good");
    expect([again.value("b", { id: "A-17" }), again.value("b", { id: "A-18" })]).toEqual([false, true]);
    await again.close();
  });

  it("is kept while nobody can tell what is suspended, with what was", async () => {
    const folder = await folderWith({
      "a.yaml": set(1),
      "ids.txt": "A-17\n",
      "suspended.yaml": "iudex: 1\nsuspended: { b: {} }\n",
    });
    const kept = join(folder, "../kept");
    const first = await followFlags(folder, { lastGood: kept, watch: { quiet: 20 } });
    const changed = next(first, "change");
    await writeFile(join(folder, "suspended.yaml"), "");
    await writeFile(join(folder, "a.yaml"), set(2));
    await changed;
    await first.close();
    await rename(folder, `${folder}-away`);
    const again = await followFlags(folder, { lastGood: kept, watch: false });
    expect([again.value("a"), again.verdict("b", { id: "A-17" }).cause]).toEqual([2, "suspended"]);
    await again.close();
  });

  it("is open to nobody but its owner", async () => {
    const folder = await folderWith({ "a.yaml": set(1), "ids.txt": "A-17\n" });
    const kept = join(folder, "../deep/kept");
    await (await followFlags(folder, { lastGood: kept, watch: false })).close();
    const modes = async (path: string) => ((await stat(path)).mode & 0o777).toString(8);
    for (const path of [join(folder, "../deep"), kept]) expect(await modes(path)).toBe("700");
    for (const each of await readdir(kept, { recursive: true, withFileTypes: true }))
      expect(await modes(join(each.parentPath, each.name))).toBe(each.isDirectory() ? "700" : "600");
  });

  it("is taken by nobody who has not this folder's key, nor after it was tampered with, and that is said", async () => {
    const folder = await folderWith({ "a.yaml": set(1), "ids.txt": "A-17\n" });
    const kept = join(folder, "../kept");
    await (await followFlags(folder, { lastGood: kept, watch: false })).close();
    const forged = await putBlob(kept, set(9));
    const forge = (record: Record) => {
      Object.assign(record.sets[0]!.files.find(({ name }) => name === "a.yaml")!, forged);
    };
    const good = await readFile(await recordIn(kept), "utf8");
    await writeFile(join(folder, "a.yaml"), broken);
    const opened = async () => {
      const flags = await followFlags(folder, { lastGood: kept, watch: false });
      await flags.close();
      return [flags.origin.kind, flags.value("a")];
    };
    expect(await opened()).toEqual(["last-good", 1]);
    await reseal(kept, forge, Buffer.alloc(32));
    await expect(opened()).rejects.toThrow("good.json” cannot be used: its signature is wrong, or it is cut off.");
    await writeFile(await recordIn(kept), good.slice(0, 200));
    await expect(opened()).rejects.toThrow("its signature is wrong, or it is cut off.");
    await writeFile(await recordIn(kept), good);
    expect(await opened()).toEqual(["last-good", 1]);
    await rm(join(kept, "key"));
    await expect(opened()).rejects.toThrow("there is no key for it that is ours");
  });

  it("says that others may write in its folder, and takes no key that is not its owner's alone", async () => {
    const folder = await folderWith({ "a.yaml": set(1), "ids.txt": "A-17\n" });
    const kept = join(folder, "../kept");
    await (await followFlags(folder, { lastGood: kept, watch: false })).close();
    await chmod(kept, 0o777);
    await writeFile(join(folder, "a.yaml"), broken);
    const flags = await followFlags(folder, { lastGood: kept, watch: false });
    const problems = collected(flags, "problem");
    await flags.close();
    expect([flags.origin.kind, flags.value("a")]).toEqual(["last-good", 1]);
    await expect.poll(() => problems.map(({ message }) => message).join("\n")).toContain("can be written by others");
    await chmod(join(kept, "key"), 0o644);
    await expect(followFlags(folder, { lastGood: kept, watch: false })).rejects.toThrow("no key for it that is ours");
  });

  it("of one folder is never taken for that of another", async () => {
    const [one, other] = await Promise.all([folderWith({ "a.yaml": set(1) }), folderWith({ "a.yaml": set(2) })]);
    for (const folder of [one, other]) await writeFile(join(folder, "ids.txt"), "A-17\n");
    const kept = join(one, "../kept");
    for (const folder of [one, other]) await (await followFlags(folder, { lastGood: kept, watch: false })).close();
    for (const [folder, value] of [
      [one, 1],
      [other, 2],
    ] as const) {
      await writeFile(join(folder, "a.yaml"), broken);
      const flags = await followFlags(folder, { lastGood: kept, watch: false });
      expect([flags.origin.kind, flags.value("a")]).toEqual(["last-good", value]);
      await flags.close();
    }
    const third = await folderWith({ "a.yaml": broken });
    await expect(followFlags(third, { lastGood: kept, watch: false })).rejects.toThrow("cannot be used");
  });

  it.each([
    ["a pipe", (path: string) => void execFileSync("mkfifo", [path])],
    ["a link to a device that never ends", (path: string) => symlinkSync("/dev/zero", path)],
    ["3 GB of nothing", (path: string) => truncateSync(path, 3 * 2 ** 30)],
  ])("that has become %s keeps no start waiting", async (_, put) => {
    const folder = await folderWith({ "a.yaml": set(1), "ids.txt": "A-17\n" });
    const kept = join(folder, "../kept");
    await (await followFlags(folder, { lastGood: kept, watch: false })).close();
    const [newest] = await setsIn(kept);
    const paths = [join(kept, "files", newest!.parsed.sha256), await recordIn(kept), join(kept, "key")];
    for (const path of paths) {
      await rm(path);
      writeFileSync(path, "");
      if (!String(put).includes("truncate")) rmSync(path);
      put(path);
      const flags = await followFlags(folder, { lastGood: kept, watch: false });
      expect([flags.origin.kind, flags.value("a")]).toEqual(["files", 1]);
      await flags.close();
      await rm(path, { force: true });
    }
  });

  it("holds lists with the columns that cohorts ask for, ids in quotes included", async () => {
    const folder = await folderWith({
      "a.yaml":
        "iudex: 1\ncohorts:\n  first: { of: id, file: people.csv }\n  second: { of: id, file: ./people.csv, column: boat }\nflags:\n  a: { safe: false, provided: cohort:first, otherwise: true }\n  b: { safe: false, provided: cohort:second, otherwise: true }\n",
      "people.csv": 'id,boat\n"Quay, North",K-1\nA-17,"say ""hi"""\n',
    });
    const kept = join(folder, "../kept");
    const before = await followFlags(folder, { lastGood: kept, watch: false });
    await before.close();
    await writeFile(join(folder, "a.yaml"), broken);
    const flags = await followFlags(folder, { lastGood: kept, watch: false });
    expect(flags.origin.kind).toBe("last-good");
    expect(flags.revision).toBe(before.revision);
    expect(["Quay, North", "Quay", "A-17"].map((id) => flags.value("a", { id }))).toEqual([true, false, true]);
    expect(['say "hi"', "K-1", "A-17"].map((id) => flags.value("b", { id }))).toEqual([true, true, false]);
    await flags.close();
  });

  it("spares a later start the parsing of texts that it holds, and of no others", async () => {
    const folder = await folderWith({ "a.yaml": set(1), "b.json": '{ "iudex": 1 }', "ids.txt": "A-17\n" });
    const kept = join(folder, "../kept");
    const opened = async () => {
      const flags = await followFlags(folder, { lastGood: kept, watch: false });
      await flags.close();
      return [flags.origin.kind, flags.value("a")];
    };
    const parsedIn = async () => readFile(join(kept, "files", (await setsIn(kept))[0]!.parsed.sha256), "utf8");
    /** Signs what was read as something else, so that one can see what was taken from it. */
    const change = async (edit: (parsed: string) => string, by?: Uint8Array) => {
      const parsed = await putBlob(kept, edit(await parsedIn()));
      await reseal(kept, (record) => Object.assign(record.sets[0]!, { parsed }), by);
    };
    const twice = (parsed: string) => parsed.replace('"a":{"safe":1', '"a":{"safe":2');
    expect(await opened()).toEqual(["files", 1]);
    expect((await parsedIn()).split("\n")).toHaveLength(3);
    await change(twice);
    expect(await opened()).toEqual(["files", 2]);
    // What another edition of the parser has read is read anew.
    await change((parsed) => twice(parsed).replace(/"parser":"[^"]*"/, '"parser":"0 yaml 1.0.0"'));
    expect(await opened()).toEqual(["files", 1]);
    // So is what another key has signed, and what was cut off.
    await change(twice, Buffer.alloc(32));
    expect(await opened()).toEqual(["files", 1]);
    await change(twice);
    await writeFile(join(kept, "files", (await setsIn(kept))[0]!.parsed.sha256), "");
    expect(await opened()).toEqual(["files", 1]);
    // So is a text that has changed by a single blank.
    await change(twice);
    await writeFile(join(folder, "a.yaml"), set(1).replace("{ safe", "{  safe"));
    expect(await opened()).toEqual(["files", 1]);
  });

  it("keeps nothing of a reading that JSON would not give back as it is", async () => {
    const yaml = `iudex: 1
flags:
  aliases: { safe: { zones: &all [north, south] }, rules: [{ when: x, give: { zones: *all } }] }
  minus: { safe: -0.0 }
  spelt: { safe: 1.50, rules: [{ when: x, give: 0x10 }, { when: y, give: 1e3 }] }
`;
    const folder = await folderWith({ "a.yaml": yaml, "b.yaml": "iudex: 1\nflags:\n  spelt-too: { safe: 1.50 }\n" });
    const kept = join(folder, "../kept");
    const asked = async () => {
      const flags = await followFlags(folder, { lastGood: kept, watch: false });
      await flags.close();
      return [flags.revision, flags.names.map((name) => [flags.value(name, { x: true }), flags.value(name)])];
    };
    const first = await asked();
    expect(await asked()).toEqual(first);
    expect(Object.is((first[1] as number[][])[1]![1], -0)).toBe(true);
    const parsed = await readFile(join(kept, "files", (await setsIn(kept))[0]!.parsed.sha256), "utf8");
    expect([...parsed.matchAll(/"name":"(.*?)"/g)].map(([, name]) => name)).toEqual(["b.yaml"]);
  });

  it("is no reason to fail where it cannot be kept", async () => {
    const folder = await folderWith({ "a.yaml": set(1), "ids.txt": "A-17\n" });
    await writeFile(join(folder, "../file"), "");
    const flags = await followFlags(folder, { lastGood: join(folder, "../file/kept"), watch: false });
    const problems = collected(flags, "problem");
    expect(flags.value("a")).toBe(1);
    await flags.close();
    expect(problems.map(({ message }) => message.split(" in “")[0])).toEqual([
      "No note of what is suspended could be kept",
      "No copy of the definitions could be kept",
    ]);
  });

  const deaths = kills(30);

  it(`survives ${deaths} deaths while it is being written`, async () => {
    const folder = await folderWith({ "a.yaml": set(0), "ids.txt": "A-17\n" });
    const kept = join(folder, "../kept");
    await (await followFlags(folder, { lastGood: kept, watch: false })).close();
    const keeper = join(projectRoot, "tests/support/keeper.mjs");
    const dieOften = async () => {
      for (let death = 0; death < deaths / 2; death++) {
        const child = fork(keeper, [folder, kept], { silent: true });
        await new Promise((resolve) => child.once("message", resolve));
        await sleep(Math.random() * 12);
        child.kill("SIGKILL");
        await new Promise((resolve) => child.once("exit", resolve));
      }
    };
    // Two services that share the folder of copies must not disturb each other either.
    await Promise.all([dieOften(), dieOften()]);
    await writeFile(join(folder, "a.yaml"), broken);
    const flags = await followFlags(folder, { lastGood: kept, watch: false });
    expect(flags.origin.kind).toBe("last-good");
    expect(flags.value("b", { id: "A-17" })).toBe(true);
    await flags.close();
  }, 900_000);
});

it("goes on when its permissions are taken away, and takes the files when they come back", async () => {
  const folder = await folderWith({ "a.yaml": set(1), "ids.txt": "A-17\n" });
  // A superuser may read everything, so the service gives up the rights of one. Its own files it may still read.
  const plain = process.getuid?.() === 0 ? ["setpriv", "--bounding-set=-all", "--inh-caps=-all"] : [];
  const [program, ...words] = [...plain, process.execPath, join(projectRoot, "tests/support/service.mjs"), folder];
  const service = spawn(program!, words, { stdio: ["ignore", "pipe", "inherit"] });
  onTestFinished(() => void service.kill());
  const lines: string[] = [];
  service.stdout.on("data", (data: Buffer) => lines.push(...data.toString().trim().split("\n")));
  await expect.poll(() => lines).toContain("opened 1");
  await chmod(join(folder, "a.yaml"), 0o000);
  await expect.poll(() => lines).toContain("rejected file-unreadable 1");
  await chmod(join(folder, "a.yaml"), 0o644);
  await writeFile(join(folder, "a.yaml"), set(3));
  await expect.poll(() => lines).toContain("changed 3");
});
