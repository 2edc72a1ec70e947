// Runs every benchmark, or those whose names are given, and prints the ratios beside their targets.
// Each has a process of its own, so that none inherits what the engine learned in another.
import { fork } from "node:child_process";
import { once } from "node:events";
import { writeFile } from "node:fs/promises";
import { join } from "node:path";

const names = [
  "mix",
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
  "start",
  "open",
  "bundle",
  "desk",
  "check",
  "census",
];
const words = process.argv.slice(2);
const file = words.includes("--json") ? words[words.indexOf("--json") + 1] : undefined;
const wanted = words.filter((word) => names.includes(word));

const results = [];
for (const name of wanted.length > 0 ? wanted : names) {
  const child = fork(join(import.meta.dirname, "child.mjs"), [name], { execArgv: ["--expose-gc"] });
  const failed = once(child, "exit").then(() => Promise.reject(new Error(`the benchmark “${name}” failed`)));
  const [measured] = await Promise.race([once(child, "message"), failed]);
  failed.catch(() => {});
  for (const result of measured) {
    results.push({ benchmark: name, ...result });
    const target = result.atMost ? `at most ${result.atMost}` : result.atLeast ? `at least ${result.atLeast}` : "";
    const met = result.atMost ? result.ratio <= result.atMost : result.atLeast ? result.ratio >= result.atLeast : true;
    console.log(`${result.ratio.toFixed(2).padStart(7)}  ${target.padEnd(13)} ${met ? "  " : "✗ "} ${result.name}`);
  }
}
if (file) await writeFile(file, `${JSON.stringify({ node: process.version, results }, undefined, 2)}\n`);
