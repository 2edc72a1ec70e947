// A flag that asks a recurring window, against one Date.now().
import { FlagSet, readDefinitions } from "iudex/core";
import { compare } from "./measure.mjs";

export async function run() {
  const { definitions } = readDefinitions([
    {
      file: "bench.json",
      data: {
        iudex: 1,
        windows: {
          desk: { hours: "Mo-Fr 07:00-19:00; Sa 09:00-13:00", zone: "Atlantic/Faroe", except: ["2026-12-25"] },
        },
        flags: { desk: { safe: false, rules: [{ when: "window:desk", give: true }] } },
      },
    },
  ]);
  const window = definitions.windows.get("desk").window;
  const set = new FlagSet(definitions);
  const now = Date.now();
  const fixed = () => now;
  const context = {};
  const work = (ask) => () => {
    let sum = 0;
    for (let i = 0; i < 100_000; i++) sum += ask();
    return sum;
  };
  const times = compare(
    {
      clock: work(() => Date.now()),
      window: work(() => (window.isOpen(Date.now()) ? 1 : 0)),
      flag: work(() => (set.judge("desk", context, fixed).value ? 1 : 0)),
    },
    { baseline: "clock", operations: 100_000 },
  );
  return [
    {
      name: "a recurring window, the clock read included, against one Date.now()",
      ratio: times.window.ratio,
      atMost: 1.5,
    },
    { name: "a whole flag that asks the window at a given instant against one Date.now()", ratio: times.flag.ratio },
  ];
}
