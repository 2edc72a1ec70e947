import { execFileSync, spawn, spawnSync } from "node:child_process";
import { existsSync } from "node:fs";
import { cp, mkdir, readdir, readFile, readlink, rename, rm, stat, writeFile } from "node:fs/promises";
import type { ServerResponse } from "node:http";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { defineCatalogue, type Flags, followFlags, number, type ShelfOptions } from "iudex";
import { folderShelf, publishFolder, type Shelf, webShelf } from "iudex/fleet";
import { describe, expect, onTestFinished, test } from "vitest";
import { EditionReader, FileStore } from "../../src/follow/index.ts";
import type { Place } from "../../src/shelf/index.ts";
import { put, replace } from "../support/folders.ts";
import { sendFile, serve } from "../support/serve.ts";
import { copiedDemo, freight, holdFreight, scratchFolder, set } from "../support/shelves.ts";
import { collected, next, sleep } from "../support/waiting.ts";

const by = "Crew";
async function follow(shelf: Shelf, options: ShelfOptions = {}): Promise<Flags> {
  const flags = await followFlags(shelf, { environment: "production", ...options });
  onTestFinished(() => flags.close());
  return flags;
}

async function stand() {
  const directory = join(await scratchFolder(), "shelf");
  return { directory, shelf: folderShelf(directory, { set }), folder: await copiedDemo() };
}

/** How a server may fail at a file. */
const failures: Record<string, (path: string, response: ServerResponse) => Promise<void> | void> = {
  "broke off": async (path, response) => {
    const bytes = await readFile(path);
    response.writeHead(200, { "Content-Length": bytes.length });
    response.write(bytes.subarray(0, bytes.length / 2), () => response.destroy());
  },
  "is cut off": async (path, response) => {
    const bytes = await readFile(path);
    response.end(bytes.subarray(0, bytes.length / 2));
  },
  "is not what its edition says": async (path, response) => {
    const bytes = await readFile(path);
    bytes[10]! ^= 1;
    response.end(bytes);
  },
  "is longer than its edition says": async (path, response) => {
    response.end(Buffer.concat([await readFile(path), Buffer.alloc(1_000_000)]));
  },
  "is not there": (_, response) => void response.writeHead(404).end(),
  "answers 500": (_, response) => void response.writeHead(500).end(),
};

describe("a file on its way", () => {
  for (const [words, fail] of Object.entries(failures)) {
    test(`that ${words} is told of once, and comes whole when the server is well`, async () => {
      const { directory, shelf, folder } = await stand();
      await publishFolder(shelf, { folder, by });
      let isWell = true;
      const address = await serve((request, response) => {
        const path = join(directory, request.url!);
        if (!isWell && request.url!.startsWith("/files/")) return void fail(path, response);
        sendFile(path, response);
      });
      const flags = await follow(webShelf(address, { every: 200 }));
      const problems = collected(flags, "problem");
      isWell = false;
      await holdFreight(folder, 125);
      await publishFolder(shelf, { folder, by });
      await expect
        .poll(() => problems.slice(1).map(({ message }) => message))
        .toEqual([expect.stringContaining(words)]);
      await sleep(500);
      expect(problems).toHaveLength(2);
      expect(flags.value("hold-minutes", freight)).toBe(120);
      const change = next(flags, "change");
      isWell = true;
      await change;
      expect(flags.value("hold-minutes", freight)).toBe(125);
    });
  }

  test("that sends nothing any more is given up, and asked for again", async () => {
    const { directory, shelf, folder } = await stand();
    await publishFolder(shelf, { folder, by });
    const silent: ServerResponse[] = [];
    let isWell = true;
    const address = await serve((request, response) => {
      const path = join(directory, request.url!);
      if (isWell || !request.url!.startsWith("/files/")) sendFile(path, response);
      else silent.push(response.writeHead(200));
    });
    const flags = await follow(webShelf(address, { every: 200 }));
    const problems = collected(flags, "problem");
    isWell = false;
    await holdFreight(folder, 125);
    await publishFolder(shelf, { folder, by });
    await expect.poll(() => silent.length).toBeGreaterThan(0);
    isWell = true;
    const change = next(flags, "change");
    await change;
    expect(problems.map(({ message }) => message).join("\n")).toContain("has not answered for 10 seconds");
    expect(flags.value("hold-minutes", freight)).toBe(125);
  });
});

test("only what is new is fetched: of a hundred files that one, and the edition", async () => {
  const { directory, shelf, folder } = await stand();
  for (let i = 0; i < 100; i++)
    await put(
      folder,
      `more/flags-${i}.yaml`,
      `iudex: 1\nflags:\n  flag-${i}: { lifespan: lasting, safe: false, otherwise: true }\n`,
    );
  await publishFolder(shelf, { folder, by });
  const asked: string[] = [];
  const address = await serve((request, response) => {
    asked.push(request.url!);
    sendFile(join(directory, request.url!), response);
  });
  const flags = await follow(webShelf(address, { every: 200 }));
  expect(asked.filter((url) => url.startsWith("/files/"))).toHaveLength(106);
  asked.length = 0;
  await replace(join(folder, "more/flags-7.yaml"), "true", "false");
  const change = next(flags, "change");
  const { edition } = await publishFolder(shelf, { folder, by });
  await change;
  const { sha256 } = edition!.files.find(({ path }) => path === "more/flags-7.yaml")!;
  expect(asked.filter((url) => url.startsWith("/files/"))).toEqual([`/files/${sha256}`]);
});

test("an edition that is seen before its files waits for them", async () => {
  const { directory, shelf, folder } = await stand();
  await publishFolder(shelf, { folder, by });
  const copied = join(await scratchFolder(), "copied");
  await cp(directory, copied, { recursive: true });
  const flags = await follow(folderShelf(copied));
  await holdFreight(folder, 125);
  const { edition } = await publishFolder(shelf, { folder, by });
  const problem = next(flags, "problem");
  await cp(join(directory, "edition.json"), join(copied, "edition.json.new"));
  await rename(join(copied, "edition.json.new"), join(copied, "edition.json"));
  expect((await problem).message).toMatch(/files\/[0-9a-f]{64}” cannot be read: it does not exist/);
  expect(flags.value("hold-minutes", freight)).toBe(120);
  const { sha256 } = edition!.files.find(({ path }) => path === "fares.yaml")!;
  const change = next(flags, "change");
  await cp(join(directory, "files", sha256), join(copied, "files", sha256));
  await change;
  expect(flags.value("hold-minutes", freight)).toBe(125);
});

test("a start by the copy goes on to the edition of which the files could not be had, without a newer one", async () => {
  const { directory, shelf, folder } = await stand();
  const lastGood = join(await scratchFolder(), "good");
  await publishFolder(shelf, { folder, by });
  await (await follow(folderShelf(directory), { lastGood })).close();
  await holdFreight(folder, 125);
  const { edition } = await publishFolder(shelf, { folder, by });
  const { sha256 } = edition!.files.find(({ path }) => path === "fares.yaml")!;
  const file = join(directory, "files", sha256);
  await rename(file, `${file}.away`);
  const flags = await follow(folderShelf(directory, { every: 200 }), { lastGood });
  expect(flags.origin).toMatchObject({ edition: 1, kept: true });
  const recovered = next(flags, "recovered");
  await rename(`${file}.away`, file);
  await recovered;
  expect(flags.origin).toMatchObject({ edition: 2, kept: false });
  expect(flags.value("hold-minutes", freight)).toBe(125);
});

test.skipIf(!existsSync("/proc/self/fd"))("what breaks off while it is stored leaves no file open", async () => {
  const { directory, shelf, folder } = await stand();
  const { edition } = await publishFolder(shelf, { folder, by });
  // What its list says is a little less than what is there.
  const store = new FileStore(undefined);
  const place = (shelf as unknown as Record<symbol, Place>)[Object.getOwnPropertySymbols(shelf)[0]!]!;
  const cut: Place = {
    ...place,
    bytes: async function* (file, signal) {
      for await (const piece of place.bytes(file, signal)) {
        yield piece;
        yield piece;
      }
    },
  };
  const open = async () => {
    const names = await readdir("/proc/self/fd");
    const paths = await Promise.all(names.map((name) => readlink(`/proc/self/fd/${name}`).catch(() => "")));
    return paths.filter((path) => path.startsWith(directory)).length;
  };
  const reader = new EditionReader(cut, store);
  await expect(reader.read(edition!, new AbortController().signal)).rejects.toThrow("longer than its edition says");
  reader.close();
  await expect.poll(open).toBe(0);
  await store.close();
});

test("a shelf that was emptySet, or has gone, changes nothing; a later edition counts again", async () => {
  const { directory, shelf, folder } = await stand();
  await publishFolder(shelf, { folder, by });
  await holdFreight(folder, 125);
  await publishFolder(shelf, { folder, by });
  const flags = await follow(folderShelf(directory, { every: 200 }));
  const problems = collected(flags, "problem");
  await rm(join(directory, "edition.json"));
  await expect.poll(() => problems.map(({ message }) => message)).toContain("The shelf holds no edition any more.");
  await rm(directory, { recursive: true });
  await expect.poll(() => problems.at(-1)?.message).toContain("cannot be read: it does not exist");
  expect(flags.value("hold-minutes", freight)).toBe(125);

  await holdFreight(folder, 126);
  await publishFolder(shelf, { folder, by });
  await expect
    .poll(() => flags.origin)
    .toMatchObject({ refused: { edition: 1, why: expect.stringContaining("below 2") } });
  await holdFreight(folder, 127);
  expect((await publishFolder(shelf, { folder, by, above: 2 })).edition!.number).toBe(3);
  await expect.poll(() => flags.value("hold-minutes", freight)).toBe(127);
});

test("a broken set in a sound edition is rejected with its problems, and a start goes by the copy", async () => {
  const { shelf, directory, folder } = await stand();
  await publishFolder(shelf, { folder, by });
  const lastGood = join(await scratchFolder(), "good");
  const flags = await follow(folderShelf(directory), { environment: "local", lastGood });
  const rejected = next(flags, "rejected");
  // This follower's environment goes, which nobody else minds.
  await replace(join(folder, "set.yaml"), / {2}local:.*\n/, "");
  await publishFolder(shelf, { folder, by });
  expect((await rejected).summary).toContain("stay in force");
  await expect.poll(() => flags.origin).toMatchObject({ edition: 1, refused: { edition: 2 } });
  expect(flags.value("hold-minutes", freight)).toBe(120);
  await flags.close();
  const again = await follow(folderShelf(directory), { environment: "local", lastGood });
  expect(again.origin).toMatchObject({ edition: 1, kept: true });
});

test("an edition that a strict catalogue will not have is refused, and the list of followers would say so", async () => {
  const { directory, shelf, folder } = await stand();
  await publishFolder(shelf, { folder, by });
  const catalogue = defineCatalogue({ "hold-minutes": number({ fallback: 15 }) });
  const flags = await follow(folderShelf(directory), { catalogue: catalogue as never, strict: true });
  await replace(join(folder, "fares.yaml"), / {2}hold-minutes:[\s\S]*$/, "");
  await publishFolder(shelf, { folder, by });
  await expect
    .poll(() => flags.origin)
    .toMatchObject({ edition: 1, refused: { edition: 2, why: expect.stringContaining("do not fit the catalogue") } });
  expect(flags.value("hold-minutes", freight)).toBe(120);
});

/** Whether a file system of a test's own can be mounted here. */
const canMount = process.platform === "linux" && spawnSync("unshare", ["--mount", "true"]).status === 0;

test.skipIf(!canMount)(
  "a full disk under lastGood costs no edition, and the copy is made up for when there is room",
  async () => {
    const lastGood = join(await scratchFolder(), "small");
    await mkdir(lastGood);
    execFileSync("mount", ["-t", "tmpfs", "-o", "size=64k", "tmpfs", lastGood], { stdio: "ignore" });
    onTestFinished(() => void execFileSync("umount", [lastGood]));
    const { directory, shelf, folder } = await stand();
    await publishFolder(shelf, { folder, by });
    const flags = await follow(folderShelf(directory, { every: 200 }), { lastGood });
    await writeFile(join(lastGood, "filler"), Buffer.alloc(60_000)).catch(() => {});
    await writeFile(join(lastGood, "filler2"), Buffer.alloc(8_000)).catch(() => {});
    const problems = collected(flags, "problem");
    const change = next(flags, "change");
    await put(folder, "more.yaml", `iudex: 1\n# ${"x".repeat(20_000)}\n`);
    await holdFreight(folder, 125);
    await publishFolder(shelf, { folder, by });
    await change;
    expect(flags.value("hold-minutes", freight)).toBe(125);
    await expect
      .poll(() => problems.map(({ message }) => message).join("\n"))
      .toContain("No copy of edition 2 could be kept");
    await rm(join(lastGood, "filler"), { force: true });
    await rm(join(lastGood, "filler2"), { force: true });
    await expect.poll(async () => (await goodRecord(lastGood)).includes('\\"number\\":2')).toBe(true);
    await flags.close();
    await rm(directory, { recursive: true });
    const again = await follow(folderShelf(directory), { lastGood });
    expect(again.origin).toMatchObject({ edition: 2, kept: true });
    expect(again.value("hold-minutes", freight)).toBe(125);
  },
);

test("a file on this machine that is not what its name says is fetched again", async () => {
  const { directory, shelf, folder } = await stand();
  const { edition } = await publishFolder(shelf, { folder, by });
  const lastGood = join(await scratchFolder(), "good");
  await (await followFlags(folderShelf(directory), { environment: "production", lastGood })).close();
  const { sha256 } = edition!.files.find(({ path }) => path === "fares.yaml")!;
  await replace(join(lastGood, "files", sha256), /(give: |gives: )120/g, "$1999");
  const flags = await follow(folderShelf(directory), { lastGood });
  expect(flags.value("hold-minutes", freight)).toBe(120);
  expect(await readFile(join(lastGood, "files", sha256), "utf8")).not.toContain("999");
});

async function goodRecord(lastGood: string): Promise<string> {
  const [source] = await readdir(join(lastGood, "sets"));
  return readFile(join(lastGood, "sets", source!, "good.json"), "utf8");
}

test("clocks an hour apart play no part", async () => {
  const { directory, shelf, folder } = await stand();
  await publishFolder(shelf, { folder, by });
  const flags = await follow(folderShelf(directory, { every: 200 }), { clock: () => Date.now() + 3_600_000 });
  await holdFreight(folder, 125);
  const ran = spawn(process.execPath, ["--import", clockBy(-3_600_000), publisher, "folder", directory, folder]);
  await new Promise((resolve) => ran.once("exit", resolve));
  await expect.poll(() => flags.value("hold-minutes", freight)).toBe(125);
  const newest = await shelf.newest();
  expect(Date.now() - Date.parse(newest!.published)).toBeGreaterThan(3_500_000);
});

const publisher = fileURLToPath(new URL("../support/publisher.mjs", import.meta.url));

/** Loaded first, it moves the clock of a process. */
function clockBy(milliseconds: number): string {
  const shift = new URL("../../scripts/day/shift-clock.mjs", import.meta.url).href;
  const code = `import { shiftClock } from "${shift}"; shiftClock(${milliseconds});`;
  return `data:text/javascript,${encodeURIComponent(code)}`;
}

test("the files of a follower without lastGood go when it is closed", async () => {
  const { directory, shelf, folder } = await stand();
  await publishFolder(shelf, { folder, by });
  const temporary = await scratchFolder();
  const before = process.env["TMPDIR"];
  process.env["TMPDIR"] = temporary;
  try {
    const flags = await followFlags(folderShelf(directory), { environment: "production" });
    const [own] = await readdir(temporary);
    expect((await stat(join(temporary, own!))).mode & 0o077).toBe(0);
    await flags.close();
    expect(await readdir(temporary)).toEqual([]);
  } finally {
    if (before === undefined) delete process.env["TMPDIR"];
    else process.env["TMPDIR"] = before;
  }
});
