// Runs targets on what fast-check makes of the corpus, and keeps each input that gives something new.

import { createHash } from "node:crypto";
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { parentPort, workerData } from "node:worker_threads";
import fc from "fast-check";
import { targets } from "./targets.mjs";

const { corpus, milliseconds, seed, only, keeps } = workerData;
const names = Object.keys(targets).filter((name) => !only || only === name);

/** The corpus of a target: texts that once gave something new. */
function seedsOf(name) {
  const folder = join(corpus, name);
  mkdirSync(folder, { recursive: true });
  return readdirSync(folder).map((file) => readFileSync(join(folder, file)));
}

/** Pieces of the languages, so that more comes of chance than noise. */
const pieces = [
  "iudex: 1",
  "flags:",
  "safe:",
  "when:",
  "give:",
  "split:",
  "share:",
  "rising:",
  "10% to 20%",
  "[",
  "]",
  "{",
  "}",
  "- ",
  ": ",
  "&a",
  "*a",
  "<<",
  "!!",
  "---",
  "\t",
  "\n  ",
  '"',
  "'",
  "\\",
  "\u0000",
  "\ufeff",
  "\ud800",
  "é",
  "日",
  " and ",
  " or ",
  " not ",
  " in [",
  " contains ",
  " matches /(a|b)*c/",
  " ends with ",
  "cohort:",
  "window:",
  "flag:",
  "lower(",
  "v1.2",
  "2026-01-01T00:00Z",
  "1e400",
  "-0",
  "null",
  "__proto__",
  "constructor",
  "iudex-pass: ",
  "cookie: iudex-pass=",
  'if-none-match: "',
  "person: A-1",
  "eyJhbGciOiJub25lIn0.",
  ",",
  ";",
  "=",
];

const change = fc.oneof(
  fc.record({ kind: fc.constant("cut"), at: fc.nat(), length: fc.nat({ max: 40 }) }),
  fc.record({ kind: fc.constant("put"), at: fc.nat(), text: fc.oneof(fc.constantFrom(...pieces), fc.string()) }),
  fc.record({ kind: fc.constant("byte"), at: fc.nat(), value: fc.nat({ max: 255 }) }),
  fc.record({ kind: fc.constant("often"), at: fc.nat(), length: fc.nat({ max: 20 }), times: fc.nat({ max: 2_000 }) }),
);

function applied(bytes, { kind, at, length, text, value, times }) {
  const start = bytes.length === 0 ? 0 : at % (bytes.length + 1);
  const [before, after] = [bytes.subarray(0, start), bytes.subarray(start)];
  switch (kind) {
    case "cut":
      return Buffer.concat([before, after.subarray(length)]);
    case "put":
      return Buffer.concat([before, Buffer.from(text), after]);
    case "byte":
      return Buffer.concat([before, Buffer.from([value]), after.subarray(1)]);
    default: {
      const part = after.subarray(0, length);
      return Buffer.concat([before, ...Array.from({ length: times }, () => part), after]);
    }
  }
}

const known = new Map();
const pools = new Map();
for (const name of names) {
  pools.set(name, seedsOf(name));
  known.set(name, new Set());
  // Everything that was ever kept is tried first.
  for (const bytes of pools.get(name)) known.get(name).add(await attempt(name, bytes));
}

async function attempt(name, bytes) {
  parentPort.postMessage({ begun: name, bytes });
  let least = Number.POSITIVE_INFINITY;
  // What was slow once may have waited for the engine; what is slow three times holds a service up. What a thread of its
  // own works on meanwhile does not.
  for (let turn = 1; turn <= 3; turn++) {
    const before = performance.eventLoopUtilization();
    const signature = await targets[name](bytes);
    if (signature.includes("reading-too-long")) throw new Error(`${name} was given up after half a minute`);
    least = Math.min(least, performance.eventLoopUtilization(before).active);
    if (least <= 1_000) return signature;
  }
  throw new Error(`${name} holds the event loop up for ${Math.round(least)} ms`);
}

const largestKept = 4_096;
const end = performance.now() + milliseconds;
let runs = 0;
let found = 0;
while (performance.now() < end) {
  const name = names[runs % names.length];
  const pool = pools.get(name);
  const [{ index, changes }] = fc.sample(
    fc.record({ index: fc.nat(), changes: fc.array(change, { minLength: 1, maxLength: 6 }) }),
    {
      numRuns: 1,
      seed: seed + runs,
    },
  );
  const bytes = changes
    .reduce(applied, pool.length === 0 ? Buffer.alloc(0) : pool[index % pool.length])
    .subarray(0, 200_000);
  const signature = await attempt(name, bytes);
  runs++;
  if (known.get(name).has(signature)) continue;
  known.get(name).add(signature);
  found++;
  // Small ones only, on their own: what the run remembers must not count as what reading takes.
  if (bytes.length > largestKept) continue;
  pool.push(Buffer.from(bytes));
  if (keeps) writeFileSync(join(corpus, name, createHash("sha256").update(bytes).digest("hex").slice(0, 16)), bytes);
}
parentPort.postMessage({
  done: true,
  runs,
  found,
  known: [...known.values()].reduce((sum, each) => sum + each.size, 0),
});
