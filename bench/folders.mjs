// What folders cost: at rest, on their way to a shelf, and with a list of a million ids. The first figure is absolute.
import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { followFlags } from "iudex";
import { folderShelf, publishFolder } from "iudex/fleet";
import { middle, sized } from "./measure.mjs";

const sleep = (ms) => new Promise((resolve) => setTimeout(resolve, ms));

/** Milliseconds of CPU. */
async function cpuOf(work) {
  const before = process.cpuUsage();
  await work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1_000;
}

async function folderOf(home, files) {
  await mkdir(home, { recursive: true });
  for (let i = 0; i < files; i++)
    await writeFile(join(home, `${i}.json`), JSON.stringify({ iudex: 1, flags: { [`flag-${i}`]: { safe: i } } }));
  return home;
}

export async function run() {
  const home = await mkdtemp(join(tmpdir(), "iudex-bench-"));
  const awake = setInterval(() => {}, 1_000);
  try {
    return [await atRest(join(home, "rest")), await published(home), await listed(join(home, "lists"))];
  } finally {
    clearInterval(awake);
    await rm(home, { recursive: true, force: true });
  }
}

async function atRest(home) {
  const flags = await followFlags(await folderOf(home, 100));
  // What was written just now is read once more.
  await sleep(sized(12_000, 100));
  const time = sized(30_000, 500);
  const cpu = await cpuOf(() => sleep(time));
  await flags.close();
  return {
    name: "a watched folder of 100 files at rest, ms of CPU a minute",
    ratio: (cpu * 60_000) / time,
    atMost: 60,
  };
}

async function published(home) {
  const files = sized(1_000, 20);
  const folder = await folderOf(join(home, "flags"), files);
  const shelf = folderShelf(join(home, "shelf"), { set: "ternhaven" });
  await shelf.prepare();
  await publishFolder(shelf, { folder, unsigned: true, by: "bench" });
  const ratios = [];
  for (let round = 0; round < sized(5); round++) {
    await writeFile(join(folder, "0.json"), JSON.stringify({ iudex: 1, flags: { "flag-0": { safe: -round - 1 } } }));
    const read = await cpuOf(async () => {
      for (const name of await readdir(folder)) JSON.parse(await readFile(join(folder, name), "utf8"));
    });
    const taken = await cpuOf(() => publishFolder(shelf, { folder, unsigned: true, by: "bench" }));
    ratios.push(taken / read);
  }
  return {
    name: "publishing 1,000 files, one of them changed, CPU against reading them",
    ratio: middle(ratios),
    atMost: 1.5,
  };
}

async function listed(home) {
  const count = sized(1_000_000, 5_000);
  await mkdir(home, { recursive: true });
  const list = join(home, "crew.txt");
  await writeFile(list, Array.from({ length: count }, (_, i) => `C-${(i * 2_654_435_761) % 4_294_967_296}\n`).join(""));
  await writeFile(
    join(home, "a.json"),
    JSON.stringify({ iudex: 1, cohorts: { crew: { of: "id", file: "crew.txt" } }, flags: { storm: { safe: false } } }),
  );
  const ratios = [];
  for (let round = 0; round < sized(5); round++) {
    const set = await cpuOf(async () => new Set((await readFile(list, "utf8")).split("\n")).size);
    let flags;
    const opened = await cpuOf(async () => {
      flags = await followFlags(home, { watch: false });
    });
    await flags.close();
    ratios.push(opened / set);
  }
  return {
    name: "opening a list of 1,000,000 ids, CPU against reading it into a Set",
    ratio: middle(ratios),
    atMost: 1.3,
  };
}
