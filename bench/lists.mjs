// A list of 1,000,000 ids: memory and hits against a Set of texts.
import { inside } from "./insides.mjs";
import { compare, retained, sized } from "./measure.mjs";

const { IdSet } = await inside("ids");

const count = sized(1_000_000, 5_000);
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
};

/** Texts that are not shared with anything, as a file's lines would be. */
function make(kind) {
  state = 12345;
  return Array.from({ length: count }, () => Buffer.from(kinds[kind]()).toString("latin1"));
}

export async function run() {
  const results = [];
  for (const [kind, atMost] of [
    ["UUIDs", 0.35],
    ["decimal integers", 0.3],
  ]) {
    const set = retained(() => new Set(make(kind)));
    const own = retained(() => IdSet.from(make(kind)));
    results.push({ name: `memory of 1,000,000 ${kind} against a Set of texts`, ratio: own.bytes / set.bytes, atMost });
    const probes = make(kind).filter((_, i) => i % 5 === 0);
    const hits = (holder) => () => {
      let found = 0;
      for (let i = 0; i < probes.length; i++) if (holder.has(probes[i])) found++;
      if (found !== probes.length) throw new Error("an id was not found");
      return found;
    };
    const times = compare(
      { set: hits(set.held), own: hits(own.held) },
      { baseline: "set", operations: probes.length, rounds: 15, warmUp: 4 },
    );
    results.push({ name: `hits in 1,000,000 ${kind} against a Set of texts`, ratio: times.own.ratio, atMost: 1 });
  }
  return results;
}
