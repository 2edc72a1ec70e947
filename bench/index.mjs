// Runs every benchmark, or those whose names are given, and prints the ratios beside their targets.
// Each has a process of its own, so that none inherits what the engine learned in another. `--smoke` only shows that they run.
import { fork } from "node:child_process";
import { once } from "node:events";
import { writeFile } from "node:fs/promises";
import { join } from "node:path";

const names = [
  "mix",
  "fresh",
  "explained",
  "decision",
  "hash",
  "windows",
  "lists",
  "compile",
  "pinned",
  "shapes",
  "gate",
  "listeners",
  "pages",
  "shown",
  "reload",
  "fleet",
  "strangers",
  "start",
  "open",
  "folders",
  "bundle",
  "desk",
  "check",
  "census",
  "weigh",
];
const words = process.argv.slice(2);
const isSmoke = words.includes("--smoke");
const file = words.includes("--json") ? words[words.indexOf("--json") + 1] : undefined;
const wanted = words.filter((word) => names.includes(word));

const results = [];
if (isSmoke) await smoke(wanted.length > 0 ? wanted : names);
else for (const name of wanted.length > 0 ? wanted : names) report(name, await measured(name));
if (file) await writeFile(file, `${JSON.stringify({ node: process.version, results }, undefined, 2)}\n`);

/** Shows that each benchmark runs, two at a time; what it measures so is worth nothing, and not told. */
async function smoke(left) {
  process.env.IUDEX_BENCH = "smoke";
  const take = async () => {
    for (let name = left.shift(); name !== undefined; name = left.shift()) {
      const figures = await measured(name);
      if (figures.some(({ ratio }) => !Number.isFinite(ratio))) throw new Error(`“${name}” measured no number`);
      console.log(`${name}: ${figures.length === 0 ? "has nothing here to run on" : `${figures.length} figures`}`);
    }
  };
  await Promise.all([take(), take()]);
}

async function measured(name) {
  const child = fork(join(import.meta.dirname, "child.mjs"), [name], { execArgv: ["--expose-gc"] });
  const failed = once(child, "exit").then(() => Promise.reject(new Error(`the benchmark “${name}” failed`)));
  const [figures] = await Promise.race([once(child, "message"), failed]);
  failed.catch(() => {});
  return figures;
}

function report(name, figures) {
  for (const result of figures) {
    results.push({ benchmark: name, ...result });
    const target = result.atMost ? `at most ${result.atMost}` : result.atLeast ? `at least ${result.atLeast}` : "";
    const met = result.atMost ? result.ratio <= result.atMost : result.atLeast ? result.ratio >= result.atLeast : true;
    console.log(`${result.ratio.toFixed(2).padStart(7)}  ${target.padEnd(13)} ${met ? "  " : "✗ "} ${result.name}`);
  }
}
