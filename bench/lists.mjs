// Lists of ids: memory, hits and misses against a Set of texts.
import { inside } from "./insides.mjs";
import { compare, retained, sized } from "./measure.mjs";

const { IdSet } = await inside("ids");

let state = 12345;
function random() {
  state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
  return state;
}

const hex = (n, digits) => n.toString(16).padStart(8, "0").slice(0, digits);
const kinds = {
  UUIDs: () =>
    `${hex(random(), 8)}-${hex(random(), 4)}-4${hex(random(), 3)}-a${hex(random(), 3)}-${hex(random(), 8)}${hex(random(), 4)}`,
  "decimal integers": () => String(random()),
  texts: () => `C-${random().toString(36)}`,
};

/** Texts that are not shared with anything, as a file's lines would be. */
function make(kind, count) {
  state = 12345;
  return Array.from({ length: count }, () => fresh(kinds[kind]()));
}

const fresh = (text) => Buffer.from(text).toString("latin1");

const targets = [
  { kind: "UUIDs", count: 1_000_000, memory: 0.35, hit: 1 },
  { kind: "decimal integers", count: 1_000_000, memory: 0.3, hit: 1 },
  { kind: "texts", count: 10_000, memory: 1.1, hit: 1.1, miss: 1 },
  { kind: "texts", count: 1_000_000, memory: 0.4, hit: 1.3, miss: 0.7 },
];

export async function run() {
  const results = [];
  for (const { kind, count: full, memory, hit, miss } of targets) {
    const count = sized(full, 5_000);
    const called = `${full.toLocaleString("en")} ${kind}`;
    const set = retained(() => new Set(make(kind, count)));
    const own = retained(() => IdSet.from(make(kind, count)));
    const add = (what, ratio, atMost) =>
      results.push({ name: `${what} ${called} against a Set of texts`, ratio, atMost });
    add("memory of", own.bytes / set.bytes, memory);
    const probes = make(kind, count).filter((_, i) => i % 5 === 0);
    const asked = (texts, found) => (holder) => () => {
      let hits = 0;
      for (let i = 0; i < texts.length; i++) if (holder.has(texts[i])) hits++;
      if (hits !== (found ? texts.length : 0)) throw new Error(`${hits} ids were found`);
      return hits;
    };
    const measure = (ask, texts) =>
      compare(
        { set: ask(set.held), own: ask(own.held) },
        { baseline: "set", operations: texts.length, rounds: 15, warmUp: 4 },
      ).own.ratio;
    add("hits in", measure(asked(probes, true), probes), hit);
    if (miss === undefined) continue;
    const others = probes.map((text) => fresh(`${text.slice(0, -1)}_`));
    add("misses in", measure(asked(others, false), others), miss);
  }
  return results;
}
