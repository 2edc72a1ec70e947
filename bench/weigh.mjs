// What weighing promises, by simulation: how often the intervals and the words are wrong. And what it costs beside parsing
// the same files.
import { createWriteStream, writeFileSync } from "node:fs";
import { mkdir, mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { finished } from "node:stream/promises";
import { loadFolder, weigh } from "iudex/tools";
import { middle, sized } from "./measure.mjs";
import { parsedOnly } from "./parsed-only.mjs";
import { experiments, simulate } from "./weigh-experiments.mjs";

/** Each row a kind of experiment, looked at each day; in percent of experiments. */
async function simulated(folder) {
  const figures = [];
  const many = sized(10_000, 20);
  for (const kind of experiments) {
    const { held, missed } = await simulate(kind, many, folder);
    figures.push({ name: `${kind.name}: wrong at any daily look`, ratio: missed * 100, atMost: sized(5, 100) });
    if (held === undefined) continue;
    const name = `${kind.name}: the interval for one look holds`;
    figures.push({ name, ratio: held * 100, ...(kind.isUncapped ? {} : { atLeast: sized(94, 0) }) });
  }
  return figures;
}

export async function run() {
  const folder = await mkdtemp(join(tmpdir(), "iudex-bench-"));
  try {
    return [...(await simulated(folder)), ...(await timed(folder))];
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function timed(home) {
  const folder = join(home, "timed");
  await mkdir(folder);
  const rows = sized(10_000_000, 5_000);
  writeFileSync(
    join(folder, "flags.yaml"),
    "iudex: 1\ndefaults: { by: account.id }\nflags: { form: { safe: a, variants: { a: a, b: b }, rules: [{ name: r, split: [1 a, 1 b] }] } }\n",
  );
  const { definitions } = await loadFolder(folder);
  const files = { verdicts: join(folder, "verdicts.ndjson"), outcomes: join(folder, "outcomes.ndjson") };
  const at = (i) => new Date(Date.UTC(2026, 10, 2) + (i % 1_000_000) * 600).toISOString();
  await write(files.verdicts, rows, (i) => {
    const said = `"flag":"form","variant":"${i % 2 ? "a" : "b"}","cause":"rule","rule":1,"ruleName":"r","outside":[]`;
    return `{"at":"${at(i)}","asked":"program","subject":"A-${i}",${said}}\n`;
  });
  await write(
    files.outcomes,
    rows,
    (i) => `{"subject":"A-${(i * 7919) % rows}","at":"2026-11-20T12:00:00Z","measure":"crowns","value":${i % 97}}\n`,
  );
  const ratios = [];
  let most = 0;
  for (let round = 0; round < sized(3); round++) {
    const began = process.cpuUsage();
    await parsedOnly(files.verdicts);
    await parsedOnly(files.outcomes);
    const parsed = process.cpuUsage(began);
    const then = process.cpuUsage();
    const { groups } = await weigh(definitions, { flag: "form", ...files });
    if (groups[0].people + groups[1].people !== rows) throw new Error("Somebody was lost.");
    const weighed = process.cpuUsage(then);
    ratios.push((weighed.user + weighed.system) / (parsed.user + parsed.system));
    most = Math.max(most, process.resourceUsage().maxRSS / 1024);
  }
  const name = `${rows.toLocaleString("en")} verdicts and as many outcomes of NDJSON`;
  return [
    { name: `${name}: CPU against parsing both files`, ratio: middle(ratios), atMost: sized(3, 1_000) },
    { name: `${name}: bytes of memory a subject, all told`, ratio: (most * 2 ** 20) / rows },
  ];
}

async function write(path, rows, line) {
  const file = createWriteStream(path);
  for (let i = 0; i < rows; ) {
    let text = "";
    for (const end = Math.min(rows, i + 5_000); i < end; i++) text += line(i);
    if (!file.write(text)) await new Promise((resolve) => file.once("drain", resolve));
  }
  file.end();
  await finished(file);
}
