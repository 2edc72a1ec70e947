// What a context is made of, over 1,000 flags asked by turns: a literal, instances of classes, a prototype that somebody
// has put something on.
import { FlagSet, readDefinitions } from "iudex/core";
import { compare } from "./measure.mjs";

const flags = Object.fromEntries(
  Array.from({ length: 1_000 }, (_, i) => [
    `flag-${i}`,
    {
      safe: 0,
      rules: [
        { when: `account.plan == "foot" and trips > ${i % 300}`, give: 1 },
        { when: `email ends with "@ternhaven.example"`, share: "10%", by: "account.id", give: 2 },
      ],
    },
  ]),
);
const { definitions } = readDefinitions([{ file: "flags.json", data: { iudex: 1, flags } }]);
const set = new FlagSet(definitions);
const names = Object.keys(flags);

class Account {
  constructor(i) {
    this.id = `A-${i}`;
    this.plan = i % 2 ? "foot" : "freight";
  }
}

class Passenger {
  constructor(i) {
    this.account = new Account(i);
    this.email = "oda@post.example";
    this.trips = (i * 7) % 300;
  }
}

const instances = Array.from({ length: 20 }, (_, i) => new Passenger(i));
const nested = instances.map((passenger) => ({ ...passenger }));
const literals = nested.map((context) => ({ ...context, account: { ...context.account } }));

function asked(contexts) {
  return () => {
    let sum = 0;
    for (const context of contexts) for (const name of names) sum += set.value(name, context);
    return sum;
  };
}

export async function run() {
  const alternatives = { literals: asked(literals), nested: asked(nested), instances: asked(instances) };
  const options = { baseline: "literals", operations: 20_000, rounds: 15 };
  const times = compare(alternatives, options);
  const onPrototype = {
    literals: alternatives.literals,
    polluted: () => {
      Object.prototype.polluted = 1;
      try {
        return alternatives.literals();
      } finally {
        delete Object.prototype.polluted;
      }
    },
  };
  const polluted = compare(onPrototype, options).polluted.ratio;
  return [
    { name: "instances of a class as contexts, against literals", ratio: times.instances.ratio, atMost: 3 },
    { name: "instances nested inside, against literals", ratio: times.nested.ratio, atMost: 3 },
    { name: "something enumerable on Object.prototype, against nothing", ratio: polluted, atMost: 5 },
  ];
}
