// Experiments whose truth is known, for the promises of weighing. Nobody's answer depends on the group, but where a kind
// says so.
import { mkdir, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { loadFolder, weigh } from "iudex/tools";

/** The same numbers each time: Marsaglia's xorshift of 32 bits, 2003, with its low bits left out. */
function seeded(seed) {
  let state = seed;
  return () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 2 ** 32;
  };
}

const flat = (people, days) => Array.from({ length: days }, () => people / days);

const rate = (p) => ({ kind: "rate", sums: (n, random) => rateOf(binomial(n, p, random), n), truth: p });

/** A third of people order, by a lognormal of that width. */
const heavy = (width, cap = Number.POSITIVE_INFINITY) => ({
  kind: "amount",
  sums: (n, random) => amountOf(n, width, cap, random),
});

/**
 * What each person does, by group; how many come in a day, of whom how many into the second group.
 * @type {readonly { name: string, outcome: (day: number) => object, effect?: object, days: readonly number[], share: (day: number) => number, measures?: number, truth?: number }[]}
 */
export const experiments = [
  { name: "a rate of 10 % in halves", outcome: () => rate(0.1), days: flat(10_000, 20), share: () => 0.5 },
  { name: "a rate of 1 % in halves", outcome: () => rate(0.01), days: flat(20_000, 20), share: () => 0.5 },
  { name: "a rate of 30 % with a group of 10 %", outcome: () => rate(0.3), days: flat(8_000, 20), share: () => 0.1 },
  { name: "a rate of 5 % with a group of 1 %", outcome: () => rate(0.05), days: flat(60_000, 20), share: () => 0.01 },
  {
    name: "10 % against 13 %",
    outcome: () => rate(0.1),
    effect: rate(0.13),
    truth: 0.03,
    days: flat(6_000, 20),
    share: () => 0.5,
  },
  { name: "ten measures at once", outcome: () => rate(0.1), days: flat(6_000, 10), share: () => 0.5, measures: 10 },
  {
    name: "a share of 1, 10 and 50 % while the rate falls from 20 to 5 %",
    outcome: (day) => rate(0.2 - 0.15 * (day / 20)),
    days: flat(30_000, 21),
    share: (day) => [0.01, 0.1, 0.5][Math.floor(day / 7)],
    spans: (day) => Math.floor(day / 7) + 1,
  },
  { name: "amounts with a heavy tail", outcome: () => heavy(1), days: flat(6_000, 20), share: () => 0.5 },
  {
    // So heavy that one person mostly makes more than a tenth of the uncertainty, and the words are “cap the measure”.
    name: "amounts with a very heavy tail and a group of 10 %",
    outcome: () => heavy(1.5),
    days: flat(10_000, 20),
    share: () => 0.1,
    isUncapped: true,
  },
  {
    name: "the same, each person capped at 10",
    outcome: () => heavy(1.5, 10),
    days: flat(10_000, 20),
    share: () => 0.1,
  },
];

/** @returns the part in which the interval for one look held, and in which anything was wrong at any look */
export async function simulate(kind, many, folder, seed = 20_261_202) {
  const random = seeded(seed);
  const place = join(folder, `weigh-${many}-${experiments.indexOf(kind)}`);
  await mkdir(place);
  await writeFile(join(place, "flags.yaml"), definitionsOf(kind));
  const { definitions } = await loadFolder(place);
  const sums = join(place, "sums.ndjson");
  const { truth = 0, measures = 1 } = kind;
  let held = 0;
  let missed = 0;
  for (let i = 0; i < many; i++) {
    await writeFile(sums, rowsOf(kind, measures, random));
    const weighed = await weigh(definitions, { flag: "season", sums });
    const differences = weighed.measures.map((measure) => measure.differences[0]);
    const isIn = (interval) => interval.low <= truth && truth <= interval.high;
    if (differences.every(({ absolute }) => absolute !== null && isIn(absolute))) held++;
    if (differences.some(({ byDay }) => byDay.some(({ alwaysValid }) => alwaysValid !== null && !isIn(alwaysValid))))
      missed++;
  }
  return { held: measures === 1 ? held / many : undefined, missed: missed / many };
}

function definitionsOf({ share, spans }) {
  const steps = ["1% from 2026-11-01T00:00", "10% from 2026-11-08T00:00", "50% from 2026-11-15T00:00"];
  const part = spans ? `{ rising: [${steps.join(", ")}] }` : `${share(0) * 100}%`;
  return `iudex: 1
defaults: { by: account.id, zone: UTC }
flags:
  season: { safe: false, rules: [{ name: some, share: ${part}, give: true }] }
`;
}

function rowsOf({ outcome, effect, days, share, spans }, measures, random) {
  const rows = [];
  for (const [day, people] of days.entries()) {
    const inside = binomial(Math.round(people), share(day), random);
    for (let m = 0; m < measures; m++)
      for (const [group, n] of [
        ["left out", Math.round(people) - inside],
        ["let in", inside],
      ]) {
        const whose = group === "let in" && effect ? effect : outcome(day);
        const date = `2026-11-${String(day + 1).padStart(2, "0")}`;
        const row = {
          measure: `m${m}`,
          kind: whose.kind,
          span: spans?.(day) ?? 0,
          day: date,
          group_name: group,
          people: n,
        };
        rows.push(JSON.stringify({ ...row, ...whose.sums(n, random) }));
      }
  }
  return rows.join("\n");
}

function rateOf(had, n) {
  const mean = n === 0 ? 0 : had / n;
  return { mean, m2: n * mean * (1 - mean), nonzero: had, largest: had > 0 ? 1 : 0 };
}

function amountOf(n, width, cap, random) {
  let [mean, m2, nonzero, largest] = [0, 0, 0, 0];
  for (let i = 1; i <= n; i++) {
    const y = random() < 1 / 3 ? Math.min(cap, Math.exp(width * normal(random))) : 0;
    const off = y - mean;
    mean += off / i;
    m2 += off * (y - mean);
    if (y > 0) nonzero++;
    if (y > largest) largest = y;
  }
  return { mean, m2, nonzero, largest };
}

/** By G. E. P. Box and M. E. Muller, 1958. */
function normal(random) {
  return Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
}

/** From one success to the next, which takes as long as there are successes. */
function binomial(n, p, random) {
  if (p > 0.5) return n - binomial(n, 1 - p, random);
  const none = Math.log(1 - p);
  let count = -1;
  for (let at = 0; at <= n; count++) at += Math.floor(Math.log(1 - random()) / none) + 1;
  return count;
}
