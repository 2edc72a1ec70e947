// What it costs that somebody listens: to each verdict, to one subject in a hundred, counting; in the mix.
import { verdictCounter } from "iudex";
import { compare } from "./measure.mjs";
import { mixedFlags } from "./mixed-flags.mjs";

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

export async function run() {
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
  const row = (what, { ratio }, atMost) => ({ name: `value() in the mix, with ${what}, against none`, ratio, atMost });
  return [
    row("an idle verdict listener", mix.idle, 1.5),
    row("a listener to a hundredth of the subjects", mix.some, 1.5),
    row("a listener that is told nothing twice", mix.distinct, 1.6),
    row("verdictCounter", mix.counter, 3),
  ];
}
