// Runs every benchmark, or those whose names are given, and prints the ratios beside their targets.
import { writeFile } from "node:fs/promises";

const names = ["decision", "hash", "windows", "lists", "compile", "bound", "reload", "census"];
const words = process.argv.slice(2);
const file = words.includes("--json") ? words[words.indexOf("--json") + 1] : undefined;
const wanted = words.filter((word) => names.includes(word));

const results = [];
for (const name of wanted.length > 0 ? wanted : names) {
  const { run } = await import(`./${name}.mjs`);
  for (const result of await run()) {
    results.push({ benchmark: name, ...result });
    const target = result.atMost ? `at most ${result.atMost}` : result.atLeast ? `at least ${result.atLeast}` : "";
    const met = result.atMost ? result.ratio <= result.atMost : result.atLeast ? result.ratio >= result.atLeast : true;
    console.log(`${result.ratio.toFixed(2).padStart(7)}  ${target.padEnd(13)} ${met ? "  " : "✗ "} ${result.name}`);
  }
}
if (file) await writeFile(file, `${JSON.stringify({ node: process.version, results }, undefined, 2)}\n`);
