// What the desk and the commands write: into the folder and nowhere else, whole or not at all, and what was meant.
import { spawn, spawnSync } from "node:child_process";
import { once } from "node:events";
import { chmod, lstat, mkdir, readdir, readFile, rename, rm, symlink, writeFile } from "node:fs/promises";
import { dirname, join } from "node:path";
import { followFlags } from "iudex";
import { loadFolder } from "iudex/tools";
import { describe, expect, it, onTestFinished } from "vitest";
import { FolderWriter } from "../../src/edit/writer.ts";
import { requireFileName } from "../../src/files/file-name.ts";
import { binary, iudex } from "../support/command.ts";
import { startDesk } from "../support/desk.ts";
import { folderWith, put } from "../support/folders.ts";
import { collected, next, sleep } from "../support/waiting.ts";

const base = "iudex: 1\nattributes: { id: text }\nflags: { a: { safe: 1 } }\n";

/** The command that makes a list of these ids. */
const newList = (folder: string, list: string, ...ids: string[]) =>
  iudex(
    "set",
    "cohort:crew",
    "--new-cohort",
    "--of",
    "id",
    "--list",
    list,
    "--add-id",
    ...ids,
    "--yes",
    "--flags",
    folder,
  );

/** Turns the folder of lists into a link to one outside and back, as fast as it can. */
const swapper = `
  const { renameSync } = require("node:fs");
  let count = 0;
  function turn(from, to) {
    try { renameSync(from, to); }
    catch { renameSync(to, "made-" + ++count); renameSync(from, to); }
  }
  process.stdout.write("begun");
  for (;;) {
    try { turn("lists", "kept"); turn("link", "lists"); turn("lists", "link"); turn("kept", "lists"); } catch {}
  }`;

async function isListed(folder: string, id: string): Promise<boolean> {
  const cohort = (await loadFolder(folder)).definitions!.cohorts.get("crew")!;
  return cohort.kind === "list" && cohort.ids.has(id);
}

describe("a new list", () => {
  it("takes the place of nothing that is there, be it a file or a link to one outside", async () => {
    const folder = await folderWith({ "a.yaml": base, "lists/notes.csv": "a,b\nkeep,me\n" });
    const secret = join(dirname(folder), "secret.csv");
    await writeFile(secret, "id\nkeep\n");
    await symlink(secret, join(folder, "lists/out.csv"));
    await symlink(join(dirname(folder), "nowhere.csv"), join(folder, "lists/dangling.csv"));
    for (const list of ["lists/notes.csv", "lists/out.csv", "lists/dangling.csv", "./lists//notes.csv"]) {
      const { code, err } = await newList(folder, list, "A-1");
      expect([list, code, err]).toEqual([
        list,
        2,
        expect.stringMatching(/There is (?:a file|something called) “lists\/\w+\.csv” already/),
      ]);
    }
    expect(await readFile(join(folder, "lists/notes.csv"), "utf8")).toBe("a,b\nkeep,me\n");
    expect(await readFile(secret, "utf8")).toBe("id\nkeep\n");
    expect(await readdir(dirname(folder))).not.toContain("nowhere.csv");
    expect(await readFile(join(folder, "a.yaml"), "utf8")).toBe(base);
  });

  it("is written through no folder that is a link", async () => {
    const folder = await folderWith({ "a.yaml": base });
    const outside = join(dirname(folder), "outside");
    await mkdir(outside);
    await symlink(outside, join(folder, "lists"));
    expect((await newList(folder, "lists/crew.csv", "A-1")).code).toBe(1);
    // Nor where the link has come since the folder was read.
    const write = new FolderWriter(folder).write(requireFileName("lists/crew.csv"), Buffer.from("id\n"), undefined);
    await expect(write).rejects.toThrow("“lists” is a link or a file, not a folder.");
    expect(await readdir(outside)).toEqual([]);
    expect(await readFile(join(folder, "a.yaml"), "utf8")).toBe(base);
  });

  it("is written nowhere else while its folder is swapped with a link to one outside, and an old one likewise", async () => {
    const folder = await folderWith({ "a.yaml": base, "lists/crew.csv": "id\nA-0\n" });
    const outside = join(dirname(folder), "outside");
    await mkdir(outside);
    await writeFile(join(outside, "crew.csv"), "id\nA-0\n");
    await symlink(outside, join(folder, "link"));
    const swapping = spawn(process.execPath, ["-e", swapper], { cwd: folder, stdio: ["ignore", "pipe", "inherit"] });
    onTestFinished(() => void swapping.kill());
    await once(swapping.stdout, "data");
    const { entries } = (await loadFolder(folder)).content.source;
    const ended = { written: 0, refused: 0 };
    for (let n = 1; n <= 600; n++) {
      const writer = new FolderWriter(folder);
      const [name, before] =
        n % 2 ? [`lists/new-${n}.csv`] : ["lists/crew.csv", entries.get("lists/crew.csv" as never)];
      const write = writer.write(requireFileName(name), Buffer.from("id\nA-0\n"), before);
      await write.then(
        () => ended.written++,
        () => ended.refused++,
      );
      if (n % 3 === 0) await writer.undo();
      await writer.close();
    }
    expect(ended.written).toBeGreaterThan(5);
    expect(ended.refused).toBeGreaterThan(5);
    expect(await readdir(outside)).toEqual(["crew.csv"]);
    expect(await readFile(join(outside, "crew.csv"), "utf8")).toBe("id\nA-0\n");
  });

  it("goes again, and an old file gets back what it held, if a later one cannot be written", async () => {
    const folder = await folderWith({ "a.yaml": base });
    const { entries } = (await loadFolder(folder)).content.source;
    const writer = new FolderWriter(folder);
    await writer.write(requireFileName("lists/crew.csv"), Buffer.from("id\n"), undefined);
    await writer.write(requireFileName("a.yaml"), Buffer.from("iudex: 1\n"), entries.get("a.yaml" as never));
    await rename(join(folder, "lists"), join(folder, "moved"));
    await writer.undo();
    await writer.close();
    expect(await readdir(join(folder, "moved"))).toEqual([]);
    expect(await readFile(join(folder, "a.yaml"), "utf8")).toBe(base);
  });

  it("holds just the ids that were meant, commas and quotes included", async () => {
    const folder = await folderWith({ "a.yaml": base });
    expect(await newList(folder, "lists/crew.csv", "Quay, North", 'say "hi"')).toMatchObject({ code: 0 });
    expect(await Promise.all(["Quay, North", 'say "hi"', "Quay"].map((id) => isListed(folder, id)))).toEqual([
      true,
      true,
      false,
    ]);
  });

  it.each([
    ["lists/crew.csv", " A-1"],
    ["lists/crew.txt", "A-1 "],
    ["lists/crew.txt", "A-1\nA-2"],
    ["lists/crew.csv", ""],
  ])("%s cannot hold the id %j, and nothing is written", async (list, id) => {
    const folder = await folderWith({ "a.yaml": base });
    const made = await newList(folder, list, "A-0", id);
    if (made.code === 0) expect(await isListed(folder, id)).toBe(true);
    else {
      expect(made.err).toContain("cannot hold the id");
      expect(await readdir(folder)).toEqual(["a.yaml"]);
    }
  });

  it("is the desk's as well: nothing is replaced, and ids are quoted", async () => {
    const { as, folder } = await startDesk();
    await writeFile(join(folder, "notes.txt"), "keep me\n");
    const add = (list: string, ids: readonly string[]) =>
      as("Ylva").post("api/draft/add", {
        change: {
          change: "cohort",
          cohort: "crew-list",
          isNew: true,
          of: "account.id",
          list,
          ids,
          file: "people.yaml",
        },
      });
    const refused = await add("notes.txt", ["A-1"]);
    expect([refused.status, refused.body.title]).toEqual([409, "There is a file “notes.txt” already."]);
    expect((await add("lists/quays.csv", ["Quay, North"])).status).toBe(200);
    const { body: review } = await as("Ylva").get("api/draft/review");
    expect((await as("Ylva").post("api/draft/write", { ...review, note: "quays" })).status).toBe(200);
    expect(await readFile(join(folder, "lists/quays.csv"), "utf8")).toBe('id\n"Quay, North"\n');
    expect(await readFile(join(folder, "notes.txt"), "utf8")).toBe("keep me\n");
  });
});

describe("ids that are added to a list", () => {
  it.each([
    ["crew.csv", "id,boat\nA-1,K\n", "Quay, North", true],
    ["crew.txt", "A-1\n", "A-2 ", false],
    ["crew.txt", "A-1\n", "A\nB", false],
    ["crew.txt", "A-1\n", "", false],
    ["crew.csv", "id\nA-1\n", "", false],
  ])("%s holding %j takes %j: %s", async (file, text, id, isTaken) => {
    const set = `${base}cohorts: { crew: { of: id, file: ${file} } }\n`;
    const folder = await folderWith({ "a.yaml": set, [file]: text });
    const { code } = await iudex("set", "cohort:crew", "--add-id", id, "--yes", "--flags", folder);
    expect(code).toBe(isTaken ? 0 : 2);
    expect(await isListed(folder, id)).toBe(isTaken);
    if (!isTaken) expect(await readFile(join(folder, file), "utf8")).toBe(text);
  });
});

describe("a folder that cannot be written", () => {
  /** Runs the command without the rights of a superuser. */
  function plainly(folder: string, ...words: string[]) {
    const plain = process.getuid?.() === 0 ? ["setpriv", "--bounding-set=-all", "--inh-caps=-all"] : [];
    const [program, ...rest] = [...plain, process.execPath, binary, ...words];
    return spawnSync(program!, rest, { cwd: dirname(folder), encoding: "utf8", timeout: 30_000 });
  }

  it("is told at once, for a stop and for a starter folder, without a stack", async () => {
    const folder = await folderWith({ "a.yaml": base });
    const home = dirname(folder);
    await chmod(folder, 0o555);
    await chmod(home, 0o555);
    onTestFinished(async () => {
      await chmod(home, 0o755);
      await chmod(folder, 0o755);
    });
    const began = performance.now();
    const stop = plainly(folder, "suspend", "a", "--yes", "--flags", folder);
    expect([stop.status, stop.stderr]).toEqual([2, expect.stringContaining("permission denied")]);
    const made = plainly(folder, "new", join(home, "fresh"));
    expect([made.status, made.stderr]).toEqual([2, expect.stringContaining("permission denied")]);
    expect(stop.stderr + made.stderr).not.toMatch(/^\s+at /m);
    // Not after any wait for a turn: that alone would be 49 seconds.
    expect(performance.now() - began).toBeLessThan(25_000);
  });
});

it("a file that is replaced keeps its mode, and a link to it inside the folder stays one", async () => {
  const folder = await folderWith({ "real/a.yaml": base });
  await chmod(join(folder, "real/a.yaml"), 0o640);
  await symlink("real/a.yaml", join(folder, "a.yaml"));
  expect(await iudex("set", "a", "--safe", "2", "--yes", "--flags", folder)).toMatchObject({ code: 0 });
  expect((await lstat(join(folder, "a.yaml"))).isSymbolicLink()).toBe(true);
  expect((await lstat(join(folder, "real/a.yaml"))).mode & 0o777).toBe(0o640);
  expect(await readFile(join(folder, "real/a.yaml"), "utf8")).toContain("safe: 2");
});

describe("what is still being written", () => {
  const definition =
    "iudex: 1\ncohorts: { crew: { of: id, file: crew.txt } }\nflags: { a: { safe: false, provided: cohort:crew, otherwise: true } }\n";
  const ids = Array.from({ length: 20_000 }, (_, i) => `A-${i}`);
  const whole = `${ids.join("\n")}\n`;

  it("keeps its last state, a list like a file, however long it takes, and it is said", async () => {
    const folder = await folderWith({ "a.yaml": definition, "crew.txt": whole });
    const flags = await followFlags(folder, { watch: { longest: 1_500 } });
    onTestFinished(() => flags.close());
    const problems = collected(flags, "problem");
    const changes = collected(flags, "change");
    const lost = new Set<string>();
    const asking = setInterval(() => {
      for (const id of ["A-0", "A-9999", "A-19999"]) if (flags.value("a", { id }) !== true) lost.add(id);
    }, 5);
    // In 400 pieces over eight seconds; who is on it before and after stays on it.
    const path = join(folder, "crew.txt");
    await writeFile(path, "");
    const more = `${whole}A-20000\n`;
    const size = Math.ceil(more.length / 400);
    for (let i = 0; i < 400; i++) {
      await writeFile(path, more.slice(i * size, (i + 1) * size), { flag: "a" });
      await sleep(20);
    }
    await expect.poll(() => flags.value("a", { id: "A-20000" })).toBe(true);
    clearInterval(asking);
    expect([...lost]).toEqual([]);
    expect(changes).toHaveLength(1);
    expect(problems.map(({ message }) => message)).toContain(
      "“crew.txt” is still being written. Until that ends, what was read of it last stays in force.",
    );
  });
});

it("a file that an editor renames away and writes anew is not taken for deleted while others are written", async () => {
  const text = (name: string, n: number) => `iudex: 1\nflags: { ${name}: { safe: ${n} } }\n`;
  const folder = await folderWith({ "a.yaml": text("a", 0), "b.yaml": text("b", 0) });
  const flags = await followFlags(folder, { watch: { quiet: 300, longest: 600 } });
  onTestFinished(() => flags.close());
  let missing = 0;
  const asking = setInterval(() => {
    if (flags.value("a") === undefined) missing++;
  }, 5);
  let writing = true;
  const writer = (async () => {
    for (let n = 1; writing; n++) {
      await writeFile(join(folder, "b.yaml"), text("b", n));
      await sleep(30);
    }
  })();
  for (let n = 1; n <= 8; n++) {
    await rename(join(folder, "a.yaml"), join(folder, "a.yaml~"));
    await sleep(200);
    await writeFile(join(folder, "a.yaml"), text("a", n));
    await sleep(350);
  }
  writing = false;
  await writer;
  await expect.poll(() => flags.value("a")).toBe(8);
  clearInterval(asking);
  expect(missing).toBe(0);
  // One that is deleted goes all the same.
  await rm(join(folder, "a.yaml"));
  await expect.poll(() => flags.value("a")).toBe(undefined);
});

it("closing ends a reading that is under way", async () => {
  const large = (n: number) =>
    `iudex: 1\nflags:\n${Array.from({ length: 20_000 }, (_, i) => `  f-${i}: { safe: ${n}, rules: [{ when: 'id == "A-${i}"', give: ${n + 1} }] }\n`).join("")}`;
  const folder = await folderWith({ "a.yaml": base });
  const flags = await followFlags(folder, { watch: { quiet: 20 } });
  const changed = next(flags, "change");
  await put(folder, "large.yaml", large(1));
  await changed;
  // How long reading takes here, and now.
  const began = performance.now();
  const again = next(flags, "change");
  await put(folder, "large.yaml", large(2));
  await again;
  const reading = performance.now() - began;
  await put(folder, "large.yaml", large(3));
  await sleep(reading / 3);
  const closing = performance.now();
  await flags.close();
  expect(performance.now() - closing).toBeLessThan(Math.max(1_000, reading / 2));
  expect(flags.value("f-1")).toBe(2);
});

it("closing ends, whenever it comes, in a process that has nothing else to do", async () => {
  const folder = await folderWith({ "a.yaml": base });
  const program = `
    import { writeFile } from "node:fs/promises";
    import { join } from "node:path";
    import { setTimeout as sleep } from "node:timers/promises";
    import { followFlags } from ${JSON.stringify(new URL("../../dist/index.js", import.meta.url).href)};
    const folder = process.argv[1];
    for (let after = 0; after < 400; after += 10) {
      const flags = await followFlags(folder, { watch: { quiet: 150 } });
      await writeFile(join(folder, "a.yaml"), "iudex: 1\\nflags: { a: { safe: " + after + " } }\\n");
      await sleep(after);
      await flags.close();
    }
    console.log("closed");`;
  const words = ["--input-type=module", "-e", program, folder];
  const { status, stdout } = spawnSync(process.execPath, words, { encoding: "utf8", timeout: 120_000 });
  expect([status, stdout]).toEqual([0, "closed\n"]);
});
