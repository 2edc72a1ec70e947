// Opening and reloading large sets: how long the event loop stands still, how soon a change is in force, what opening
// takes. The stall is an absolute figure (the target is one), the others are ratios.
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { monitorEventLoopDelay } from "node:perf_hooks";
import { followFlags } from "iudex";
import { middle, sized } from "./measure.mjs";

const many = { flags: sized(10_000, 400), files: sized(100, 4) };
const nameOf = (i) => `${String(i).padStart(3, "0")}.yaml`;

const file = (first, count, salt) =>
  `iudex: 1\ndefaults: { by: account.id }\nflags:\n${Array.from({ length: count }, (_, i) => {
    const n = first + i;
    return `  flag-${n}:
    about: What flag ${n} is for, in a sentence of the usual length
    safe: ${salt % 7}
    rules:
      - { name: our own people first, when: email ends with "@ternhaven.example", give: 1 }
      - { name: frequent travellers, when: trips > ${n % 500}, give: 2 }
      - { name: newer apps, when: app.version >= v${n % 9}.${n % 20}, give: 3 }
      - { name: one in ten, share: ${n % 100}%, give: 4 }
`;
  }).join("")}`;

async function folderOf(flags, files) {
  const folder = await mkdtemp(join(tmpdir(), "iudex-bench-"));
  for (let i = 0; i < files; i++) await writeFile(join(folder, nameOf(i)), file((i * flags) / files, flags / files, 0));
  return folder;
}

const sleep = (ms) => new Promise((resolve) => setTimeout(resolve, ms));

export async function run() {
  const awake = setInterval(() => {}, 1_000);
  const results = [...(await opening()), ...(await reloading(many.files)), ...(await reloading(1))];
  clearInterval(awake);
  return results;
}

async function opening() {
  const times = {};
  for (const [flags, files] of [
    [10, 1],
    [1_000, 10],
    [many.flags, many.files],
  ]) {
    const folder = await folderOf(flags, files);
    const taken = [];
    for (let i = 0; i < sized(flags > 5_000 ? 3 : 7); i++) {
      const start = performance.now();
      await (await followFlags(folder, { watch: false })).close();
      taken.push(performance.now() - start);
    }
    times[flags] = middle(taken);
    await rm(folder, { recursive: true });
  }
  return [
    { name: "milliseconds to open 10 flags (this machine)", ratio: times[10] },
    { name: "opening 1,000 flags against opening 10", ratio: times[1_000] / times[10] },
    { name: "opening 10,000 flags against opening 1,000", ratio: times[many.flags] / times[1_000] },
  ];
}

async function reloading(files) {
  const folder = await folderOf(many.flags, files);
  const each = many.flags / files;
  const changing = files >> 1;
  const flags = await followFlags(folder, { watch: { quiet: 200 } });
  await sleep(sized(3_000, 300));
  const stalls = [];
  const delays = [];
  const idle = await stallDuring(() => sleep(sized(2_000, 200)));
  for (let round = 1; round <= sized(7); round++) {
    const stall = await stallDuring(async () => {
      const changed = new Promise((resolve) => flags.on("change", resolve));
      await writeFile(join(folder, nameOf(changing)), file(changing * each, each, round));
      const written = performance.now();
      await changed;
      delays.push(performance.now() - written - 200);
      await sleep(300);
    });
    stalls.push(stall);
  }
  await flags.close();
  await rm(folder, { recursive: true });
  if (files === 1)
    return [{ name: "milliseconds of the same stall where they are one file of 4 MB", ratio: middle(stalls) }];
  return [
    {
      name: "milliseconds of the longest stall in a reload of 10,000 flags in 100 files (median of 7)",
      ratio: middle(stalls),
      atMost: 10,
    },
    { name: "milliseconds of the longest stall of the same process at rest, for comparison", ratio: idle },
    {
      name: "milliseconds from the quiet time until one changed file is in force (median of 7)",
      ratio: middle(delays),
      atMost: 150,
    },
  ];
}

async function stallDuring(work) {
  const monitor = monitorEventLoopDelay({ resolution: 1 });
  monitor.enable();
  await work();
  monitor.disable();
  // The monitor counts its own resolution in.
  return Math.max(0, monitor.max / 1e6 - 1);
}
