// A process of the fleet's benchmark: so many followers of one shelf. It tells when the last of them has an edition.

import { followFlags } from "iudex";
import { folderShelf, postgresShelf, redisShelf, webShelf } from "iudex/fleet";
import { createClient } from "redis";

const [kind, address, count, every] = process.argv.slice(2);

async function shelfOf() {
  const options = { every: Number(every) };
  if (kind === "folder") return folderShelf(address, options);
  if (kind === "web") return webShelf(address, options);
  if (kind === "redis") return redisShelf(await createClient({ url: address }).connect(), options);
  const { default: pg } = await import("pg");
  return postgresShelf(new pg.Pool({ connectionString: address, max: 2 }), options);
}

// Following keeps no process alive.
setInterval(() => {}, 1_000);

const times = new Map();
for (let i = 0; i < Number(count); i++) {
  const flags = await followFlags(await shelfOf(), { environment: "production", name: `follower ${i}` });
  flags.on("change", () => {
    const { edition } = flags.origin;
    times.set(edition, [...(times.get(edition) ?? []), Date.now()]);
    if (times.get(edition).length === Number(count)) process.send({ edition, times: times.get(edition) });
  });
}
process.send("ready");
