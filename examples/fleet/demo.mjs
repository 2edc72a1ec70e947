// Three processes follow one shelf: a share is raised, a flag stopped by a stopper with a key of its own, the server killed
// and started again. With a Redis
// of this machine if it has one, else with a folder. Everything is made in a temporary place and taken away again.
import { fork, spawn } from "node:child_process";
import { once } from "node:events";
import { cp, mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { folderShelf, publishFolder, redisShelf, reinstateAtShelf, suspendAtShelf } from "iudex/fleet";
import { exportJWK, generateKeyPair } from "jose";

const set = "ternhaven";
const script = fileURLToPath(new URL("follower.mjs", import.meta.url));
const services = ["booking-api", "quay-screens", "fare-quotes"];
const bold = (text) => (process.stdout.isTTY ? `\u001b[1m${text}\u001b[22m` : text);
const faint = (text) => (process.stdout.isTTY ? `\u001b[2m${text}\u001b[22m` : text);
const say = (text = "") => console.log(text);
/** Broken between words at 90 columns, the lines behind the first set in further. */
const wrapped = (text) => `  ${text}`.replace(/(.{1,90})(?: |$)/g, "$1\n    ").trimEnd();
const chapter = (text) => say(`\n${bold(text)}`);
const pause = (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds));

const home = await mkdtemp(join(tmpdir(), "ternhaven-fleet-"));
const folder = join(home, "flags");
await cp(fileURLToPath(new URL("../ternhaven/flags", import.meta.url)), folder, { recursive: true });

const redis = await startRedis();
const address = redis ? `redis://127.0.0.1:${redis.port}` : join(home, "shelf");
const { key, stopKey, keys, keysFile } = await makeKeys();
const client = redis && (await connected());
const shelf = client ? redisShelf(client, { set }) : folderShelf(address, { set });

const followers = [];
const heard = [];
try {
  chapter("1  The definitions are published, signed, and three services follow them");
  if (!redis) say("There is no redis-server on this machine, so the shelf is a folder.");
  const first = await publishFolder(shelf, { folder, key, by: "fares-team", note: "the first edition" });
  say(
    `edition ${first.edition.number}, ${first.plan.files.all} files, revision ${first.edition.revision.slice(0, 12)}, on ${redis ? "Redis" : "a folder"}`,
  );
  for (const name of services) followers.push(await follower(name));
  await table();

  chapter("2  “one in ten” is raised to everyone who crosses often");
  await edit("when: trips > 100\n        share: 10%", "when: trips > 100");
  await published(() =>
    publishFolder(shelf, { folder, key, by: "fares-team", note: "zone fares for all who cross often" }),
  );

  chapter("3  Zone fares are wrong by one zone: the emergency stop, by the duty desk's own key, without the folder");
  const stop = { flag: "zone-fares", who: "Duty desk", note: "fares off by one zone" };
  await published(() => suspendAtShelf(shelf, stop, { key: stopKey, keys }));

  if (redis) {
    chapter("4  The server is killed. Verdicts go on, and a service that starts now goes by its copy");
    await redis.kill();
    await until(() => services.every((name) => heard.some((each) => each.name === name && each.what === "problem")));
    const [problem] = heard.filter(({ what }) => what === "problem");
    say(`Each of the three says: “${problem.message}”`);
    const late = fork(script, ["lost-property", address, keysFile, join(home, services[0])]);
    const [opened] = await once(late, "message");
    say(`lost-property  started from the copy of edition ${opened.edition}`);
    late.kill();
    await table();

    chapter("5  It is started again. What comes next arrives as before");
    await redis.start();
    await until(() => client.isReady);
  } else chapter("4  What comes next");
  say("An edition comes, and ends no stop; the stop is ended where it was made.");
  await edit("25% from 2026-12-04", "50% from 2026-12-04");
  await published(() => publishFolder(shelf, { folder, key, keys, by: "fares-team", note: "zones mended" }));
  await published(() => reinstateAtShelf(shelf, { flag: "zone-fares" }, { key: stopKey, keys }));

  chapter(`${redis ? 6 : 5}  Who follows`);
  await rollCall();
} finally {
  for (const child of followers) if (child.connected) child.send("end");
  await Promise.all(followers.map((child) => child.exitCode ?? once(child, "exit")));
  client?.destroy();
  await redis?.kill();
  await rm(home, { recursive: true, force: true });
}

/** Puts an edition or a list of stops on the shelf, and tells when each follower has it in force. */
async function published(put) {
  const { edition, stops, plan } = await put();
  const at = performance.now();
  for (const { name, words } of plan.changes) for (const each of words) say(wrapped(`${name}: ${each}`));
  const isIt = (each) => (edition ? each.edition === edition.number : each.stops === stops.number);
  const has = (name) => heard.find((each) => each.name === name && isIt(each));
  await until(() => services.every(has));
  const what = edition ? `edition ${edition.number}` : `list ${stops.number} of the stops`;
  say(
    faint(
      `  ${what} is published; in force ${services.map((name) => `on ${name} after ${Math.max(0, Math.round(has(name).at - at))} ms`).join(", ")}`,
    ),
  );
  await table();
}

async function table() {
  const answers = await Promise.all(followers.map(ask));
  for (const { name, edition, stops, fares } of answers)
    say(`  ${name.padEnd(14)} edition ${edition}, stops ${stops}   zone-fares for Oda: ${fares}`);
}

async function ask(child) {
  child.send("ask");
  for (;;) {
    const [answer] = await once(child, "message");
    if (answer.what === "answer") return answer;
  }
}

async function rollCall() {
  await until(
    async () => !redis || ((await shelf.followers()) ?? []).every(({ edition, stops }) => edition === 3 && stops === 2),
  );
  const present = (await shelf.followers()) ?? [];
  if (!redis) return say("  A folder has none: nobody can note himself where only the publisher writes.");
  for (const { name, host, process: id, edition, stops, since } of present)
    say(
      `  ${name.padEnd(14)} ${host}, process ${id}, edition ${edition} and stops ${stops}, since ${since.slice(11, 19)}Z`,
    );
}

async function follower(name) {
  const child = fork(script, [name, address, keysFile, join(home, name)]);
  child.on("message", (message) => heard.push({ ...message, at: performance.now() }));
  await once(child, "message");
  return child;
}

async function edit(from, to) {
  const path = join(folder, "fares.yaml");
  const text = await readFile(path, "utf8");
  if (!text.includes(from)) throw new Error(`fares.yaml does not say ${from}`);
  await writeFile(path, text.replace(from, to));
}

async function until(holds) {
  for (let i = 0; i < 400; i++) {
    if (await holds()) return;
    await pause(25);
  }
  throw new Error("what was waited for did not come in ten seconds");
}

/** The publisher's key and the stopper's; followers know the public halves of both. */
async function makeKeys() {
  const [publisher, stopper] = [await makeKey("fares-team", ["editions"]), await makeKey("duty-desk", ["stops"])];
  const keys = { keys: [publisher, stopper].map(({ d: _, ...shared }) => shared) };
  const keysFile = join(home, "keys.json");
  await writeFile(keysFile, JSON.stringify(keys));
  return { key: publisher, stopKey: stopper, keys, keysFile };
}

async function makeKey(kid, roles) {
  const { privateKey } = await generateKeyPair("EdDSA", { extractable: true });
  return { ...(await exportJWK(privateKey)), kid, alg: "EdDSA", "iudex-for": roles };
}

async function connected() {
  const { createClient } = await import("redis");
  const client = createClient({ url: address, socket: { reconnectStrategy: 50 } });
  client.on("error", () => {});
  return client.connect();
}

/** A Redis of our own on a free port, with its data in the temporary place; undefined where there is none. */
async function startRedis() {
  const port = await freePort();
  const words = ["--port", String(port), "--bind", "127.0.0.1", "--dir", home, "--appendonly", "yes", "--save", ""];
  let child;
  const start = async () => {
    const started = spawn("redis-server", words, { stdio: "ignore" });
    const isThere = await new Promise((resolve) => {
      started.once("spawn", () => resolve(true)).once("error", () => resolve(false));
    });
    child = isThere ? started : undefined;
    if (isThere) await pause(300);
  };
  const kill = async () => {
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    child.kill("SIGKILL");
    await once(child, "exit");
  };
  await start();
  return child && { port, start, kill };
}

async function freePort() {
  const server = createServer().listen(0, "127.0.0.1");
  await once(server, "listening");
  const { port } = server.address();
  server.close();
  return port;
}
