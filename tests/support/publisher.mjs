// Publishes a folder over and over, each time with another content, until it is killed; once where no key is named.
// publisher.mjs KIND ADDRESS FOLDER [KEYFILE RUN KEYSFILE]
import { cp, mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { folderShelf, postgresShelf, publishFolder, redisShelf } from "iudex/fleet";

const [kind, address, source, keyFile, run, keysFile] = process.argv.slice(2);
const set = "ternhaven";

async function shelfOf() {
  if (kind === "Redis") {
    const { createClient } = await import("redis");
    return redisShelf(await createClient({ url: address }).connect(), { set });
  }
  if (kind !== "PostgreSQL") return folderShelf(address, { set });
  const { default: pg } = await import("pg");
  return postgresShelf(new pg.Pool({ connectionString: address }), { set });
}

const shelf = await shelfOf();
if (keyFile === undefined) {
  await publishFolder(shelf, { folder: source, by: "a publisher" });
  process.exit(0);
}
const key = JSON.parse(await readFile(keyFile, "utf8"));
const keys = JSON.parse(await readFile(keysFile, "utf8"));
const home = await mkdtemp(join(tmpdir(), "iudex-publisher-"));
await cp(source, home, { recursive: true });
const fares = await readFile(join(home, "fares.yaml"), "utf8");
const give = (minutes) => writeFile(join(home, "fares.yaml"), fares.replace(/(give: |gives: )1\d\d/g, `$1${minutes}`));
for (let i = 0; ; i++) {
  await give(200 + ((Number(run) * 97 + i) % 700));
  await publishFolder(shelf, { folder: home, key, keys, by: `publisher ${run}` }).catch(async (error) => {
    // Somebody else may be quicker.
    if (/holds the same|^Meanwhile /.test(error.message)) return;
    await rm(home, { recursive: true, force: true });
    throw error;
  });
  // Whoever waits for it hears of the first only: from then on it is quick.
  if (i === 0) console.log("ready");
}
