// One process of many: it follows a shelf and says what is in force. follower.mjs NAME SHELF KEYS LASTGOOD
import { readFile } from "node:fs/promises";
import { followFlags } from "iudex";
import { folderShelf, redisShelf } from "iudex/fleet";

const [name, address, keysFile, lastGood] = process.argv.slice(2);
const set = "ternhaven";

async function shelfAt(place) {
  if (!place.startsWith("redis:")) return folderShelf(place, { set });
  const { createClient } = await import("redis");
  // A service that starts while the server is away uses its copy, and does not wait.
  const redis = createClient({ url: place, disableOfflineQueue: true, socket: { reconnectStrategy: 100 } });
  redis.on("error", () => {});
  await Promise.race([redis.connect().catch(() => {}), new Promise((resolve) => setTimeout(resolve, 500))]);
  return redisShelf(redis, { set, every: 1_000, called: "the shelf" });
}

const keys = JSON.parse(await readFile(keysFile, "utf8"));
const noon = Date.parse("2026-12-02T12:00:00Z");
const flags = await followFlags(await shelfAt(address), {
  environment: "production",
  keys,
  lastGood,
  name,
  staleAfter: 1_500,
  clock: () => noon,
});

const oda = { account: { id: "A-17", plan: "vehicle" }, trips: 104 };
const tell = (what) =>
  process.send({
    name,
    what,
    edition: flags.origin.edition,
    stops: flags.origin.stops,
    fares: flags.value("zone-fares", oda),
  });

flags.on("change", () => tell("change"));
flags.on("problem", ({ message }) => process.send({ name, what: "problem", message }));
process.on("message", async (wish) => {
  if (wish === "ask") return tell("answer");
  await flags.close();
  process.exit(0);
});
tell("open");
