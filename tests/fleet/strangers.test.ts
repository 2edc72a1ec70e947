import { execFileSync } from "node:child_process";
import { rename, rm, symlink, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { followFlags, type ShelfOptions } from "iudex";
import { folderShelf, postgresShelf, publishFolder, redisShelf, suspendAtShelf, webShelf } from "iudex/fleet";
import { GeneralSign, importJWK } from "jose";
import { createClient } from "redis";
import { describe, expect, onTestFinished, test } from "vitest";
import { has } from "../support/engines.ts";
import { serve } from "../support/serve.ts";
import {
  copiedDemo,
  freight,
  keyPair,
  publisherAndStopper,
  scratchFolder,
  set,
  shelfKind,
} from "../support/shelves.ts";
import { collected, next, sleep } from "../support/waiting.ts";

// A stranger who can write a shelf and cannot sign costs a follower at most one look's worth, and changes no verdict.

async function stand(options: ShelfOptions = {}) {
  const { key, stopKey, keys } = await publisherAndStopper();
  const directory = join(await scratchFolder(), "shelf");
  const shelf = folderShelf(directory, { set, every: 200 });
  const folder = await copiedDemo();
  await publishFolder(shelf, { folder, key, by: "Crew" });
  const flags = await followFlags(shelf, { environment: "production", keys, ...options });
  onTestFinished(() => flags.close());
  return { key, stopKey, keys, directory, shelf, folder, flags };
}

const putOver = async (directory: string, name: string, text: string) => {
  await writeFile(join(directory, "aside"), text);
  await rename(join(directory, "aside"), join(directory, name));
};

describe("a stranger who can write a folder shelf", () => {
  const lists = ["edition.json", "stops.json"] as const;

  test.each<[string, string, (path: string) => Promise<unknown> | unknown]>([
    ["a pipe", "not a regular file", (path) => execFileSync("mkfifo", [path])],
    ["a device without an end", "not a regular file", (path) => symlink("/dev/zero", path)],
    ["a directory", "cannot be read", (path) => execFileSync("mkdir", [path])],
    ["a list of 100 MB", "its list is longer than 2 MB", (path) => execFileSync("truncate", ["-s", "100M", path])],
  ])("%s in the place of a list is told of, and holds nothing up", async (_, why, make) => {
    const { flags, directory } = await stand();
    const problems = collected(flags, "problem");
    for (const name of lists) {
      await rm(join(directory, name), { force: true, recursive: true });
      await make(join(directory, name));
    }
    await expect.poll(() => problems.map(({ message }) => message).join("\n")).toContain(why);
    expect(flags.value("hold-minutes", freight)).toBe(120);
    const start = performance.now();
    await flags.close();
    expect(performance.now() - start).toBeLessThan(1_000);
  });

  test("a file that is a pipe is not waited for, and the stop goes by", async () => {
    const { flags, directory, shelf, folder, key, stopKey, keys } = await stand();
    const problems = collected(flags, "problem");
    await writeFile(join(folder, "more.yaml"), "iudex: 1\nflags: { more: { safe: 1, lifespan: lasting } }\n");
    // The edition's file is a pipe before its list is seen.
    const { edition } = await publishFolder(shelf, { folder, key, keys, by: "Crew", trial: true });
    const file = edition!.files.find(({ path }) => path === "more.yaml")!;
    execFileSync("mkfifo", [join(directory, "files", file.sha256)]);
    const carried = await publishFolder(shelf, { folder, key, keys, by: "Crew" });
    expect(carried.edition!.number).toBe(2);
    await suspendAtShelf(shelf, { flag: "hold-minutes" }, { key: stopKey, keys });
    await expect.poll(() => flags.verdict("hold-minutes", freight).cause).toBe("suspended");
    expect(problems.map(({ message }) => message).join("\n")).not.toContain("rejected");
  });

  test("thousands of signatures, and a key's name of a megabyte, are refused before one is verified", async () => {
    const { flags, directory, keys } = await stand();
    const stranger = await keyPair("2026-11");
    const jws = new GeneralSign(new TextEncoder().encode("{}"));
    jws
      .addSignature(await importJWK(stranger.key, "EdDSA"))
      .setProtectedHeader({ alg: "EdDSA", kid: "2026-11", typ: "iudex-edition" });
    const { payload, signatures } = await jws.sign();
    const problems = collected(flags, "problem");
    await putOver(
      directory,
      "edition.json",
      JSON.stringify({ payload, signatures: Array.from({ length: 10_989 }, () => signatures[0]) }),
    );
    await expect
      .poll(() => problems.map(({ message }) => message))
      .toEqual(["The newest edition is refused: it bears 10989 signatures, and at most 8 are looked at."]);
    const header = Buffer.from(JSON.stringify({ alg: "EdDSA", kid: "k".repeat(1_000_000), typ: "iudex-stops" }));
    const named = { payload, signatures: [{ protected: header.toString("base64url"), signature: "AAAA" }] };
    await putOver(directory, "stops.json", JSON.stringify(named));
    await expect.poll(() => problems.length).toBe(2);
    expect(problems[1]!.message.length).toBeLessThan(500);
    expect(problems[1]!.message).toMatch(/is signed by the key “k{200}…”, which is none of those known here/);
    void keys;
  });
});

test.skipIf(!has("redis"))(
  "a flood of notices brings ten looks a second, and a list of 100 MB two megabytes",
  async () => {
    const { key, keys } = await publisherAndStopper();
    const engine = await shelfKind("Redis").stand();
    await publishFolder(engine.shelf, { folder: await copiedDemo(), key, by: "Crew", set });
    const client = await createClient({ url: engine.address }).connect();
    const noisy = await createClient({ url: engine.address }).connect();
    onTestFinished(() => {
      client.destroy();
      noisy.destroy();
    });
    const flags = await followFlags(redisShelf(client, { set, every: 10_000 }), { environment: "production", keys });
    onTestFinished(() => flags.close());
    let looks = 0;
    let bytes = 0;
    const send = client.sendCommand.bind(client);
    client.sendCommand = (async (...words: Parameters<typeof send>) => {
      const answer = await send(...words);
      if (words[0][0] === "GETRANGE" && String(words[0][1]).endsWith(":stops")) {
        looks++;
        bytes = Math.max(bytes, Buffer.byteLength(answer as never));
      }
      return answer;
    }) as typeof send;
    const until = performance.now() + 2_000;
    while (performance.now() < until)
      await Promise.all(Array.from({ length: 200 }, () => noisy.publish(`iudex:{${set}}:news`, "stops 9")));
    expect(looks).toBeGreaterThan(3);
    expect(looks).toBeLessThan(25);
    const problem = next(flags, "problem");
    await noisy.set(`iudex:{${set}}:stops`, "x".repeat(100_000_000));
    await noisy.publish(`iudex:{${set}}:news`, "stops 9");
    expect((await problem).message).toContain("its list is longer than 2 MB");
    expect(bytes).toBeLessThanOrEqual(2 * 2 ** 20 + 1);
  },
);

describe("a web server", () => {
  test("whose clock is an hour ahead keeps nobody away for an hour", async () => {
    const { directory } = await stand();
    const { sendFile } = await import("../support/serve.ts");
    let asked = 0;
    let isWell = true;
    const address = await serve((request, response) => {
      if (isWell) return sendFile(join(directory, request.url!), response);
      asked++;
      const ahead = Date.now() + 3_600_000;
      const dates = {
        Date: new Date(ahead).toUTCString(),
        "Retry-After": new Date(ahead + 1_000).toUTCString(),
      };
      response.writeHead(503, dates).end();
    });
    const flags = await followFlags(webShelf(address, { every: 200 }), { environment: "production" });
    onTestFinished(() => flags.close());
    isWell = false;
    await expect.poll(() => asked, { timeout: 10_000 }).toBeGreaterThan(4);
  });

  test("that was too busy for long is back within ten seconds", async () => {
    const { directory, shelf, folder, key, keys } = await stand();
    const { sendFile } = await import("../support/serve.ts");
    let isWell = true;
    const address = await serve((request, response) =>
      isWell ? sendFile(join(directory, request.url!), response) : response.writeHead(503).end(),
    );
    const flags = await followFlags(webShelf(address, { every: 1_000 }), { environment: "production", keys });
    onTestFinished(() => flags.close());
    isWell = false;
    await sleep(14_000);
    await writeFile(join(folder, "more.yaml"), "iudex: 1\nflags: { more: { safe: 1, lifespan: lasting } }\n");
    await publishFolder(shelf, { folder, key, keys, by: "Crew" });
    isWell = true;
    const healed = performance.now();
    await next(flags, "change");
    expect(performance.now() - healed).toBeLessThan(10_000);
  }, 40_000);

  test("that answers with a page is named, with its status, type and first words", async () => {
    const address = await serve((_, response) =>
      response.writeHead(200, { "Content-Type": "text/html" }).end("<h1>Sign in</h1><p>to the harbour office</p>"),
    );
    await expect(followFlags(webShelf(address), { environment: "production" })).rejects.toThrow(
      /\/edition\.json answered 200 \(text\/html\) and not the list of edition: “Sign in to the harbour office”/,
    );
  });

  test("behind whose edge an older list still stands refuses nothing, and raises no alarm", async () => {
    const { directory, shelf, folder, key, keys } = await stand();
    const { sendFile } = await import("../support/serve.ts");
    const { readFile } = await import("node:fs/promises");
    const old = await readFile(join(directory, "edition.json"));
    let asked = 0;
    let isFlapping = false;
    const address = await serve((request, response) => {
      if (isFlapping && request.url === "/edition.json" && asked++ % 2 === 0) return void response.end(old);
      sendFile(join(directory, request.url!), response);
    });
    const flags = await followFlags(webShelf(address, { every: 200 }), { environment: "production", keys });
    onTestFinished(() => flags.close());
    const problems = collected(flags, "problem");
    isFlapping = true;
    await writeFile(join(folder, "more.yaml"), "iudex: 1\nflags: { more: { safe: 1, lifespan: lasting } }\n");
    await publishFolder(shelf, { folder, key, keys, by: "Crew" });
    await expect.poll(() => flags.origin).toMatchObject({ edition: 2 });
    await sleep(2_000);
    expect(problems).toEqual([]);
    expect(flags.origin).not.toHaveProperty("refused");
  });
});

test.each([0, -1, Number.NaN, Number.POSITIVE_INFINITY, "10s", 199, 86_400_001])(
  "%s is refused as a time between two looks, on every kind of shelf",
  (every) => {
    const options = { every: every as number };
    const client = { sendCommand: () => {}, duplicate: () => {}, on: () => {} } as never;
    const pool = { connect: () => {}, on: () => {} } as never;
    for (const make of [
      () => folderShelf("x", options),
      () => webShelf("https://config.ternhaven.example/", options),
      () => redisShelf(client, options),
      () => postgresShelf(pool, options),
    ])
      expect(make).toThrow("“every” of a shelf: expected milliseconds from 200 to 86400000");
  },
);
