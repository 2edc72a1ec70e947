import { readFileSync } from "node:fs";
import { join } from "node:path";
import { peopleNeeded } from "iudex/tools";
import { expect, test } from "vitest";
import { projectRoot } from "../support/folders.ts";
import { groupsOf, noon, rate, shared, split, weighRows, weighSums } from "../support/weighing.ts";

/** Made by weighing.R beside it. */
const byR: Readonly<Record<string, readonly number[]>> = JSON.parse(
  readFileSync(join(projectRoot, "tests/fixtures/weighing.json"), "utf8"),
);

function expectNear(found: readonly (number | undefined)[], wanted: readonly number[]): void {
  for (const [i, each] of wanted.entries()) expect(found[i]).toBeCloseTo(each, 10);
}

function figuresOf({ absolute, alwaysValid }: { absolute: object | null; alwaysValid: object | null }): number[] {
  const { figure, low, high } = absolute as { figure: number; low: number; high: number };
  const any = alwaysValid as { low: number; high: number } | null;
  return any ? [figure, low, high, any.low, any.high] : [figure, low, high];
}

test("a rate is R's: the difference, both intervals, Wilson's of each group", async () => {
  const { measures } = await weighRows(groupsOf({ old: rate(100, 1000), new: rate(130, 1000) }));
  expectNear(figuresOf(measures[0]!.differences[0]!), byR["rate"]!);
  expectNear(
    measures[0]!.groups.flatMap(({ low, high }) => [low, high]),
    byR["wilson"]!,
  );
  // R's test pools and gives 0.0354; this one agrees with its interval.
  expect(measures[0]!.differences[0]!.probability).toBeCloseTo(0.03529, 5);
});

test("Fieller's set holds 0 where the difference does, and is not said of almost nothing", async () => {
  const { measures } = await weighRows(groupsOf({ old: rate(1000, 10_000), new: rate(1300, 10_000) }));
  const { relative } = measures[0]!.differences[0]!;
  expectNear(figuresOf(measures[0]!.differences[0]!), byR["rate large"]!);
  expectNear([relative!.low, relative!.high, relative!.alwaysValid!.low, relative!.alwaysValid!.high], byR["fieller"]!);
  const scarce = await weighRows(groupsOf({ old: rate(2, 200), new: rate(30, 200) }));
  expect(scarce.measures[0]!.differences[0]!.relative).toBeNull();
});

test("a family of three is corrected in both intervals", async () => {
  const people = groupsOf({ old: rate(1000, 10_000), new: rate(1300, 10_000) });
  const { measures } = await weighRows(people, { measures: ["it", "that", "neither"] });
  expectNear(figuresOf(measures[0]!.differences[0]!), byR["rate large of three"]!);
});

const y0 = Array.from({ length: 200 }, (_, i) => (i + 1) % 17);
const y1 = Array.from({ length: 300 }, (_, i) => (((i + 1) * 7) % 19) + 1);
const x0 = Array.from({ length: 200 }, (_, i) => ((i + 1) % 3) + 1);
const x1 = Array.from({ length: 300 }, (_, i) => ((i + 1) % 4) + 1);

test("an amount is R's, and Student's in each group", async () => {
  const definitions = split("[2 old, 3 new]");
  const { measures } = await weighRows({ definitions, ...groupsOf({ old: y0, new: y1 }) });
  expectNear(figuresOf(measures[0]!.differences[0]!), byR["amount"]!);
  expectNear(
    measures[0]!.groups.flatMap(({ low, high }) => [low, high]),
    byR["student"]!,
  );
});

test("a ratio is R's, by the delta method of people", async () => {
  const { verdicts, outcomes } = groupsOf({ old: y0, new: y1 });
  const below = groupsOf({ old: x0, new: x1 }).outcomes.map((row) => ({ ...(row as object), measure: "times" }));
  const asked = { definitions: split("[2 old, 3 new]"), verdicts, outcomes: [...outcomes, ...below] };
  const { measures } = await weighRows(asked, { measures: ["it/times"] });
  expect(measures[0]!.kind).toBe("ratio");
  expectNear(figuresOf(measures[0]!.differences[0]!), byR["ratio"]!);
});

test("spans are compared inside themselves, and shown weighted alike", async () => {
  const definitions = shared("{ rising: [1% from 2026-11-01T00:00, 50% from 2026-11-03T00:00] }");
  const dayTwo = noon + 2 * 86_400_000;
  const first = groupsOf({ out: rate(990, 9900), in: rate(10, 100) }, noon, "a");
  const second = groupsOf({ out: rate(250, 5000), in: rate(250, 5000) }, dayTwo, "b");
  const told = [...first.verdicts, ...second.verdicts].map((row) => {
    const { variant, ...rest } = row as { variant: string };
    const outside = variant === "in" ? [] : [{ rule: 1, ruleName: "some" }];
    return {
      ...rest,
      value: variant === "in",
      ...(variant === "in" ? { ruleName: "some" } : { cause: "otherwise", rule: undefined, ruleName: undefined }),
      outside,
    };
  });
  const weighing = await weighRows({ definitions, verdicts: told, outcomes: [...first.outcomes, ...second.outcomes] });
  const [measure] = weighing.measures;
  expectNear(figuresOf(measure!.differences[0]!), byR["spans"]!);
  expectNear(
    measure!.groups.map(({ figure }) => figure),
    [0.051904578684, 0.051904578684],
  );
  expect(weighing.spans.map(({ people }) => people)).toEqual([
    [0, 0],
    [9900, 100],
    [5000, 5000],
  ]);
  expect(weighing.scales).toMatchObject({ ok: true, found: [14_900, 5100], expected: [14_900, 5100] });
});

test.each([
  ["scales halves", "[1 old, 1 new]", { old: 1000, new: 1200 }, false],
  ["scales far off", "[90 old, 5 new, 5 third]", { old: 990, new: 5, third: 5 }, false],
  ["scales sound", "[1 old, 1 new]", { old: 101_000, new: 100_000 }, true],
  ["scales thirds", "[1 old, 1 new, 1 third]", { old: 500, new: 500, third: 600 }, true],
])("%s are R's", async (name, parts, people, ok) => {
  const rows = Object.entries(people).map(([group, n]) => ({ group, people: n, mean: 0.5 }));
  const { scales, groups } = await weighSums(rows, { definitions: split(parts) });
  const wanted = byR[name]!;
  expect(scales.probability / wanted[0]!).toBeCloseTo(1, 8);
  expect(scales.alwaysValid / wanted[1]!).toBeCloseTo(1, 8);
  expect(scales.ok).toBe(ok);
  expect(groups.map((group) => group.people)).toEqual(Object.values(people));
});

test.each([
  ["plan halves", 0.04, 0.005, [0.5, 0.5]],
  ["plan a tenth", 0.04, 0.005, [0.9, 0.1]],
  ["plan often", 0.3, 0.03, [0.5, 0.5]],
] as const)("%s is R's", (name, p, tell, parts) => {
  const q = p + tell;
  const { oneLook, anyLook } = peopleNeeded({ parts, variances: [p * (1 - p), q * (1 - q)], tell });
  expect(oneLook / byR[name]![0]!).toBeCloseTo(1, 8);
  expect(anyLook / byR[name]![1]!).toBeCloseTo(1, 8);
});
