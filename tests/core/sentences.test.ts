// Sentences are true: a reader that knows nothing but the words says of each person what the library gives.
import fc from "fast-check";
import { expect, it } from "vitest";
import { describeFlag, FlagSet } from "../../src/core.ts";
import { describeCohort } from "../../src/insight/index.ts";
import { anyContext } from "../support/generated.ts";
import { type Asking, answer, type OracleAdjustment, type OracleFlag, type OracleSet } from "../support/oracle.ts";
import { anySet, environments, instant, read } from "../support/random-sets.ts";
import { readerOf } from "../support/sentence-reader.ts";

/** The attributes of random sets, as sentences name them. */
const paths = new Map<string, readonly string[]>([
  ...["plan", "trips", "crew", "tags", "since", "constructor"].map((name) => [name, [name]] as const),
  ["app.version", ["app", "version"]],
  ["deep.er.one", ["deep", "er", "one"]],
  ['["in"]', ["in"]],
  ['["2fa"]', ["2fa"]],
]);

/** Texts that read like words of a sentence. */
const texts = new Map<unknown, string>([
  [true, "a, everybody else get b; otherwise c"],
  [false, "plain"],
]);

/** One lot for each person and flag, values that could be misread, and windows that have always been open. */
function told(set: OracleSet, isOpenBefore: boolean): OracleSet {
  const { first, second } = set.flags as { first: OracleFlag; second: OracleFlag };
  const { season } = set.windows as { season: { from?: number; until?: number } };
  const { from: _, ...open } = season;
  return {
    ...set,
    windows: { season: isOpenBefore && season.until !== undefined ? open : season },
    flags: { first: unsalted(first, (value) => value), second: unsalted(second, (value) => texts.get(value) ?? value) },
  };
}

function unsalted(flag: OracleFlag, as: (value: unknown) => unknown): OracleFlag {
  const given = <T extends OracleAdjustment>({ give, ...rest }: T) =>
    give === undefined ? rest : { ...rest, give: as(give) };
  const withValues = <T extends Partial<OracleFlag>>({ rules, otherwise, ...rest }: T) => ({
    ...rest,
    ...(otherwise === undefined ? {} : { otherwise: as(otherwise) }),
    ...(rules === undefined ? {} : { rules: rules.map(({ salt: _, ...rule }) => given(rule)) }),
  });
  const environments = Object.entries(flag.environments).map(([name, { adjust, ...here }]) => [
    name,
    {
      ...withValues(here),
      ...(adjust && { adjust: Object.fromEntries(Object.entries(adjust).map(([rule, by]) => [rule, given(by)])) }),
    },
  ]);
  return { ...withValues(flag), safe: as(flag.safe), environments: Object.fromEntries(environments) } as OracleFlag;
}

it("says of 200,000 people, at any instant, what they get", () => {
  let comparisons = 0;
  const hold = (sentence: string, said: unknown, given: unknown) => {
    comparisons++;
    if (said !== given) expect([sentence, said]).toEqual([sentence, given]);
  };
  const askings = fc.array(fc.tuple(anyContext, instant), { minLength: 100, maxLength: 100 });
  fc.assert(
    fc.property(anySet, fc.boolean(), instant, askings, (random, isOpenBefore, at, asked) => {
      const set = told(random, isOpenBefore);
      const definitions = read(set);
      const reader = readerOf(set, paths);
      for (const environment of environments) {
        const flags = new FlagSet(definitions, environment);
        for (const [context, then] of asked) {
          // Steps of a share that are over are not told.
          const asking: Asking = { set, context, at: Math.max(at, then), environment };
          for (const name of Object.keys(set.flags)) {
            const sentence = describeFlag(definitions, name, environment, at)!;
            hold(sentence, reader.gets(sentence, name, asking), flags.value(name, context, { at: asking.at }));
          }
          for (const [name, cohort] of Object.entries(set.cohorts)) {
            if (!("when" in cohort)) continue;
            const sentence = describeCohort(definitions.cohorts.get(name)!, definitions);
            hold(sentence, reader.isMeant(sentence, asking), answer(cohort.when, asking) === true);
          }
        }
      }
    }),
    { numRuns: 400 },
  );
  expect(comparisons).toBe(400 * 2 * 100 * 3);
});
