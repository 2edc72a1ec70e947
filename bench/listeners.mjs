// What it costs that somebody listens: to each verdict, to one subject in a hundred, counting.
import { verdictCounter } from "iudex";
import { flagsFrom } from "iudex/testing";
import { compare } from "./measure.mjs";

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
function asked(listen) {
  const flags = flagsFrom({ defaults: { by: "account.id" }, flags: { flag } });
  listen(flags);
  return () => {
    let sum = 0;
    for (let round = 0; round < 5; round++) for (const context of contexts) sum += flags.value("flag", context);
    return sum;
  };
}

export async function run() {
  const alternatives = {
    none: asked(() => {}),
    idle: asked((flags) => flags.on("verdict", () => {})),
    some: asked((flags) => flags.on("verdict", () => {}, { share: 0.01 })),
    counter: asked((flags) => flags.on("verdict", verdictCounter().listener)),
  };
  const times = compare(alternatives, { baseline: "none", operations: 5_000, rounds: 15 });
  return [
    { name: "value() with an idle verdict listener, against none", ratio: times.idle.ratio, atMost: 1.5 },
    { name: "value() with a listener to a hundredth, against none", ratio: times.some.ratio, atMost: 1.15 },
    { name: "value() with verdictCounter, against none", ratio: times.counter.ratio, atMost: 3 },
  ];
}
