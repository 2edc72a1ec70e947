// npm run fuzz: ten minutes of bytes that nobody would write, from the corpus and from chance. Whatever crashes, hangs for
// more than a second or takes more than 300 MB is written aside, and ends the run.
import { randomInt } from "node:crypto";
import { mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { parseArgs } from "node:util";
import { Worker } from "node:worker_threads";
import { ensureInstalled, root, run } from "../setup.mjs";

const { values } = parseArgs({
  options: {
    seconds: { type: "string", default: "600" },
    seed: { type: "string", default: String(randomInt(1_000_000)) },
    only: { type: "string" },
    /** Adds what gave something new to the corpus. */
    keep: { type: "boolean", default: false },
  },
});

ensureInstalled();
// In a process of its own, since what building takes is not what reading takes.
run(process.execPath, ["--input-type=module", "-e", 'await (await import("./scripts/setup.mjs")).ensureBuilt()']);

/** A hang that never ends is found by the clock; an input that holds the event loop up, in the worker. */
const longest = 60_000;
const maxMemory = 300 * 2 ** 20;

const worker = new Worker(new URL("worker.mjs", import.meta.url), {
  workerData: {
    corpus: join(root, "tests/fixtures/fuzz"),
    milliseconds: Number(values.seconds) * 1_000,
    seed: Number(values.seed),
    only: values.only,
    keeps: values.keep,
  },
});
let last;
let since = performance.now();
let most = 0;

function failed(why) {
  mkdirSync(join(root, "reports"), { recursive: true });
  const file = join(root, "reports", `fuzz-${last?.begun ?? "start"}-${values.seed}`);
  if (last) writeFileSync(file, last.bytes);
  console.error(
    `${last?.begun}: ${why}\nthe input is in ${file}; npm run fuzz -- --seed ${values.seed} makes it again`,
  );
  process.exit(1);
}

const watch = setInterval(() => {
  most = Math.max(most, process.memoryUsage().rss);
  if (most > maxMemory) failed(`it took ${Math.round(most / 2 ** 20)} MB`);
  if (performance.now() - since > longest) failed("it hangs");
}, 50);
worker.on("message", (message) => {
  since = performance.now();
  if (!message.done) {
    last = message;
    return;
  }
  clearInterval(watch);
  const { runs, found, known } = message;
  console.log(
    `seed ${values.seed}: ${runs} inputs, ${known} different outcomes, ${found} of them new; at most ${Math.round(most / 2 ** 20)} MB`,
  );
});
worker.on("error", (error) => failed(error.stack ?? String(error)));
