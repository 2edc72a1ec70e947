// What an explanation costs beside the verdict that it explains, and a scope beside pinned flags that are handed on.
import { compare, sized } from "./measure.mjs";
import { below, mixedFlags } from "./mixed-flags.mjs";

export async function run() {
  const { made, open, contexts, asks } = await mixedFlags();
  const flags = open();
  const some = asks.slice(0, sized(2_000, 100));
  const each = (ask) => () => some.reduce((sum, [name, context]) => sum + (ask(name, context) ? 1 : 0), 0);
  const explained = compare(
    { verdict: each((name, c) => flags.verdict(name, c)), explain: each((name, c) => flags.explain(name, c)) },
    { baseline: "verdict", operations: some.length },
  );
  const requests = Array.from({ length: sized(2_000, 100) }, () => ({
    context: contexts[below(contexts.length)],
    names: Array.from({ length: 5 }, () => made[below(made.length)].name),
  }));
  const asked = (ask) => requests.reduce((sum, request) => sum + ask(request), 0);
  const ask = (pinned, names) => names.reduce((sum, name) => sum + (pinned.value(name) === 1 ? 1 : 0), 0);
  const scoped = compare(
    {
      handed: () => asked(({ context, names }) => ask(flags.pin(context), names)),
      current: () =>
        asked(({ context, names }) =>
          flags.run(context, () => names.reduce((sum, name) => sum + (flags.current().value(name) === 1 ? 1 : 0), 0)),
        ),
    },
    { baseline: "handed", operations: requests.length },
  );
  return [
    { name: "explain() of the mix, against verdict()", ratio: explained.explain.ratio, atMost: 12 },
    {
      name: "run() and five times current(), against pinned flags handed on",
      ratio: scoped.current.ratio,
      atMost: 1.1,
    },
  ];
}
