// What a service asks, against generated code such as one would write by hand.
import { compare } from "./measure.mjs";
import { below, howMany, mixedFlags } from "./mixed-flags.mjs";

export async function run() {
  const { made, hand, open, contexts, asks } = await mixedFlags();
  const flags = open();
  const each = (ask) => () => {
    let sum = 0;
    for (let i = 0; i < asks.length; i++) sum += ask(asks[i][0], asks[i][1]) === 1 ? 1 : 0;
    return sum;
  };
  const times = compare(
    { hand: each((name, c) => hand[name](c)), value: each((name, c) => flags.value(name, c)) },
    { baseline: "hand", operations: howMany.asks },
  );
  // A request asks twenty flags of one context.
  const requests = Array.from({ length: 1_000 }, () => ({
    c: contexts[below(contexts.length)],
    names: Array.from({ length: 20 }, () => made[below(made.length)].name),
  }));
  const byRequest = (ask) => () => {
    let sum = 0;
    for (const { c, names } of requests) sum += ask(c, names);
    return sum;
  };
  const pinned = compare(
    {
      hand: byRequest((c, names) => {
        let sum = 0;
        for (const name of names) sum += hand[name](c) === 1 ? 1 : 0;
        return sum;
      }),
      pinned: byRequest((c, names) => {
        const here = flags.pin(c);
        let sum = 0;
        for (const name of names) sum += here.value(name) === 1 ? 1 : 0;
        return sum;
      }),
    },
    { baseline: "hand", operations: 20_000 },
  );
  return [
    {
      name: "value() of 200 flags of every kind by turns, against hand-written code",
      ratio: times.value.ratio,
      atMost: 1.4,
    },
    { name: "a pinned context, 20 asks, each against hand-written code", ratio: pinned.pinned.ratio, atMost: 1.6 },
  ];
}
