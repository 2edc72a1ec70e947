// One decision of five rules, against a hand-written if-chain that does the same.
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { followFlags } from "iudex";
import { compare, keep } from "./measure.mjs";

const ids = Array.from({ length: 1_000 }, (_, i) => `A-${i * 7}`);

const definitions = {
  iudex: 1,
  cohorts: { invited: { of: "account.id", ids } },
  flags: {
    decision: {
      safe: 0,
      rules: [
        { when: 'account.plan == "freight" and account.country == "FO"', give: 1 },
        { when: 'email ends with "@ternhaven.example"', give: 2 },
        { when: "trips > 100 and not contractor", give: 3 },
        { when: "app.version >= v4.2", give: 4 },
        { when: "cohort:invited", give: 5 },
      ],
    },
  },
};

const contexts = Array.from({ length: 1_000 }, (_, i) => ({
  account: { id: `A-${(i * 13) % 9_000}`, plan: i % 3 ? "foot" : "freight", country: i % 4 ? "DK" : "FO" },
  email: `person${i}@${i % 7 ? "post.example" : "ternhaven.example"}`,
  trips: i % 140,
  contractor: i % 2 === 0,
  app: { version: `${i % 6}.${i % 10}.${i % 17}` },
}));

const idSet = new Set(ids);

/** What a careful engineer writes by hand. */
function byHand(context) {
  if (context.account.plan === "freight" && context.account.country === "FO") return 1;
  if (context.email.endsWith("@ternhaven.example")) return 2;
  if (context.trips > 100 && !context.contractor) return 3;
  if (isAtLeast(context.app.version, 4, 2, 0)) return 4;
  if (idSet.has(context.account.id)) return 5;
  return 0;
}

function isAtLeast(version, major, minor, patch) {
  const [a, b, c] = version.split(".");
  if (Number(a) !== major) return Number(a) > major;
  if (Number(b) !== minor) return Number(b) > minor;
  return Number(c) >= patch;
}

export async function run() {
  const folder = await mkdtemp(join(tmpdir(), "iudex-bench-"));
  await writeFile(join(folder, "flags.json"), JSON.stringify(definitions));
  const flags = await followFlags(folder, { watch: false });
  for (const context of contexts) {
    if (flags.value("decision", context) !== byHand(context)) throw new Error("the alternatives do not agree");
  }
  const all = (ask) => () => {
    let sum = 0;
    for (let i = 0; i < contexts.length; i++) sum += ask(contexts[i]);
    return sum;
  };
  const times = compare(
    {
      hand: repeat(20, all(byHand)),
      value: repeat(
        20,
        all((context) => flags.value("decision", context)),
      ),
      verdict: repeat(
        20,
        all((context) => flags.verdict("decision", context).value),
      ),
    },
    { baseline: "hand", operations: 20_000 },
  );
  await flags.close();
  await rm(folder, { recursive: true });
  return [
    { name: "value() against a hand-written if-chain", ratio: times.value.ratio, atMost: 1.5 },
    { name: "verdict() against value()", ratio: times.verdict.ratio / times.value.ratio, atMost: 1.3 },
  ];
}

export function repeat(times, work) {
  return () => {
    let sum = 0;
    for (let i = 0; i < times; i++) sum += work();
    keep(sum);
    return sum;
  };
}
