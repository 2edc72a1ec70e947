// 10,000 flags of four rules: reading and compiling all of them against JSON.parse of the same data, and what they keep.
import { FlagSet, readDefinitions } from "iudex/core";
import { compare, keep, retained, sized } from "./measure.mjs";

const plans = ["foot", "vehicle", "freight"];

function data(count) {
  const flags = {};
  for (let i = 0; i < count; i++) {
    flags[`flag-${i}`] = {
      about: `What flag ${i} is for, in a sentence of the usual length`,
      owner: "booking-team",
      safe: false,
      by: "account.id",
      rules: [
        { name: "our own people first", when: 'email ends with "@ternhaven.example"', give: true },
        { name: "frequent travellers", when: `trips > ${i % 500} and account.plan == "${plans[i % 3]}"`, give: true },
        { name: "newer apps", when: `app.version >= v${i % 9}.${i % 20}`, give: true },
        { name: "one in ten", share: `${i % 100}%`, give: true },
      ],
    };
  }
  return { iudex: 1, flags };
}

/** Read, checked and compiled: every flag is made ready to be asked, not only those that come first. */
function compiled(parsed) {
  const { definitions } = readDefinitions([{ file: "bench.json", data: parsed, unchanging: true }]);
  const set = new FlagSet(definitions);
  for (const name of definitions.flags.keys()) set.flag(name);
  return set;
}

/** The same without the reading: definitions that have been read and checked, each flag made ready to be asked. */
function compiledOnly(definitions) {
  const set = new FlagSet(definitions);
  for (const name of definitions.flags.keys()) set.flag(name);
  return set;
}

export async function run() {
  const text = JSON.stringify(data(sized(10_000, 200)));
  // As in a service that reloads: a set is in force all the while.
  const inForce = compiled(JSON.parse(text));
  // Both begin with a clean heap and the same parsed data at hand.
  const before = () => {
    const parsed = JSON.parse(text);
    globalThis.gc();
    return parsed;
  };
  const { definitions: read } = readDefinitions([{ file: "bench.json", data: JSON.parse(text), unchanging: true }]);
  const times = compare(
    {
      parse: () => Object.keys(JSON.parse(text).flags).length,
      compile: (parsed) => compiled(parsed).definitions.flags.size,
      compileOnly: () => compiledOnly(read).definitions.flags.size,
    },
    { baseline: "parse", operations: 10_000, rounds: 21, warmUp: 12, before },
  );
  keep(inForce.definitions.flags.size);
  const fresh = JSON.parse(text);
  const kept = retained(() => compiled(fresh));
  return [
    { name: "10,000 read flags compiled against JSON.parse", ratio: times.compileOnly.ratio },
    { name: "10,000 flags read, checked and compiled against JSON.parse", ratio: times.compile.ratio, atMost: 2 },
    {
      name: "kB that a service keeps for each of 10,000 compiled flags",
      ratio: kept.bytes / 10_000 / 1_000,
      atMost: 3,
    },
  ];
}
