import { fork, spawn } from "node:child_process";
import { createHmac } from "node:crypto";
import { writeFileSync } from "node:fs";
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
    const copies = (await readdir(kept)).filter((name) => name.endsWith(".copy")).sort();
    expect(copies).toHaveLength(3);
    const newest = join(kept, copies.at(-1)!);
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
    await expect.poll(async () => (await readdir(kept)).filter((name) => name.endsWith(".copy"))).toHaveLength(1);
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
    const names = await readdir(kept);
    // The key, the copy, and the note of what is suspended.
    expect(names).toHaveLength(3);
    for (const name of names) expect(await modes(join(kept, name))).toBe("600");
  });

  it("is taken by nobody who has not this folder's key, and made by no other shape or date go", async () => {
    const folder = await folderWith({ "a.yaml": set(1), "ids.txt": "A-17\n" });
    const kept = join(folder, "../kept");
    const keep = async (n: number) => {
      await writeFile(join(folder, "a.yaml"), set(n));
      await (await followFlags(folder, { lastGood: kept, watch: false })).close();
    };
    for (let n = 1; n <= 3; n++) await keep(n);
    const copies = async () => (await readdir(kept)).filter((name) => name.endsWith(".copy")).sort();
    const good = await copies();
    const newest = await readFile(join(kept, good[2]!), "utf8");
    // Of another shape, of the future, signed by another key, tampered with: each newer than the good ones.
    const forged = newest.replace("safe: 3", "safe: 9");
    const body = forged.slice(0, -65);
    const other = createHmac("sha256", Buffer.alloc(32)).update(body).digest("hex");
    await writeFile(join(kept, good[2]!.replace(/^\d+T\d+/, "99991231T235959999")), newest);
    const now = new Date().toISOString().replace(/[-:.]/g, "");
    await writeFile(join(kept, `${now}-00000000.v2.copy`), newest);
    await writeFile(join(kept, `${now}-00000001.v4.copy`), forged);
    await writeFile(join(kept, `${now}-00000002.v4.copy`), `${body}${other}\n`);
    await writeFile(join(kept, `${now}-00000003.v4.copy`), "");
    await writeFile(join(folder, "a.yaml"), broken);
    const opened = async () => {
      const flags = await followFlags(folder, { lastGood: kept, watch: false });
      await flags.close();
      return [flags.origin.kind, flags.value("a")];
    };
    expect(await opened()).toEqual(["last-good", 3]);
    await keep(4);
    // The good ones before it are still there: what is no good copy counts for nothing.
    expect(await copies()).toEqual(expect.arrayContaining(good.slice(1)));
    await writeFile(join(folder, "a.yaml"), broken);
    expect(await opened()).toEqual(["last-good", 4]);
    await rm(join(kept, "key"));
    await expect(opened()).rejects.toThrow("cannot be used");
  });

  it("spares a later start the parsing of texts that it holds, and of no others", async () => {
    const folder = await folderWith({ "a.yaml": set(1), "b.json": '{ "iudex": 1 }', "ids.txt": "A-17\n" });
    const kept = join(folder, "../kept");
    const opened = async () => {
      const flags = await followFlags(folder, { lastGood: kept, watch: false });
      await flags.close();
      return [flags.origin.kind, flags.value("a")];
    };
    /** Seals and signs a copy anew that says something else, so that one can see what was taken from it. */
    const change = async (edit: (copy: string) => string, sealedBy?: Uint8Array) => {
      const [name] = (await readdir(kept))
        .filter((each) => each.endsWith(".copy"))
        .sort()
        .reverse();
      const key = await readFile(join(kept, "key"));
      const sign = (text: string, by: Uint8Array = key) => createHmac("sha256", by).update(text).digest("hex");
      const [first, rest] = (await readFile(join(kept, name!), "utf8")).slice(0, -65).split(/^\{"sealed":.*\n/m);
      const edited = edit(first!);
      const body = `${edited}${JSON.stringify({ sealed: sign(edited, sealedBy) })}\n${rest}`;
      await writeFile(join(kept, name!), `${body}${sign(body)}\n`);
    };
    const read = '"parsed":{"data":{"iudex":1,';
    const twice = (copy: string) => copy.replace('"a":{"safe":1', '"a":{"safe":2');
    expect(await opened()).toEqual(["files", 1]);
    await change((copy) => {
      expect(copy.split(read)).toHaveLength(2);
      return twice(copy);
    });
    expect(await opened()).toEqual(["files", 2]);
    // What another edition of the parser has read is read anew.
    await change((copy) => copy.replace(/"parser":"[^"]*"/, '"parser":"0 yaml 1.0.0"'));
    expect(await opened()).toEqual(["files", 1]);
    // So is what another key has sealed, and a copy that was cut off before its seal.
    await change(twice, Buffer.alloc(32));
    expect(await opened()).toEqual(["files", 1]);
    await change(twice);
    const newest = (await readdir(kept))
      .filter((each) => each.endsWith(".copy"))
      .sort()
      .at(-1)!;
    await writeFile(join(kept, newest), (await readFile(join(kept, newest), "utf8")).split('{"sealed"')[0]!);
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
    const [copy] = (await readdir(kept)).filter((name) => name.endsWith(".copy"));
    const lines = (await readFile(join(kept, copy!), "utf8")).split("\n").filter((line) => line.startsWith('{"file"'));
    expect(lines.map((line) => "parsed" in JSON.parse(line))).toEqual([false, true]);
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
  await writeFile(join(folder, "a.yaml"), set(3));
  await chmod(join(folder, "a.yaml"), 0o644);
  await expect.poll(() => lines).toContain("changed 3");
});
