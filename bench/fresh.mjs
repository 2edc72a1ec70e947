// What a service asks: each request brings a context of its own, which nobody has read before.
import { compare, sized } from "./measure.mjs";
import { below, mixedFlags } from "./mixed-flags.mjs";

/** Requests of one round. */
const requests = sized(4_000, 100);

export async function run() {
  const rows = [];
  for (const [flags, atMost] of [
    [200, { value: 1.15, few: 1.25, pinned: 1.3, many: 1.2 }],
    [1_000, { value: 1.3, many: 1.3 }],
    [5_000, { value: 1.3, many: 1.3 }],
  ]) {
    const mix = await mixedFlags(flags);
    const fresh = freshRequests(mix);
    const here = mix.open();
    const of = `${flags.toLocaleString("en")} flags`;
    const value = ratio(byValue(here), byHand(mix.hand), fresh(1), 1);
    rows.push({ name: `value() of ${of}, a fresh context for each`, ratio: value, atMost: atMost.value });
    if (atMost.few) {
      const few = ratio(byValue(here), byHand(mix.hand), fresh(5), 5);
      rows.push({ name: `five asks of a fresh context by value(), ${of}`, ratio: few, atMost: atMost.few });
      const pinned = ratio(byPin(here), byHand(mix.hand), fresh(5), 5);
      rows.push({ name: `pin() and five asks of a fresh context, ${of}`, ratio: pinned, atMost: atMost.pinned });
    }
    const many = ratio(byPin(here), byHand(mix.hand), fresh(20), 20);
    rows.push({ name: `pin() and 20 asks of a fresh context, ${of}`, ratio: many, atMost: atMost.many });
  }
  return rows;
}

/** Makes the requests of a round: contexts as they come of a parsed body, and the names that each asks. */
function freshRequests({ made, contexts }) {
  const texts = contexts.map((context) => JSON.stringify(context));
  return (asks) => () =>
    Array.from({ length: requests }, () => ({
      context: JSON.parse(texts[below(texts.length)]),
      names: Array.from({ length: asks }, () => made[below(made.length)].name),
    }));
}

function ratio(ask, hand, before, asks) {
  const times = compare({ hand, ask }, { baseline: "hand", operations: requests * asks, before });
  return times.ask.ratio;
}

function byHand(hand) {
  return (given) => {
    let sum = 0;
    for (const { context, names } of given) for (const name of names) sum += hand[name](context) === 1 ? 1 : 0;
    return sum;
  };
}

function byValue(flags) {
  return (given) => {
    let sum = 0;
    for (const { context, names } of given) for (const name of names) sum += flags.value(name, context) === 1 ? 1 : 0;
    return sum;
  };
}

function byPin(flags) {
  return (given) => {
    let sum = 0;
    for (const { context, names } of given) {
      const pinned = flags.pin(context);
      for (const name of names) sum += pinned.value(name) === 1 ? 1 : 0;
    }
    return sum;
  };
}
