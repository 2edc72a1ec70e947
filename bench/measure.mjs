// Ratios of alternatives, measured side by side: rounds take turns, so that what disturbs the machine disturbs all of
// them, and the middle of the rounds' ratios is kept.

/** A smoke run shows that every benchmark runs; its figures say nothing. */
const isSmoke = process.env.IUDEX_BENCH === "smoke";

/** A size or a number of rounds: the full one, or that of a smoke run. */
export function sized(full, smoke = 1) {
  return isSmoke ? smoke : full;
}

let sink = 0;

/** Keeps a result alive, so that no engine removes the work that made it. */
export function keep(value) {
  sink = (sink + (typeof value === "number" ? value : value ? 1 : 0)) | 0;
}

/**
 * Times each function of `alternatives` (name → function doing `operations` operations) in turns. What `before` makes,
 * outside the measured time, is handed to it.
 * @returns {{ [name: string]: { ns: number, ratio: number } }} nanoseconds an operation, and the median over the
 * rounds of its time divided by that of `baseline` in the same round
 */
export function compare(alternatives, { baseline, operations, rounds = 31, warmUp = 8, before = () => undefined }) {
  const names = Object.keys(alternatives);
  for (let i = 0; i < sized(warmUp); i++) for (const name of names) keep(alternatives[name](before()));
  const times = Object.fromEntries(names.map((name) => [name, []]));
  for (let round = 0; round < sized(rounds); round++) {
    const order = round % 2 ? [...names].reverse() : names;
    for (const name of order) {
      const given = before();
      const start = process.hrtime.bigint();
      keep(alternatives[name](given));
      times[name].push(Number(process.hrtime.bigint() - start));
    }
  }
  const result = {};
  for (const name of names) {
    const ratios = times[name].map((time, i) => time / times[baseline][i]);
    result[name] = { ns: middle(times[name]) / operations, ratio: middle(ratios) };
  }
  return result;
}

export function middle(numbers) {
  const sorted = [...numbers].sort((a, b) => a - b);
  return sorted[sorted.length >> 1];
}

/** Bytes that stay on the heap and in array buffers because of what `make` returns. Needs --expose-gc. */
export function retained(make) {
  settle();
  const before = memory();
  const held = make();
  settle();
  const bytes = memory() - before;
  keep(held === undefined);
  return { bytes, held };
}

function settle() {
  for (let i = 0; i < 4; i++) globalThis.gc();
}

function memory() {
  const { heapUsed, arrayBuffers } = process.memoryUsage();
  return heapUsed + arrayBuffers;
}
