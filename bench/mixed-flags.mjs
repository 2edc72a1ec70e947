// What services ask: two hundred flags of every kind by turns, over ten thousand contexts that differ in what they hold,
// in random order; and generated code such as one would write by hand, with the same hash.
import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { flagsFrom } from "iudex/testing";
import { inside } from "./insides.mjs";
import { sized } from "./measure.mjs";

export const howMany = { contexts: sized(10_000, 500), asks: sized(20_000, 1_000) };
const at = Date.parse("2026-12-02T10:00:00Z");

/** A small generator of numbers in [0, 1), the same in every run (mulberry32). */
function seeded(seed) {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t = (t + Math.imul(t ^ (t >>> 7), t | 61)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

const random = seeded(20_261_202);
export const below = (n) => Math.floor(random() * n);
const pick = (...of) => of[below(of.length)];

const plans = ["foot", "vehicle", "freight", "crew"];
const places = ["FO", "DK", "IS", "NO", "GB"];

/** Each kind of flag: its definition, and the body of a function of `c` that does the same; `before` is made once. */
const kinds = [
  () => ({ define: { safe: 1 }, hand: "return 1;" }),
  () => {
    const plan = pick(...plans);
    return {
      define: { safe: 0, rules: [{ when: `account.plan == "${plan}"`, give: 1 }] },
      hand: `return c.account.plan === "${plan}" ? 1 : 0;`,
    };
  },
  () => {
    const [low, high] = [below(50), 50 + below(50)];
    return {
      define: {
        safe: 0,
        rules: [
          { when: `trips > ${high}`, give: 2 },
          { when: `trips >= ${low}`, give: 1 },
        ],
      },
      hand: `return c.trips > ${high} ? 2 : c.trips >= ${low} ? 1 : 0;`,
    };
  },
  () => {
    const end = pick("@ternhaven.example", "@post.example");
    return {
      define: { safe: 0, rules: [{ when: `email ends with "${end}" and not contractor`, give: 1 }] },
      hand: `return c.email !== undefined && c.contractor !== undefined && c.email.endsWith("${end}") && !c.contractor ? 1 : 0;`,
    };
  },
  () => {
    const tag = pick("early", "night", "dog");
    return {
      define: { safe: 0, rules: [{ when: `tags contains "${tag}"`, give: 1 }] },
      hand: `return c.tags !== undefined && c.tags.includes("${tag}") ? 1 : 0;`,
    };
  },
  () => {
    const [a, b] = [below(6), below(10)];
    return {
      define: { safe: 0, rules: [{ when: `app.version >= v${a}.${b}`, give: 1 }] },
      hand: `return isAtLeast(c.app.version, ${a}, ${b}) ? 1 : 0;`,
    };
  },
  (name) => {
    const percent = pick(1, 10, 25, 50);
    return {
      define: { safe: 0, rules: [{ share: `${percent}%`, give: 1 }] },
      before: `const share_ = new Bucket("share", "${name}");`,
      hand: `return share_.position(c.account.id) < ${percent / 100} ? 1 : 0;`,
    };
  },
  (name) => {
    const plan = pick(...plans);
    const percent = pick(1, 10, 25, 50);
    return {
      define: { safe: 0, rules: [{ when: `account.plan == "${plan}" and trips > 20`, share: `${percent}%`, give: 1 }] },
      before: `const share_ = new Bucket("share", "${name}");`,
      hand: `return c.account.plan === "${plan}" && c.trips > 20 && share_.position(c.account.id) < ${percent / 100} ? 1 : 0;`,
    };
  },
  (name) => {
    const parts = pick([1, 1, 1], [2, 1, 1], [1, 1, 8]);
    const variants = ["classic", "deck", "tour"];
    const runners = variants.map((v, i) => `[new Bucket("split", "${name}:${v}"), ${parts[i]}, "${v}"]`);
    return {
      define: {
        variants: Object.fromEntries(variants.map((v) => [v, v])),
        safe: "classic",
        rules: [{ split: parts.map((p, i) => `${p} ${variants[i]}`) }],
      },
      before: `const runners = [${runners.join(", ")}];`,
      hand: `let best = ""; let shortest = Infinity;
  for (const [bucket, parts, value] of runners) {
    const time = -Math.log((bucket.hash(c.account.id) + 0.5) / 4294967296) / parts;
    if (time < shortest) { shortest = time; best = value; }
  }
  return best;`,
    };
  },
  () => ({
    define: { safe: 0, rules: [{ when: "cohort:invited", give: 1 }] },
    hand: "return invited.has(c.account.id) ? 1 : 0;",
  }),
  () => {
    const [one, other] = [pick(...places), pick(...places)];
    return {
      define: { safe: 0, rules: [{ when: `account.country in ["${one}", "${other}"] or contractor`, give: 1 }] },
      hand: `return c.account.country === "${one}" || c.account.country === "${other}" || c.contractor === true ? 1 : 0;`,
    };
  },
  () => ({
    define: { safe: 0, rules: [{ when: "window:winter and trips > 5", give: 1 }] },
    before: "const [from, until] = [Date.parse('2026-12-01T00:00Z'), Date.parse('2027-03-01T00:00Z')];",
    hand: "const now = clock(); return now >= from && now < until && c.trips > 5 ? 1 : 0;",
  }),
  () => ({
    define: { safe: 0, provided: "flag:base", rules: [{ when: "trips > 30", give: 1 }] },
    hand: "return base(c) === true && c.trips > 30 ? 1 : 0;",
  }),
  () => ({
    define: {
      safe: 0,
      rules: [
        { when: 'email ends with "@ternhaven.example"', give: 1 },
        { when: "trips > 100 and not contractor", give: 2 },
        { when: 'account.plan == "freight" and account.country == "FO"', give: 3 },
        { when: "app.version < v2.0", give: 4 },
      ],
    },
    hand: `if (c.email !== undefined && c.email.endsWith("@ternhaven.example")) return 1;
  if (c.trips > 100 && c.contractor === false) return 2;
  if (c.account.plan === "freight" && c.account.country === "FO") return 3;
  return isAtLeast(c.app.version, 2, 0) ? 0 : 4;`,
  }),
];

const invited = Array.from({ length: 1_000 }, (_, i) => `A-${i * 7}`);

/** What the hand-written functions share. */
const around = `import { Bucket } from "./buckets.js";
const invited = new Set(${JSON.stringify(invited)});
let clock;
export const setClock = (given) => { clock = given; };
function isAtLeast(version, major, minor) {
  const [a, b] = version.split(".");
  return Number(a) !== major ? Number(a) > major : Number(b) >= minor;
}
const base = (c) => c.account.plan !== "crew";
export const hand = {};
`;

/** People who differ in what is known of them, and in the order in which it was gathered. */
function context(i) {
  const account = { id: `A-${below(9_000)}`, plan: pick(...plans), country: pick(...places) };
  const app = { version: `${below(6)}.${below(10)}.${below(17)}` };
  const whole = {
    account,
    app,
    trips: below(140),
    email: `person${i}@${pick("post.example", "ternhaven.example", "mail.example")}`,
    contractor: random() < 0.3,
    tags: ["early", "night", "dog"].filter(() => random() < 0.3),
  };
  const keys = Object.keys(whole).filter((key) => key === "account" || key === "app" || random() < 0.8);
  if (random() < 0.5) keys.reverse();
  return Object.fromEntries(keys.map((key) => [key, whole[key]]));
}

/**
 * The mix: `made` are its flags, `open` makes an instance of their own for who asks, `asks` are names and contexts, and
 * `hand` are the functions that were written by hand.
 */
export async function mixedFlags(howManyFlags = 200) {
  await inside("buckets");
  const made = Array.from({ length: howManyFlags }, (_, i) => ({
    name: `flag-${i}`,
    ...kinds[i % kinds.length](`flag-${i}`),
  }));
  const code = made.map(({ name, before = "", hand }) => `{ ${before}\nhand["${name}"] = (c) => { ${hand} }; }\n`);
  const file = join(import.meta.dirname, ".built", `mix-${howManyFlags}.mjs`);
  await writeFile(file, around + code.join(""));
  const { hand, setClock } = await import(pathToFileURL(file));
  const clock = () => at;
  setClock(clock);
  const open = () =>
    flagsFrom(
      {
        defaults: { by: "account.id" },
        cohorts: { invited: { of: "account.id", ids: invited } },
        windows: { winter: { from: "2026-12-01T00:00Z", until: "2027-03-01T00:00Z" } },
        flags: {
          base: { safe: false, rules: [{ when: 'account.plan != "crew"', give: true }] },
          ...Object.fromEntries(made.map(({ name, define }) => [name, define])),
        },
      },
      { clock },
    );
  const contexts = Array.from({ length: howMany.contexts }, (_, i) => context(i));
  const asks = Array.from({ length: howMany.asks }, () => [
    made[below(made.length)].name,
    contexts[below(contexts.length)],
  ]);
  const flags = open();
  for (const [name, c] of asks) {
    if (flags.value(name, c) !== hand[name](c))
      throw new Error(`${name} does not agree: ${flags.value(name, c)}, ${hand[name](c)} for ${JSON.stringify(c)}`);
  }
  return { made, hand, open, contexts, asks };
}
