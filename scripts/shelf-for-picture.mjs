// A shelf in a Redis of its own for the picture of iudex shelf: some editions, and processes that follow them.
// It says the address, and goes on until it is ended.
import { cp, readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { followFlags } from "iudex";
import { publishFolder, redisShelf, suspendAtShelf } from "iudex/fleet";
import { exportJWK, generateKeyPair } from "jose";
import { createClient } from "redis";
import { startRedis } from "./engines/servers.mjs";

const engine = await startRedis();
process.once("SIGTERM", () => engine.end().then(() => process.exit()));
const address = `redis://127.0.0.1:${engine.port}`;
const folder = join(engine.home, "flags");
await cp(new URL("../examples/ternhaven/flags", import.meta.url), folder, { recursive: true });
const set = "ternhaven";

async function keyPair(kid, role) {
  const { privateKey } = await generateKeyPair("EdDSA", { extractable: true });
  const key = { ...(await exportJWK(privateKey)), kid, alg: "EdDSA", "iudex-for": [role] };
  const { d: _, ...shared } = key;
  return { key, keys: { keys: [shared] } };
}

const shelf = async () => redisShelf(await createClient({ url: address }).connect(), { set });
const [team, desk] = [await keyPair("fares-team", "editions"), await keyPair("duty-desk", "stops")];
const both = { keys: [...team.keys.keys, ...desk.keys.keys] };
const edit = async (file, from, to) => {
  const text = await readFile(join(folder, file), "utf8");
  await writeFile(join(folder, file), text.replace(from, to));
};

const publishing = await shelf();
await publishFolder(publishing, { folder, key: team.key, by: "fares-team", note: "The first edition" });
const follow = async (name, keys) => followFlags(await shelf(), { environment: "production", keys, name });
await follow("booking-api", both);
await edit("fares.yaml", "when: trips > 100\n        share: 10%", "when: trips > 80\n        share: 25%");
await publishFolder(publishing, {
  folder,
  key: team.key,
  keys: both,
  by: "fares-team",
  note: "Zone fares for a quarter of those who cross often",
});
await follow("fare-quotes", both);
await follow("quay-screens", team.keys);
const stop = { flag: "zone-fares", who: "Duty desk", note: "fares off by one zone" };
await suspendAtShelf(publishing, stop, { key: desk.key, keys: both });
console.log(address);
