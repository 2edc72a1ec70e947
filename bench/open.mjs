// Opening: what a process takes for it that has just been started, against parsing the same bytes; a second time with
// `lastGood`; a change among ninety thousand flags; what is kept of each flag.
import { spawnSync } from "node:child_process";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { middle, sized } from "./measure.mjs";

const root = join(import.meta.dirname, "..");
const flag = (n, salt = 0) => ({
  about: `What flag ${n} is for, in a sentence of the usual length`,
  safe: salt,
  rules: [
    { name: "our own people first", when: 'email ends with "@ternhaven.example"', give: 1 },
    { name: "frequent travellers", when: `trips > ${n % 500}`, give: 2 },
    { name: "newer apps", when: `app.version >= v${n % 9}.${n % 20}`, give: 3 },
    { name: "one in ten", share: `${n % 100}%`, give: 4 },
  ],
});

const inJson = (from, count, salt) =>
  JSON.stringify({
    iudex: 1,
    defaults: { by: "account.id" },
    flags: Object.fromEntries(Array.from({ length: count }, (_, i) => [`flag-${from + i}`, flag(from + i, salt)])),
  });

const inYaml = (from, count) =>
  `iudex: 1\ndefaults: { by: account.id }\nflags:\n${Array.from({ length: count }, (_, i) => `  flag-${from + i}: ${JSON.stringify(flag(from + i))}\n`).join("")}`;

async function folderOf(home, flags, files, text, ending) {
  const folder = await mkdtemp(join(home, "flags-"));
  const each = flags / files;
  for (let i = 0; i < files; i++) await writeFile(join(folder, `${i}.${ending}`), text(i * each, each));
  return folder;
}

/** Runs code in a fresh process, in which `folder`, `texts`, `cpu` and `open` are there, and gives what it answers. */
function fresh(folder, code) {
  const program = `
    import { readdirSync, readFileSync, writeFileSync } from "node:fs";
    import { followFlags } from "iudex";
    const folder = ${JSON.stringify(folder)};
    const texts = readdirSync(folder).map((name) => readFileSync(folder + "/" + name, "utf8"));
    const cpu = async (work) => {
      const before = process.cpuUsage();
      await work();
      const { user, system } = process.cpuUsage(before);
      return (user + system) / 1_000;
    };
    const open = async (options) => (await followFlags(folder, { watch: false, ...options })).close();
    ${code}`;
  const words = ["--expose-gc", "--input-type=module", "-e", program];
  const { stdout, stderr } = spawnSync(process.execPath, words, { cwd: root, encoding: "utf8", maxBuffer: 1 << 26 });
  if (stdout === "") throw new Error(stderr);
  return JSON.parse(stdout);
}

/** The ratio of two CPU times that code gives as \`[ours, theirs]\`, of several processes. */
function ratioOf(folder, code, rounds = 5) {
  const ratios = [];
  for (let i = 0; i < sized(rounds); i++) {
    const [ours, theirs] = fresh(folder, code);
    ratios.push(ours / theirs);
  }
  return middle(ratios);
}

/** In processes of their own, since the first that loads and runs a parser warms much for the second. */
function smallRatio(folder, rounds = 9) {
  const alone = (code) => fresh(folder, `console.log(JSON.stringify(await cpu(async () => { ${code} })));`);
  const ratios = [];
  for (let i = 0; i < sized(rounds); i++) {
    const theirs = alone('const { parse } = await import("yaml"); for (const text of texts) parse(text);');
    ratios.push(alone("await open();") / theirs);
  }
  return middle(ratios);
}

const told = "console.log(JSON.stringify([ours, theirs]));";

export async function run() {
  const home = await mkdtemp(join(tmpdir(), "iudex-bench-"));
  try {
    const small = await folderOf(home, 10, 1, inYaml, "yaml");
    const json = await folderOf(home, sized(10_000, 200), sized(100, 4), inJson, "json");
    const yaml = await folderOf(home, sized(10_000, 200), sized(100, 4), inYaml, "yaml");
    const [opened, kept] = fresh(
      yaml,
      `const lastGood = folder + "/../good";
       const first = await cpu(() => open({ lastGood }));
       const second = await cpu(() => open({ lastGood }));
       console.log(JSON.stringify([second / first, 0]));`,
    );
    return [
      {
        name: "CPU of opening 10 flags in YAML, against loading the parser and parsing the same bytes",
        ratio: smallRatio(small),
        atMost: 1.3,
      },
      ...(await coldRows(home, json)),
      {
        name: "opening 10,000 flags in YAML a second time, with lastGood, against the first",
        ratio: opened + kept,
        atMost: 0.25,
      },
      await memory(json),
      {
        name: "one changed file of 90,000 flags in 100 files in force, against of 10,000 in 100",
        ratio: await manyFlags(home, 100),
        atMost: 1.5,
      },
      {
        name: "the same in 900 files: nine times as many are looked at",
        ratio: await manyFlags(home, 900),
      },
    ];
  } finally {
    await rm(home, { recursive: true, force: true });
  }
}

/** Opening flags in JSON, in a process that has just been started; the first parsing of the bytes is held against it. */
async function coldRows(home, many) {
  const few = await folderOf(home, 10, 1, inJson, "json");
  const some = await folderOf(home, sized(1_000, 100), sized(20, 2), inJson, "json");
  const code = `const theirs = await cpu(() => texts.map((text) => JSON.parse(text))); const ours = await cpu(open); ${told}`;
  const row = (count, folder, atMost, rounds) => ({
    name: `CPU of opening ${count} flags in JSON, cold, against JSON.parse of the bytes`,
    ratio: ratioOf(folder, code, rounds),
    atMost,
  });
  return [row("10", few, 10, 9), row("1,000", some, 6, 9), row("10,000", many, 4, 3)];
}

/** What a service keeps of each flag after it has opened a folder, texts included and every flag asked once. */
function memory(folder) {
  const [bytes] = fresh(
    folder,
    `texts.length = 0;
     const weigh = async () => {
       for (let i = 0; i < ${sized(5)}; i++) { await new Promise((resolve) => setTimeout(resolve, ${sized(500, 50)})); globalThis.gc(); }
       const { heapUsed, arrayBuffers } = process.memoryUsage();
       return heapUsed + arrayBuffers;
     };
     await open();
     const before = await weigh();
     const flags = await followFlags(folder);
     const after = await weigh();
     console.log(JSON.stringify([(after - before) / flags.names.length]));
     process.exit();`,
  );
  return { name: "kB that are kept of each of 10,000 flags after followFlags", ratio: bytes / 1_000, atMost: 1.5 };
}

/** From the quiet time until one changed file is in force: among 90,000 flags, against among 10,000 in 100 files. */
async function manyFlags(home, files) {
  const times = [];
  for (const [flags, count] of [
    [sized(90_000, 600), sized(files, 6)],
    [sized(10_000, 200), sized(100, 2)],
  ]) {
    const folder = await folderOf(home, flags, count, inJson, "json");
    const [time] = fresh(
      folder,
      `setInterval(() => {}, 1_000); // following keeps no process alive
       const flags = await followFlags(folder);
       const times = [];
       for (let round = 1; round <= ${sized(9)}; round++) {
         await new Promise((resolve) => setTimeout(resolve, ${sized(1_500, 300)}));
         const changed = new Promise((resolve) => flags.on("change", resolve));
         const text = readFileSync(folder + "/${count / 2}.json", "utf8").replace(/"safe":\\d+/, '"safe":' + round);
         const start = performance.now();
         writeFileSync(folder + "/${count / 2}.json", text);
         await changed;
         times.push(performance.now() - start - 200);
       }
       console.log(JSON.stringify([times.sort((a, b) => a - b).at(${sized(4, 0)})]));
       process.exit();`,
    );
    times.push(time);
  }
  return times[0] / times[1];
}
