import fc from "fast-check";
import { type Definitions, readDefinitions } from "../../src/core.ts";
import { anyTree, type Names, write } from "./generated.ts";
import type { OracleAdjustment, OracleFlag, OracleRule, OracleSet } from "./oracle.ts";

export const environments = ["staging", "production"];
export const none: Names = { cohorts: [], windows: [], flags: [], environments: [] };
const instants = [0, Date.parse("2026-12-01T09:00Z"), Date.parse("2026-12-04T09:00Z"), Date.parse("2027-01-01T00:00Z")];
export const instant = fc.constantFrom(...instants.flatMap((t) => [t - 1, t, t + 1]));

const anyShare = fc.constantFrom<readonly [number, number]>(
  [0, 0],
  [0, 0.5],
  [0, 10],
  [0, 50],
  [0, 99.9],
  [0, 100],
  [10, 33.3],
  [50, 100],
);

const anySplit = (variants: readonly string[]) =>
  fc
    .shuffledSubarray([...variants], { minLength: 1 })
    .map((v) => v.map((variant, i) => ({ variant, parts: [1, 0, 1.5][i]! })));

/** Adjusts rules by their names, each of which must be that of one rule. */
const anyAdjust = (
  rules: readonly OracleRule[],
  values: fc.Arbitrary<unknown>,
  variants: readonly string[] | undefined,
) => {
  const names = rules.flatMap(({ name }) => (name && rules.filter((r) => r.name === name).length === 1 ? [name] : []));
  const change = fc.oneof(
    fc.record({ share: fc.oneof(anyShare, fc.constant("none" as const)) }),
    fc.record({ give: values }),
    fc.record({ share: anyShare, give: values }),
    ...(variants ? [fc.record({ split: anySplit(variants) })] : []),
  );
  return names.length === 0 ? fc.constant({}) : fc.dictionary(fc.constantFrom(...names), change, { maxKeys: 3 });
};

const anyRule = (
  names: Names,
  values: fc.Arbitrary<unknown>,
  variants: readonly string[] | undefined,
): fc.Arbitrary<OracleRule> => {
  const percent = fc.constantFrom(0, 0.5, 10, 33.3, 50, 99.9, 100);
  const share = anyShare;
  const rising = fc.uniqueArray(instant, { minLength: 1, maxLength: 3 }).chain((at) =>
    fc.array(percent, { minLength: at.length, maxLength: at.length }).map((percents) => {
      const [froms, sorted] = [[...at].sort((a, b) => a - b), [...percents].sort((a, b) => a - b)];
      return froms.map((from, i) => ({ from, percent: sorted[i]! }));
    }),
  );
  const split = variants && anySplit(variants);
  return fc
    .record(
      {
        when: anyTree(names, 2),
        division: fc.oneof(
          share.map((s) => ({ share: s })),
          rising.map((r) => ({ rising: r })),
        ),
        name: fc.constantFrom("r1", "r2", "r3", "r4", "r5"),
        salt: fc.constantFrom("one", "two"),
        split: split ?? fc.constant(undefined),
        give: values,
      },
      { requiredKeys: ["give"] },
    )
    .map(({ division, split: parts, give, ...rest }) => ({
      ...rest,
      ...division,
      ...(parts ? { split: parts } : { give }),
    }));
};

const anyFlag = (names: Names): fc.Arbitrary<OracleFlag> =>
  fc.constantFrom(undefined, { a: 1, b: 2, c: 3 }).chain((variants) => {
    const values: fc.Arbitrary<unknown> = variants ? fc.constantFrom(...Object.keys(variants)) : fc.boolean();
    const rules = fc.array(anyRule(names, values, variants && Object.keys(variants)), { maxLength: 4 });
    const own = fc.record({ provided: anyTree(names, 1), rules, otherwise: values }, { requiredKeys: [] });
    return rules.chain((theirs) => {
      const adjust = anyAdjust(theirs, values, variants && Object.keys(variants));
      const adjusting = fc.record({ provided: anyTree(names, 1), adjust, otherwise: values }, { requiredKeys: [] });
      const branch = fc.oneof(own, adjusting);
      return fc
        .record(
          {
            safe: values,
            rules: fc.constant(theirs),
            by: fc.constantFrom(["plan"], ["trips"], ["deep", "er", "one"]),
            suspended: fc.integer({ max: 9, min: 0 }).map((n) => n === 0),
            environments: fc.dictionary(fc.constantFrom(...environments), branch, { maxKeys: 1 }),
            provided: anyTree(names, 1),
            otherwise: values,
          },
          { requiredKeys: ["safe", "rules", "by", "suspended", "environments"] },
        )
        .map((flag) => ({ ...flag, ...(variants ? { variants } : {}) }));
    });
  });

/** Sets of two flags, a few cohorts and a window, in every way that the format knows. */
export const anySet: fc.Arbitrary<OracleSet> = fc
  .record({
    crew: anyTree({ ...none, environments }, 1),
    ids: fc.array(fc.constantFrom("foot", "100", "ø", "-1"), { maxLength: 4 }),
    lot: anyShare,
    salt: fc.constantFrom({}, { salt: "one" }),
    from: fc.option(instant, { nil: undefined }),
    until: fc.option(fc.constant(instants.at(-1)! + 5), { nil: undefined }),
  })
  .chain(({ crew, ids, lot, salt, from = 0, until }) => {
    const cohorts = {
      crew: { when: crew },
      listed: { of: ["plan"], ids },
      drawn: { by: ["trips"], share: lot, ...salt },
    };
    const windows = { season: { from, ...(until === undefined ? {} : { until }) } };
    const names = { cohorts: Object.keys(cohorts), windows: Object.keys(windows), flags: [] as string[], environments };
    return anyFlag(names).chain((first) => {
      const flags = first.variants ? [] : ["first"];
      return anyFlag({ ...names, flags }).map((second) => ({ cohorts, windows, flags: { first, second } }));
    });
  });

const shareText = (share: readonly [number, number] | "none") =>
  share === "none" ? share : share[0] === 0 ? `${share[1]}%` : `${share[0]}% to ${share[1]}%`;

/** The set as a definition file holds it. */
export function definitionsOf(set: OracleSet): object {
  const rule = ({ when, share, rising, split, ...rest }: OracleRule) => ({
    ...(when ? { when: write(when) } : {}),
    ...(share === undefined ? {} : { share: shareText(share) }),
    ...(rising
      ? { share: { rising: rising.map(({ percent, from }) => `${percent}% from ${new Date(from).toISOString()}`) } }
      : {}),
    ...(split ? { split: split.map(({ parts, variant }) => `${parts} ${variant}`) } : {}),
    ...rest,
  });
  const adjustment = ({ share, split, ...rest }: OracleAdjustment) => ({
    ...(share === undefined ? {} : { share: shareText(share) }),
    ...(split ? { split: split.map(({ parts, variant }) => `${parts} ${variant}`) } : {}),
    ...rest,
  });
  const path = (p: readonly string[]) => p.join(".");
  const flag = ({ suspended, by, provided, rules, environments: branches, ...rest }: OracleFlag) => ({
    ...rest,
    by: path(by),
    rules: rules.map(rule),
    ...(provided ? { provided: write(provided) } : {}),
    environments: Object.fromEntries(
      Object.entries(branches).map(([name, b]) => [
        name,
        {
          ...b,
          ...(b.provided ? { provided: write(b.provided) } : {}),
          ...(b.rules ? { rules: b.rules.map(rule) } : {}),
          ...(b.adjust
            ? { adjust: Object.fromEntries(Object.entries(b.adjust).map(([n, a]) => [n, adjustment(a)])) }
            : {}),
        },
      ]),
    ),
  });
  const time = (t: number | undefined) => (t === undefined ? undefined : new Date(t).toISOString());
  return {
    iudex: 1,
    environments: { staging: {}, production: {} },
    cohorts: Object.fromEntries(
      Object.entries(set.cohorts).map(([name, c]) => [
        name,
        "when" in c
          ? { when: write(c.when) }
          : "share" in c
            ? { ...c, by: path(c.by), share: shareText(c.share) }
            : { of: path(c.of), ids: c.ids },
      ]),
    ),
    windows: Object.fromEntries(
      Object.entries(set.windows).map(([name, w]) => [
        name,
        { from: time(w.from), ...(w.until === undefined ? {} : { until: time(w.until) }) },
      ]),
    ),
    flags: Object.fromEntries(Object.entries(set.flags).map(([name, f]) => [name, flag(f)])),
  };
}

/** The set as the library reads it. */
export function read(set: OracleSet): Definitions {
  const suspended = Object.entries(set.flags).filter(([, { suspended: s }]) => s);
  const { definitions, problems } = readDefinitions(
    [{ file: "generated.json", data: JSON.parse(JSON.stringify(definitionsOf(set))) }],
    {
      suspended: {
        file: "suspended.json",
        data: { iudex: 1, suspended: Object.fromEntries(suspended.map(([name]) => [name, {}])) },
      },
    },
  );
  if (!definitions) throw new Error(problems.map((p) => `${p.code} ${p.message} ${p.found}`).join("\n"));
  return definitions;
}
