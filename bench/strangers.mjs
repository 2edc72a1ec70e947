// What somebody who can write a shelf and cannot sign costs a follower, beside a shelf that is sound and at rest: for each look
// CPU and bytes, and in all the longest stall and the memory. The server runs in a process of its own.
import { fork } from "node:child_process";
import { once } from "node:events";
import { cp, mkdtemp, readFile, rm } from "node:fs/promises";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { monitorEventLoopDelay } from "node:perf_hooks";
import { fileURLToPath } from "node:url";
import { followFlags } from "iudex";
import { folderShelf, publishFolder, webShelf } from "iudex/fleet";
import { exportJWK, generateKeyPair } from "jose";
import { sized } from "./measure.mjs";

const demo = fileURLToPath(new URL("../examples/ternhaven/flags", import.meta.url));
const every = 200;
const time = sized(4_000, 500);

const list = (payload, signatures) => Buffer.from(JSON.stringify({ payload, signatures }));
const header = (kid) => Buffer.from(JSON.stringify({ alg: "EdDSA", kid, typ: "iudex-edition" })).toString("base64url");
const signature = (kid) => ({ protected: header(kid), signature: "A".repeat(86) });

/** What stands in the place of the newest edition's list. */
const attacks = {
  "a shelf at rest": undefined,
  "another list at each look, signed by somebody else": () =>
    list(Buffer.from(`{"n":${Math.random()}}`).toString("base64url"), [signature("one")]),
  "10,989 signatures": () =>
    list(
      "e30",
      Array.from({ length: 10_989 }, () => signature("one")),
    ),
  "a kid of a megabyte": () => list("e30", [signature("k".repeat(1_000_000))]),
  "a list of 100 MB": () => "endless",
};

export async function run() {
  const home = await mkdtemp(join(tmpdir(), "iudex-bench-"));
  try {
    const { privateKey } = await generateKeyPair("EdDSA", { extractable: true });
    const key = { ...(await exportJWK(privateKey)), kid: "one", alg: "EdDSA" };
    const { d: _, ...shared } = key;
    const folder = join(home, "flags");
    await cp(demo, folder, { recursive: true });
    const directory = join(home, "shelf");
    const shelf = folderShelf(directory, { set: "ternhaven" });
    await shelf.prepare();
    await publishFolder(shelf, { folder, key, by: "bench" });
    const results = [];
    let atRest;
    for (const name of Object.keys(attacks)) {
      const { cpu, bytes, stall, memory } = await followed(directory, name, { keys: [shared] });
      atRest ??= cpu;
      results.push({
        name: `CPU of a look at ${name}, against one at a shelf at rest (${bytes} kB a look; longest stall ${stall} ms; ${memory} MB more at most)`,
        ratio: cpu / atRest,
        atMost: 10,
      });
    }
    return results;
  } finally {
    await rm(home, { recursive: true, force: true });
  }
}

async function followed(directory, name, keys) {
  const server = fork(import.meta.filename, ["serve", directory], { execArgv: [] });
  const [{ port }] = await once(server, "message");
  const flags = await followFlags(webShelf(`http://127.0.0.1:${port}/`, { every }), {
    environment: "production",
    keys,
  });
  flags.on("problem", () => {});
  const ask = async (words) => {
    const answer = once(server, "message");
    server.send(words);
    return (await answer)[0];
  };
  const before = await ask({ attack: name });
  globalThis.gc?.();
  const [memory, cpu] = [process.memoryUsage().rss, process.cpuUsage()];
  const stalls = monitorEventLoopDelay({ resolution: 1 });
  stalls.enable();
  let most = 0;
  const watching = setInterval(() => {
    most = Math.max(most, process.memoryUsage().rss - memory);
  }, 20);
  await new Promise((resolve) => setTimeout(resolve, time));
  clearInterval(watching);
  const { user, system } = process.cpuUsage(cpu);
  stalls.disable();
  const after = await ask({});
  await flags.close();
  server.kill();
  const looks = Math.max(1, after.looks - before.looks);
  return {
    cpu: (user + system) / 1_000 / looks,
    bytes: Math.round((after.bytes - before.bytes) / looks / 1_000),
    stall: Math.round(stalls.max / 1e6),
    memory: Math.round(most / 2 ** 20),
  };
}

/** Serves a folder, and what the attacker puts in the place of the newest edition's list. */
async function serve(directory) {
  let attack;
  let looks = 0;
  let bytes = 0;
  const megabyte = Buffer.alloc(1_000_000, " ");
  const server = createServer(async (request, response) => {
    const isEdition = request.url === "/edition.json";
    if (isEdition) looks++;
    const put = isEdition ? attack?.() : undefined;
    if (put === "endless") {
      response.write("{");
      for (let i = 0; i < 100 && !response.destroyed; i++) {
        bytes += megabyte.length;
        if (!response.write(megabyte)) await Promise.race([once(response, "drain"), once(response, "close")]);
      }
      return response.end();
    }
    const body = put ?? (await readFile(join(directory, request.url)).catch(() => undefined));
    const tag = `"${body?.length}"`;
    if (!put && body && request.headers["if-none-match"] === tag) return response.writeHead(304, { ETag: tag }).end();
    bytes += body?.length ?? 0;
    response.writeHead(body ? 200 : 404, body && !put ? { ETag: tag } : {}).end(body);
  });
  process.on("message", (words) => {
    if (words.attack !== undefined) attack = attacks[words.attack];
    process.send({ looks, bytes });
  });
  server.listen(0, "127.0.0.1", () => process.send({ port: server.address().port }));
}

if (process.argv[2] === "serve") await serve(process.argv[3]);
