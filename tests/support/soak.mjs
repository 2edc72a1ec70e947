// Ten writers save ten files without pause while one asker asks; counts what must not happen. Prints JSON.
import { rename, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { followFlags } from "iudex";

const [folder, seconds] = process.argv.slice(2);
const text = (writer, n) =>
  `iudex: 1\nflags:\n  first-${writer}: { safe: ${n} }\n${"# filler\n".repeat(50)}  last-${writer}: { safe: ${n}, rules: [{ when: 'x > ${n}', give: ${n} }] }\n`;
const sleep = (ms) => new Promise((resolve) => setTimeout(resolve, ms));
const counts = { asked: 0, changes: 0, torn: 0, unhandled: 0, early: 0, late: 0, between: 0 };
process.on("unhandledRejection", () => counts.unhandled++);

for (let writer = 0; writer < 10; writer++) await writeFile(join(folder, `${writer}.yaml`), text(writer, 0));
const flags = await followFlags(folder, { watch: { longest: 500 } });
flags.on("change", () => counts.changes++);

let isOver = false;
async function write(writer) {
  for (let n = 1; !isOver; n++) {
    const path = join(folder, `${writer}.yaml`);
    if (writer % 2) {
      await writeFile(join(folder, `.${writer}.new`), text(writer, n));
      await rename(join(folder, `.${writer}.new`), path);
    } else {
      await writeFile(path, text(writer, n));
    }
    // A file that is written without a pause keeps its last state; these pause after every few saves.
    await sleep(n % 8 === 0 ? 800 : 20 + ((writer * 37 + n * 11) % 200));
  }
}

async function ask() {
  while (!isOver) {
    for (let i = 0; i < 2_000; i++) {
      const writer = i % 10;
      const pinned = flags.pin({ x: i });
      if (pinned.value(`first-${writer}`) !== pinned.value(`last-${writer}`)) counts.torn++;
      counts.asked += 2;
    }
    // Other tests want the processor too.
    await sleep(40);
  }
}

async function weigh() {
  // The first half warms up: code is compiled, the history fills.
  await goOn(Number(seconds) / 2);
  counts.early = await lowestHeap();
  const before = counts.changes;
  await goOn(Number(seconds) / 2 - 10);
  counts.between = counts.changes - before;
  counts.late = await lowestHeap();
  isOver = true;
}

/** So long, and on a busy machine longer, until something has happened. */
async function goOn(forSeconds) {
  const [least, until] = [counts.changes + 12, performance.now() + forSeconds * 1_000];
  while (performance.now() < until || counts.changes < least) await sleep(100);
}

/** What is kept: of five weighings the lowest, since each catches something that is on its way. */
async function lowestHeap() {
  const heaps = [];
  for (let i = 0; i < 5; i++) {
    for (let j = 0; j < 4; j++) globalThis.gc();
    heaps.push(process.memoryUsage().heapUsed);
    await sleep(1_000);
  }
  return Math.min(...heaps);
}

await Promise.all([...Array.from({ length: 10 }, (_, writer) => write(writer)), ask(), weigh()]);
await flags.close();
console.log(JSON.stringify(counts));
