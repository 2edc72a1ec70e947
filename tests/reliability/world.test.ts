import { execFile } from "node:child_process";
import * as realFiles from "node:fs/promises";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { beforeAll, describe, expect, onTestFinished, test } from "vitest";
import type { NewList, Place } from "../../src/shelf/index.ts";
import { shelfKind } from "../support/shelves.ts";
import { world } from "../world/machine/clock.ts";
import { Disk } from "../world/machine/disk.ts";
import { Engine } from "../world/machine/engine.ts";
import * as worldFiles from "../world/machine/fs.ts";
import { request, Server, serve } from "../world/machine/net.ts";

const simulate = join(import.meta.dirname, "../../scripts/simulate.mjs");

/** Plays some worlds in a process of their own. */
async function simulated(...words: string[]): Promise<string> {
  const run = promisify(execFile)(process.execPath, [simulate, ...words], { timeout: 300_000 });
  const { stdout } = await run.catch(({ stdout }: { readonly stdout: string }) => ({ stdout }));
  return stdout;
}

describe("services in a world of their own", () => {
  let first: string;
  beforeAll(async () => {
    first = await simulated("--runs", "3", "--days", "0.02", "--seed", "2");
  }, 300_000);

  test("the same seed is the same run", async () => {
    const traces = first.split("\n").filter((line) => /^seed \d+: \w+, trace [0-9a-f]+$/.test(line));
    expect(traces).toHaveLength(3);
    expect(new Set(traces.map((line) => line.split(" ").at(-1))).size).toBe(3);
    const again = await simulated("--runs", "3", "--days", "0.02", "--seed", "2");
    expect(again.split("\n").slice(0, 3)).toEqual(traces);
  }, 300_000);

  test("twenty seconds of worlds nobody has seen: no stop is lost, no file given that never was", async () => {
    const seed = String(Math.floor(Math.random() * 1e6));
    const said = await simulated("--seconds", "20", "--days", "0.1", "--seed", seed);
    expect(said).toMatch(/ 0 faults$/m);
    expect(Number(/(\d+) service-hours/.exec(said)?.[1])).toBeGreaterThan(3);
  }, 300_000);
});

/** Both worlds answer the same: what came of it, or the code of the fault. */
async function outcome(work: () => Promise<unknown>): Promise<unknown> {
  try {
    return await work();
  } catch (error) {
    return (error as NodeJS.ErrnoException).code ?? String(error);
  }
}

const names = ["a", "b", "c", "d/a", "d/b", "d", "e", "d/a/x"];

type FileSystem = Pick<
  typeof realFiles,
  "mkdir" | "rename" | "link" | "rm" | "readFile" | "writeFile" | "readdir" | "stat" | "lstat" | "realpath" | "open"
>;

/** One step on a disk, the same on each that is given. */
function anyStep(): (files: FileSystem, root: string) => Promise<unknown> {
  const [one, other] = [world.oneOf(names), world.oneOf(names)];
  const text = String(world.below(1e6));
  return world.oneOf<(files: FileSystem, root: string) => Promise<unknown>>([
    (files, root) => files.mkdir(join(root, one)),
    (files, root) => files.writeFile(join(root, one), text),
    (files, root) => files.rename(join(root, one), join(root, other)),
    (files, root) => files.link(join(root, one), join(root, other)),
    (files, root) => files.rm(join(root, one), { force: true }),
    async (files, root) => (await files.readFile(join(root, one))).toString("utf8"),
    async (files, root) => [...(await files.readdir(join(root, one)))].sort(),
    async (files, root) => {
      const found = await files.stat(join(root, one));
      return [found.isFile() ? found.size : "folder", found.isDirectory()];
    },
    async (files, root) => (await files.realpath(join(root, one))).slice(-one.length),
    async (files, root) => {
      const file = await files.open(join(root, one), "wx");
      await file.writeFile(text);
      await file.sync();
      await file.close();
    },
  ]);
}

/** Does something in the made-up world, to its end. */
async function inWorld<T>(work: () => Promise<T>): Promise<T> {
  let came: T | undefined;
  await world.until(
    work().then((value) => {
      came = value;
    }),
  );
  return came as T;
}

/** Tags of files of this size. */
const tag = /^"[0-9a-f]+-23"$/;

/** What a server answers who asks for a file, for one that is not there, and for the first one again. */
async function answers(ask: typeof fetch, base: string): Promise<(readonly [number, string, boolean])[]> {
  const found: (readonly [number, string, boolean])[] = [];
  let known = "";
  for (const path of ["/edition.json", "/stops.json", "/edition.json"]) {
    const response = await ask(new URL(path, base), { headers: known === "" ? {} : { "If-None-Match": known } });
    const pieces: Uint8Array[] = [];
    for await (const piece of (response.body ?? []) as AsyncIterable<Uint8Array>) pieces.push(piece);
    known = response.headers.get("ETag") ?? known;
    found.push([response.status, Buffer.concat(pieces).toString("utf8"), tag.test(known)]);
  }
  return found;
}

describe("the models are held against the real thing", () => {
  test("a disk: 3,000 steps by chance, on both", async () => {
    const root = await realFiles.mkdtemp(join(tmpdir(), "iudex-world-"));
    onTestFinished(() => realFiles.rm(root, { recursive: true, force: true }));
    world.reset(11);
    worldFiles.forgetDisks();
    await inWorld(() => worldFiles.mkdir("/root"));
    for (let i = 0; i < 3_000; i++) {
      const step = anyStep();
      const real = await outcome(() => step(realFiles, root));
      const made = await inWorld(() => outcome(() => step(worldFiles as unknown as FileSystem, "/root")));
      expect([i, made]).toEqual([i, real]);
    }
  });

  test("a web server: what is there, what is not, and what has not changed", async () => {
    world.reset(12);
    const disk = new Disk();
    const text = Buffer.from('{ "payload": "", "signatures": [] }');
    const file = disk.make("file");
    file.bytes = text;
    disk.enter(disk.root, "edition.json", file);
    serve("https://made.example", new Server(disk, ""));
    const real = createServer((asked, answer) => {
      const isThere = asked.url === "/edition.json";
      const isSame = isThere && tag.test(asked.headers["if-none-match"] ?? "");
      answer.writeHead(isSame ? 304 : isThere ? 200 : 404, isThere ? { ETag: '"0-23"' } : {});
      answer.end(isThere && !isSame ? text : undefined);
    });
    await new Promise<void>((resolve) => real.listen(0, "127.0.0.1", resolve));
    onTestFinished(() => void real.close());
    const origin = `http://127.0.0.1:${(real.address() as AddressInfo).port}`;
    const made = await inWorld(() => answers(request as unknown as typeof fetch, "https://made.example"));
    expect(made).toEqual(await answers(fetch, origin));
    expect(made.map(([status]) => status)).toEqual([200, 404, 304]);
  });

  for (const name of ["Redis", "PostgreSQL"])
    test.runIf(shelfKind(name).isHere)(`an engine, as ${name} is: 60 steps by chance, on both`, async () => {
      const { shelf } = await shelfKind(name).stand();
      // The shelf is one of the built library.
      const [placeOf] = Object.getOwnPropertySymbols(shelf);
      const real = (shelf as unknown as Record<symbol, Place>)[placeOf!]!;
      await real.publishing!.begin?.();
      world.reset(13);
      const made = new Engine().place(1_000);
      for (let i = 0; i < 60; i++) {
        const step = anyPut();
        expect([i, await inWorld(() => step(made))]).toEqual([i, await step(real)]);
      }
    });
});

const never = new AbortController().signal;

/** Puts a list on some base, right or wrong, and says what stands then. */
function anyPut(): (place: Place) => Promise<unknown> {
  const [name, base] = [world.oneOf(["edition", "stops"] as const), world.below(6)];
  const number = base + 1;
  const payload = { edition: 1, stops: 1, set: "ternhaven", number, is: world.below(1e6) };
  const text = JSON.stringify({ payload: Buffer.from(JSON.stringify(payload)).toString("base64url"), signatures: [] });
  const list: NewList = { name, set: "ternhaven", number, text };
  return async (place) => {
    const isPut = await place.publishing!.put(list, [], base === 0 ? undefined : base);
    const both = place.newest({ edition: undefined, stops: undefined }, never);
    const texts = [await both.edition, await both.stops].map((look) => (look.kind === "list" ? look.text : look.kind));
    return [isPut, texts, await place.list(name, number, never)];
  };
}
