// Starting: the CPU time of a process that imports an entry, against one that imports nothing.
import { spawnSync } from "node:child_process";
import { join } from "node:path";
import { middle, sized } from "./measure.mjs";

const root = join(import.meta.dirname, "..");
const entries = { "": "nothing", "dist/index.js": "iudex", "dist/core.js": "iudex/core", "dist/http.js": "iudex/http" };

/** User and system time, in milliseconds. */
function cpuOf(entry) {
  const load = entry === "" ? "" : `await import(${JSON.stringify(join(root, entry))});`;
  const code = `${load} const { user, system } = process.cpuUsage(); console.log(user + system);`;
  const { stdout } = spawnSync(process.execPath, ["--input-type=module", "-e", code], { encoding: "utf8" });
  return Number(stdout) / 1_000;
}

export async function run() {
  const times = Object.fromEntries(Object.keys(entries).map((entry) => [entry, []]));
  for (let round = 0; round < sized(15); round++)
    for (const entry of Object.keys(entries)) times[entry].push(cpuOf(entry));
  return Object.entries(entries)
    .filter(([entry]) => entry !== "")
    .map(([entry, name]) => ({
      name: `CPU time of a process that imports ${name} against one that imports nothing`,
      ratio: middle(times[entry].map((time, i) => time / times[""][i])),
    }));
}
