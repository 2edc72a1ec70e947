// What it costs that somebody listens: to each verdict, to one subject in a hundred, counting; of one flag and of the mix.
import { verdictCounter } from "iudex";
import { flagsFrom } from "iudex/testing";
import { compare } from "./measure.mjs";
import { mixedFlags } from "./mixed-flags.mjs";

const flag = {
  safe: 0,
  rules: [
    { when: 'account.plan == "freight" and trips > 20', give: 1 },
    { when: 'email ends with "@ternhaven.example"', give: 2 },
    { when: "trips > 100", share: "10%", by: "account.id", give: 3 },
  ],
};
const contexts = Array.from({ length: 1_000 }, (_, i) => ({
  account: { id: `A-${i}`, plan: i % 2 ? "foot" : "freight" },
  email: `p${i}@post.example`,
  trips: (i * 7) % 300,
}));

/** Flags of their own for each, so that none pays for another's listeners. */
const listening = {
  none: () => {},
  idle: (flags) => flags.on("verdict", () => {}),
  some: (flags) => flags.on("verdict", () => {}, { share: 0.01 }),
  distinct: (flags) => flags.on("verdict", () => {}, { distinct: true }),
  counter: (flags) => flags.on("verdict", verdictCounter().listener),
};

function each(make) {
  return Object.fromEntries(Object.entries(listening).map(([name, listen]) => [name, make(listen)]));
}

function oneFlag(listen) {
  const flags = flagsFrom({ defaults: { by: "account.id" }, flags: { flag } });
  listen(flags);
  return () => {
    let sum = 0;
    for (let round = 0; round < 5; round++) for (const context of contexts) sum += flags.value("flag", context);
    return sum;
  };
}

export async function run() {
  const one = compare(each(oneFlag), { baseline: "none", operations: 5_000, rounds: 15 });
  const { open, asks } = await mixedFlags();
  const mixed = each((listen) => {
    const flags = open();
    listen(flags);
    return () => {
      let sum = 0;
      for (let i = 0; i < asks.length; i++) sum += flags.value(asks[i][0], asks[i][1]) === 1 ? 1 : 0;
      return sum;
    };
  });
  const mix = compare(mixed, { baseline: "none", operations: asks.length, rounds: 15 });
  const rows = (of, times) => [
    { name: `value() ${of}, with an idle verdict listener, against none`, ratio: times.idle.ratio, atMost: 1.5 },
    { name: `value() ${of}, with a listener to a hundredth, against none`, ratio: times.some.ratio, atMost: 1.15 },
    { name: `value() ${of}, with verdictCounter, against none`, ratio: times.counter.ratio, atMost: 3 },
  ];
  const distinct = {
    name: "value() of 200 flags by turns, with a listener that is told nothing twice, against none",
    ratio: mix.distinct.ratio,
    atMost: 1.6,
  };
  return [...rows("of one flag", one), ...rows("of 200 flags by turns", mix), distinct];
}
