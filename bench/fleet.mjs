// Two hundred followers of each kind of shelf: how soon the last of them has what was published, what one changed file
// costs, how long taking a large edition keeps a follower from answering. Absolute figures: so are their targets.
import { fork } from "node:child_process";
import { createHash } from "node:crypto";
import { once } from "node:events";
import { cp, mkdtemp, readFile, rename, rm, writeFile } from "node:fs/promises";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { monitorEventLoopDelay } from "node:perf_hooks";
import { fileURLToPath } from "node:url";
import { followFlags } from "iudex";
import { folderShelf, postgresShelf, publishFolder, redisShelf, webShelf } from "iudex/fleet";
import { startNginx, startPostgres, startRedis } from "../scripts/engines/servers.mjs";
import { middle, sized } from "./measure.mjs";

const processes = 2;
const followers = sized(200, 4);
const rounds = sized(7);
/** Rounds before those, in which the engine learns what it is to do. */
const warmUp = sized(3, 0);
/** Seconds between two looks of those that are told nothing. */
const interval = 2;
const demo = fileURLToPath(new URL("../examples/ternhaven/flags", import.meta.url));
const by = "bench";

export async function run() {
  const home = await mkdtemp(join(tmpdir(), "iudex-bench-"));
  const awake = setInterval(() => {}, 1_000);
  try {
    return [...(await convergence(home)), ...(await oneFile(home)), ...(await large(home))];
  } finally {
    clearInterval(awake);
    await rm(home, { recursive: true, force: true });
  }
}

async function convergence(home) {
  const results = [];
  for (const stand of [inRedis, inPostgres, onWeb]) {
    const folder = join(home, "flags");
    await cp(demo, folder, { recursive: true });
    const { kind, address, shelf, atMost, end } = await stand(join(home, "shelf"));
    await publishFolder(shelf, { folder, by });
    const children = await Promise.all(Array.from({ length: processes }, () => fleet(kind, address)));
    const delays = [];
    for (let round = 1; round <= warmUp + rounds; round++) {
      await hold(folder, 120 + round);
      const all = children.map((child) => once(child, "message"));
      await publishFolder(shelf, { folder, by });
      const returned = Date.now();
      const told = (await Promise.all(all)).flatMap(([{ times }]) => times);
      if (round > warmUp) delays.push(...told.map((at) => (at - returned) / 1_000));
    }
    for (const child of children) child.kill("SIGKILL");
    await end();
    await rm(join(home, "shelf"), { recursive: true, force: true });
    const sorted = delays.sort((a, b) => a - b);
    const at = (part) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * part))];
    results.push({
      name: `seconds until 99 of 100 of ${followers} followers have an edition, ${kind} (half of them ${at(0.5).toFixed(2)}, the last ${sorted.at(-1).toFixed(2)})`,
      ratio: Math.max(0, at(0.99)),
      atMost,
    });
  }
  return results;
}

async function fleet(kind, address) {
  const words = [kind, address, String(followers / processes), String(interval * 1_000)];
  const child = fork(join(import.meta.dirname, "fleet-followers.mjs"), words, { execArgv: [] });
  await once(child, "message");
  return child;
}

async function inRedis() {
  const engine = await startRedis();
  const address = `redis://127.0.0.1:${engine.port}`;
  const { createClient } = await import("redis");
  const client = await createClient({ url: address }).connect();
  const end = async () => client.destroy() ?? engine.end();
  return { kind: "redis", address, shelf: redisShelf(client), atMost: 1, end };
}

async function inPostgres() {
  const engine = await startPostgres();
  const { default: pg } = await import("pg");
  const pool = new pg.Pool({ connectionString: engine.url });
  pool.on("error", () => {});
  const shelf = postgresShelf(pool);
  await shelf.prepare();
  const end = async () => (await pool.end()) ?? engine.end();
  return { kind: "postgres", address: engine.url, shelf, atMost: 1, end };
}

async function onWeb(directory) {
  const shelf = folderShelf(directory);
  await shelf.prepare();
  const engine = await startNginx(directory);
  return { kind: "web", address: engine.url, shelf, atMost: interval + 1, end: () => engine.end() };
}

async function hold(folder, minutes) {
  const path = join(folder, "fares.yaml");
  const text = await readFile(path, "utf8");
  await writeFile(path, text.replace(/(give: |gives: )1\d\d/g, `$1${minutes}`));
}

const file = (first, count, salt) =>
  `iudex: 1\nflags:\n${Array.from({ length: count }, (_, i) => {
    const n = first + i;
    return `  flag-${n}:
    safe: ${salt % 7}
    rules:
      - { name: frequent travellers, when: trips > ${n % 500}, give: 2 }
      - { name: newer apps, when: app.version >= v${n % 9}.${n % 20}, give: 3 }
`;
  }).join("")}`;

async function manyFiles(home, flags, files) {
  const folder = await mkdtemp(join(home, "many-"));
  const each = flags / files;
  for (let i = 0; i < files; i++) await writeFile(join(folder, `${i}.yaml`), file(i * each, each, 0));
  return folder;
}

/** Of a hundred files one changes: the bytes that a follower fetches, against that file and the list. */
async function oneFile(home) {
  const folder = await manyFiles(home, 1_000, 100);
  const directory = join(home, "one-shelf");
  const shelf = folderShelf(directory);
  await publishFolder(shelf, { folder, by });
  let sent = 0;
  const server = createServer(async (request, response) => {
    const bytes = await readFile(join(directory, request.url)).catch(() => undefined);
    if (!bytes) return response.writeHead(404).end();
    const tag = `"${createHash("sha256").update(bytes).digest("hex")}"`;
    if (request.url === "/edition.json" && request.headers["if-none-match"] === tag)
      return response.writeHead(304).end();
    sent += bytes.length;
    response.writeHead(200, { ETag: tag }).end(bytes);
  });
  await new Promise((resolve) => server.listen(0, "127.0.0.1", resolve));
  const flags = await followFlags(webShelf(`http://127.0.0.1:${server.address().port}/`, { every: 200 }));
  sent = 0;
  const changed = new Promise((resolve) => flags.on("change", resolve));
  await writeFile(join(folder, "50.yaml"), file(500, 10, 1));
  const { edition } = await publishFolder(shelf, { folder, by });
  await changed;
  await flags.close();
  server.closeAllConnections();
  server.close();
  const list = (await readFile(join(directory, "edition.json"))).length;
  const fresh = edition.files.find(({ path }) => path === "50.yaml").bytes;
  return [
    {
      name: `bytes that a follower fetches for one changed file of 100 (${sent}), against that file (${fresh}) and the list (${list})`,
      ratio: sent / (fresh + list),
      atMost: 1.05,
    },
  ];
}

/** Ten thousand flags: taking an edition with one changed file, and opening from a shelf against opening the folder. */
async function large(home) {
  const [flagCount, files] = [sized(10_000, 200), sized(100, 4)];
  const each = flagCount / files;
  const changing = `${files / 2}.yaml`;
  const folder = await manyFiles(home, flagCount, files);
  const shelf = folderShelf(join(home, "large-shelf"));
  await publishFolder(shelf, { folder, by });
  const opening = { folder: [], shelf: [] };
  for (let i = 0; i < 3; i++) {
    for (const [what, source] of Object.entries({ folder, shelf })) {
      const start = performance.now();
      const flags = await followFlags(source);
      opening[what].push(performance.now() - start);
      await flags.close();
    }
  }
  // What is published is prepared elsewhere and carried over, so that only the follower's own work is seen.
  const carried = join(home, "carried");
  await cp(join(home, "large-shelf"), carried, { recursive: true });
  const flags = await followFlags(folderShelf(carried));
  await new Promise((resolve) => setTimeout(resolve, sized(3_000, 300)));
  const stalls = [];
  for (let round = 1; round <= rounds; round++) {
    await writeFile(join(folder, changing), file((files / 2) * each, each, round));
    const { edition } = await publishFolder(shelf, { folder, by });
    const { sha256 } = edition.files.find(({ path }) => path === changing);
    globalThis.gc();
    await new Promise((resolve) => setTimeout(resolve, 500));
    const delay = monitorEventLoopDelay({ resolution: 1 });
    const changed = new Promise((resolve) => flags.on("change", resolve));
    delay.enable();
    await cp(join(home, "large-shelf/files", sha256), join(carried, "files", sha256));
    await cp(join(home, "large-shelf/edition.json"), join(carried, "aside"));
    await rename(join(carried, "aside"), join(carried, "edition.json"));
    await changed;
    await new Promise((resolve) => setTimeout(resolve, 300));
    delay.disable();
    stalls.push(delay.max / 1e6);
  }
  await flags.close();
  return [
    {
      name: "milliseconds that taking an edition of 10,000 flags keeps a follower waiting, at the longest",
      ratio: middle(stalls),
      atMost: 10,
    },
    {
      name: "opening 10,000 flags from a shelf, against the folder",
      ratio: middle(opening.shelf) / middle(opening.folder),
    },
  ];
}
