import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { checkDefinitions, type Definitions, FlagSet } from "../../src/core.ts";
import { Proofs } from "../../src/insight/change/proofs.ts";
import { defined } from "../support/definitions.ts";
import { runs } from "../support/runs.ts";

// A proof must never be wrong. Few attributes and values that lie side by side, so that tests often nearly contradict
// each other; then people are looked for who do what was proved to be impossible.

const big = 2 ** 53;
const numbers = [0, 0.1, 5, 5.000000000000001, 6, big, big + 2, -0];
const texts = [
  "abc",
  "ABC",
  "aBc",
  "ab",
  "abcd",
  "",
  "ß",
  "ẞ",
  "SS",
  "ss",
  "İ",
  "i̇",
  "ﬀ",
  "2026-12-01T09:00Z",
  "2026-12-01T10:00+01:00",
];
const versions = ["v4.2", "v4.2.0", "v4.2.0-rc.1", "v4.10"];
const times = ["2026-12-01T09:00Z", "2026-12-01T10:00+01:00", "2026-12-01T09:00:00.001Z"];

const quoted = (words: readonly string[]) => words.map((word) => JSON.stringify(word));
const listOf = (words: readonly string[]) =>
  fc.subarray([...words], { minLength: 1, maxLength: 3 }).map((items) => `[${quoted(items).join(", ")}]`);
const operand = fc.constantFrom("p", "lower(p)");
const text = fc.constantFrom(...quoted(texts));

const test: fc.Arbitrary<string> = fc.oneof(
  fc
    .tuple(fc.constantFrom("n", "p"), fc.constantFrom("<", "<=", ">", ">=", "==", "!="), fc.constantFrom(...numbers))
    .map(([a, o, n]) => `${a} ${o} ${Object.is(n, -0) ? "-0" : n}`),
  fc.tuple(operand, fc.constantFrom("==", "!="), text).map((parts) => parts.join(" ")),
  fc.tuple(operand, fc.constantFrom("in", "not in"), listOf(texts)).map((parts) => parts.join(" ")),
  fc.tuple(operand, fc.constantFrom("starts with", "ends with", "contains"), text).map((parts) => parts.join(" ")),
  fc.constantFrom(
    "p matches /^ab/",
    "p matches /^AB/i",
    "p matches /c$/",
    "lower(p) matches /^ab/",
    "p is missing",
    "p is present",
    "y",
    "n is missing",
  ),
  fc
    .tuple(fc.constant("v"), fc.constantFrom("<", "<=", ">", ">=", "==", "!="), fc.constantFrom(...versions))
    .map((parts) => parts.join(" ")),
  fc
    .tuple(fc.constantFrom("t", "p"), fc.constantFrom("<", "<=", ">", ">=", "==", "!="), fc.constantFrom(...times))
    .map((parts) => parts.join(" ")),
  fc.tuple(fc.constant("l"), fc.constantFrom("overlaps", "covers"), listOf(texts)).map((parts) => parts.join(" ")),
  fc.tuple(fc.constant("l"), fc.constant("contains"), text).map((parts) => parts.join(" ")),
);

const condition: fc.Arbitrary<string> = fc.letrec<{ all: string }>((tie) => ({
  all: fc.oneof(
    { maxDepth: 2 },
    { weight: 3, arbitrary: test },
    {
      weight: 2,
      arbitrary: fc.tuple(tie("all"), fc.constantFrom("and", "or"), tie("all")).map(([a, o, b]) => `(${a} ${o} ${b})`),
    },
    { weight: 1, arbitrary: tie("all").map((a) => `not (${a})`) },
  ),
})).all;

/** What anybody might hold: every value that stands in a test, its neighbours, and other types. */
const values: readonly unknown[] = [
  undefined,
  null,
  ...numbers.flatMap((n) => [n, n - 1, n + 1, n * (1 + Number.EPSILON)]),
  ...texts,
  "abC",
  "xabc",
  "v4.2.1",
  "4.2.0-rc.2",
  "2026-12-01T09:00:00Z",
  new Date("2026-12-01T09:00Z"),
  1764579600000,
  true,
  false,
  texts.slice(0, 3),
  ["abc"],
  [],
];

const people = fc.record({
  n: fc.constantFrom(...values),
  p: fc.constantFrom(...values),
  v: fc.constantFrom(...versions, "4.2.1", undefined, 4),
  t: fc.constantFrom(...values),
  l: fc.constantFrom(...values),
  y: fc.constantFrom(true, false, undefined, "x"),
});

const set = (when: string, other = "y") =>
  defined({
    flags: {
      a: { safe: false, rules: [{ when, give: true }] },
      b: { safe: false, rules: [{ when: other, give: true }] },
    },
  });

function asked(definitions: Definitions, flag: string) {
  const flags = new FlagSet(definitions);
  return (person: object) => flags.value(flag, person) as boolean;
}

function codesOf(definitions: Definitions): ReadonlySet<string> {
  return new Set(checkDefinitions(definitions, { at: 0 }).map(({ code }) => code));
}

describe("what is proved", () => {
  it("is contradicted by nobody: never true, always true, tests that contradict each other", () => {
    let proved = 0;
    fc.assert(
      fc.property(condition, fc.array(people, { minLength: 120, maxLength: 120 }), (when, crowd) => {
        const definitions = set(when);
        const codes = codesOf(definitions);
        const holds = asked(definitions, "a");
        if (codes.has("never-true")) {
          proved++;
          for (const person of crowd) expect([when, person, holds(person)]).toEqual([when, person, false]);
        }
        if (codes.has("always-true")) {
          proved++;
          for (const person of crowd) expect([when, person, holds(person)]).toEqual([when, person, true]);
        }
      }),
      { numRuns: runs(800) },
    );
    // About thirty are, whatever the seed; none would mean that nothing was tried.
    expect(proved).toBeGreaterThan(runs(800) / 200 - 1);
  });

  it("is contradicted by nobody: widened, narrowed, the same", () => {
    let proved = 0;
    fc.assert(
      fc.property(condition, condition, fc.array(people, { minLength: 120, maxLength: 120 }), (old, now, crowd) => {
        const [before, after] = [set(old), set(now)];
        const relation = new Proofs(before, after).relation(old, now);
        if (relation === undefined) return;
        proved++;
        const [was, is] = [asked(before, "a"), asked(after, "a")];
        for (const person of crowd) {
          const lost = was(person) && !is(person);
          const won = !was(person) && is(person);
          expect([old, now, relation, person, relation !== "narrower" && lost]).toEqual([
            old,
            now,
            relation,
            person,
            false,
          ]);
          expect([old, now, relation, person, relation !== "wider" && won]).toEqual([
            old,
            now,
            relation,
            person,
            false,
          ]);
        }
      }),
      { numRuns: runs(800) },
    );
    // About thirty are, whatever the seed; none would mean that nothing was tried.
    expect(proved).toBeGreaterThan(runs(800) / 200 - 1);
  });

  it.each<[string, string, string]>([
    ['p in ["abc","ABC"]', 'lower(p) == "abc"', "wider"],
    ["n > 5", "n >= 5", "wider"],
    ['p == "abc"', 'lower(p) == "abc"', "wider"],
  ])("%s → %s is %s", (old, now, relation) => {
    expect(new Proofs(set(old), set(now)).relation(old, now)).toBe(relation);
  });

  it.each([
    'lower(p) == "abc" and p not in ["abc", "ABC"]',
    `n > ${big} and n < ${big + 4}`,
    "t == 2026-12-01T09:00Z and t == 2026-12-01T10:00+01:00",
    'p != "2026-12-01T09:00Z" and p == 2026-12-01T09:00Z',
  ])("somebody can match, so nothing is said: %s", (when) => {
    const codes = codesOf(set(when));
    expect([codes.has("never-true"), codes.has("tests-contradict")]).toEqual([false, false]);
  });
});
