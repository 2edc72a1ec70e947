// Pinning a context and asking ten flags, against ten value() calls; asking with and without a listener.
import { flagsFrom } from "iudex/testing";
import { compare } from "./measure.mjs";

const flags = flagsFrom({
  flags: Object.fromEntries(
    Array.from({ length: 10 }, (_, i) => [
      `flag-${i}`,
      {
        safe: 0,
        rules: [
          { when: `trips > ${i * 20} and account.plan == "foot"`, give: 1 },
          { when: `app.version >= v${i}.2`, give: 2 },
        ],
      },
    ]),
  ),
});
const names = flags.names;
const contexts = Array.from({ length: 500 }, (_, i) => ({
  account: { id: `A-${i}`, plan: i % 2 ? "foot" : "freight" },
  trips: (i * 7) % 300,
  app: { version: `${i % 12}.${i % 5}.0` },
}));

export async function run() {
  const each = (ask) => () => {
    let sum = 0;
    for (let round = 0; round < 10; round++) for (const context of contexts) sum += ask(context);
    return sum;
  };
  const values = each((context) => {
    let sum = 0;
    for (const name of names) sum += flags.value(name, context);
    return sum;
  });
  const pinned = each((context) => {
    const here = flags.pin(context);
    let sum = 0;
    for (const name of names) sum += here.value(name);
    return sum;
  });
  const times = compare({ values, pinned }, { baseline: "values", operations: 5_000 });
  const off = flags.on("verdict", () => {});
  const listened = compare(
    { clock: each(() => Date.now() % 2), values },
    { baseline: "clock", operations: 5_000, rounds: 9, warmUp: 2 },
  );
  off();
  const unheard = compare(
    { clock: each(() => Date.now() % 2), values },
    { baseline: "clock", operations: 5_000, rounds: 9, warmUp: 2 },
  );
  return [
    { name: "pin() and ten flags against ten value() calls", ratio: times.pinned.ratio },
    {
      name: "value() with a verdict listener against value() without",
      ratio: listened.values.ratio / unheard.values.ratio,
    },
  ];
}
