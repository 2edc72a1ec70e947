// The analysis of one flag with many rules of number ranges: how it grows with their number, and what it takes.
import { checkDefinitions, readDefinitions } from "iudex/core";
import { middle, sized } from "./measure.mjs";

const rounds = sized(5);
const at = Date.parse("2026-12-02T10:00:00Z");

function definitions(rules) {
  const ranges = Array.from({ length: rules }, (_, i) => ({
    when: `trips >= ${i * 10} and trips < ${i * 10 + 10} and amount > ${i}`,
    give: i,
  }));
  const data = {
    iudex: 1,
    attributes: { trips: "number", amount: "number" },
    flags: { f: { safe: 0, rules: ranges } },
  };
  return readDefinitions([{ file: "a.json", data }]).definitions;
}

/** Milliseconds of processor time. */
function cpuOf(work) {
  const before = process.cpuUsage();
  work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1_000;
}

export async function run() {
  const sets = new Map([10, 100, sized(1_000, 101)].map((rules) => [rules, definitions(rules)]));
  for (let i = 0; i < 20; i++) checkDefinitions(sets.get(10), { at });
  const times = new Map([...sets.keys()].map((rules) => [rules, []]));
  for (let round = 0; round < rounds; round++)
    for (const [rules, set] of sets) times.get(rules).push(cpuOf(() => checkDefinitions(set, { at })));
  const [few, ...more] = [...times].map(([rules, each]) => ({ rules, time: middle(each) }));
  return [
    ...more.map(({ rules, time }) => ({
      name: `the analysis of ${rules} rules of number ranges against ${few.rules}`,
      ratio: time / few.time,
      atMost: (rules / few.rules) ** 2,
    })),
    { name: "seconds of CPU for 1,000 rules", ratio: more.at(-1).time / 1_000, atMost: 1.5 },
  ];
}
