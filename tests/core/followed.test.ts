import { createHash } from "node:crypto";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { compareSets } from "../../src/insight/index.ts";
import { type Definitions, revisionInSteps } from "../../src/model/index.ts";
import { FollowedMemory, readInSteps } from "../../src/reading/index.ts";
import type { Document } from "../../src/source/index.ts";
import { runs } from "../support/runs.ts";

function ended<T>(work: Generator<undefined, T, undefined>): T {
  for (;;) {
    const { done, value } = work.next();
    if (done) return value;
  }
}

const sha256 = (text: string) => createHash("sha256").update(text).digest("hex");

const names = ["berth", "deck", "fares", "holds"];
const value = fc.oneof(fc.constantFrom(0, 1, "off", null, true), fc.record({ a: fc.boolean(), b: fc.boolean() }));
const rule = fc.oneof(
  fc.record({ give: value }),
  fc.record({ when: fc.constantFrom("trips > 3", "flag:deck", "cohort:crew", "trips >"), give: value }),
  fc.record({ share: fc.constantFrom("10%", "50%"), give: value }),
);
const flag = fc.record({ safe: value, rules: fc.array(rule, { maxLength: 2 }) }, { requiredKeys: ["safe"] });
const file = fc.record({
  by: fc.option(fc.constantFrom("id", "account.id")),
  crew: fc.boolean(),
  flags: fc.uniqueArray(fc.tuple(fc.constantFrom(...names), flag), { selector: ([name]) => name, maxLength: 4 }),
  spelt: fc.boolean(),
});
/** One step: some of the files are written anew, and some are the very same documents. */
const steps = fc.array(fc.dictionary(fc.constantFrom("a.yaml", "b.yaml"), file, { minKeys: 1 }), {
  minLength: 2,
  maxLength: 6,
});

const written = (...flags: [string, { safe: unknown }][]) => ({ by: null, crew: false, flags, spelt: false });
const onDeck = { safe: 0, rules: [{ when: "flag:deck", give: true }] };
/** A flag that cannot be read is there as long as a file names it. */
const nameOfUnread = [
  { "a.yaml": written(["berth", onDeck]), "b.yaml": written(["deck", { safe: null }]) },
  { "b.yaml": written() },
] as never;

function documentOf(name: string, { by, crew, flags, spelt }: typeof file extends fc.Arbitrary<infer F> ? F : never) {
  return {
    file: name,
    data: {
      iudex: 1,
      ...(by ? { defaults: { by } } : {}),
      ...(crew && name === "a.yaml" ? { cohorts: { crew: { when: "trips > 9" } } } : {}),
      flags: Object.fromEntries(flags),
    },
    spellings: new Map(spelt ? flags.map(([flag]) => [`/flags/${flag}/safe`, "off"]) : []),
    unchanging: true,
  } satisfies Document;
}

const told = (set: Definitions | undefined) =>
  set && [...set.flags].map(([name, { place, type }]) => [name, place, type]);

describe("what a followed folder hands on", () => {
  it("changes nothing of what is read, compared and worked out", () => {
    fc.assert(
      fc.property(steps, (all) => {
        const memory = new FollowedMemory();
        const documents = new Map<string, Document>();
        let [before, freshBefore]: (Definitions | undefined)[] = [];
        for (const step of all) {
          for (const [name, written] of Object.entries(step)) documents.set(name, documentOf(name, written));
          const now = [...documents.values()].sort((one, other) => (one.file < other.file ? -1 : 1));
          ended(memory.prepare(now));
          const followed = ended(readInSteps(now, { memory }));
          const fresh = ended(readInSteps(now));
          expect(followed.problems).toEqual(fresh.problems);
          expect(told(followed.definitions)).toEqual(told(fresh.definitions));
          if (!followed.definitions || !fresh.definitions) continue;
          const revision = ended(revisionInSteps(followed.definitions, memory.canonical, sha256));
          expect(revision).toBe(ended(revisionInSteps(fresh.definitions, new FollowedMemory().canonical, sha256)));
          if (before && freshBefore)
            expect(compareSets(before, followed.definitions)).toEqual(compareSets(freshBefore, fresh.definitions));
          [before, freshBefore] = [followed.definitions, fresh.definitions];
        }
      }),
      { numRuns: runs(1_500), examples: [[nameOfUnread]] },
    );
  });

  it("is every flag that is written as before: one changed flag of a file costs one block", () => {
    const memory = new FollowedMemory();
    const count = 5_000;
    const read = (changed: number) => {
      const flags = Array.from({ length: count }, (_, i) => [`flag-${i}`, { safe: i === 7 ? changed : i }]);
      const document = { file: "a.json", data: { iudex: 1, flags: Object.fromEntries(flags) }, unchanging: true };
      return ended(readInSteps([document], { memory })).definitions!;
    };
    const hashed: string[] = [];
    const settle = (set: Definitions) =>
      ended(revisionInSteps(set, memory.canonical, (text) => String(hashed.push(text))));
    const sets = [read(0), read(1)];
    for (const set of sets) {
      hashed.length = 0;
      settle(set);
    }
    expect(hashed).toHaveLength(2);
    const same = [...sets[1]!.flags].filter(([name, each]) => sets[0]!.flags.get(name) === each);
    expect(same).toHaveLength(count - 1);
    expect(compareSets(sets[0]!, sets[1]!).map(({ name }) => name)).toEqual(["flag-7"]);
  });
});
