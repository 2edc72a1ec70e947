import fc from "fast-check";
import { type Change, compareSets, EditSession, loadFolder, makeChange } from "iudex/tools";
import { type Node as JsonNode, parseTree } from "jsonc-parser";
import { expect, it } from "vitest";
import { isMap, isScalar, isSeq, type Node, parse, parseDocument, stringify } from "yaml";
import { folderWith, put } from "../support/folders.ts";
import { layouts } from "../support/layouts.ts";

// Changes are worked out on random files, and held against a second account of them, on plain data.

// biome-ignore lint/suspicious/noExplicitAny: files are looked at member by member.
type Data = Record<string, any>;

const ruleNames = ["first", "second", "third", "fourth"];

const anyRule = (name: string) =>
  fc.record(
    {
      name: fc.constant(name),
      when: fc.constantFrom("trips > 3", 'plan == "foot"', "cohort:crew", "not cohort:testers and trips >= 10"),
      share: fc.constantFrom("5%", "20% to 45%"),
      give: fc.integer({ min: 1, max: 9 }),
    },
    { requiredKeys: ["name", "give"] },
  );

const anyFlag = fc
  .record(
    {
      about: fc.constantFrom("What it is for", 'with: "signs" # in it', "-"),
      safe: fc.constant(0),
      by: fc.constant("account.id"),
      rules: fc.integer({ min: 1, max: 4 }).chain((n) => fc.tuple(...ruleNames.slice(0, n).map(anyRule))),
      otherwise: fc.integer({ min: 10, max: 19 }),
      environments: fc.constantFrom(
        { staging: { otherwise: 7 } },
        { staging: { adjust: { first: { give: 8 } } }, production: { otherwise: 6 } },
      ),
      "for-instance": fc.constantFrom([]),
    },
    { requiredKeys: ["safe", "by", "rules"] },
  )
  .map((flag) => flag as Data);

const anySet = fc.record({
  iudex: fc.constant(1),
  environments: fc.constant({ staging: { about: "a try" }, production: {} }),
  attributes: fc.constant({ trips: "number", plan: ["foot", "vehicle"], "account.id": "text" }),
  cohorts: fc.record({
    crew: fc.record({ about: fc.constant("Ours"), when: fc.constantFrom("trips > 1", 'plan == "vehicle"') }),
    testers: fc.record({
      of: fc.constant("account.id"),
      ids: fc.uniqueArray(fc.constantFrom("A-1", "A-2", "B 3", "C,4", "007"), { minLength: 1 }),
    }),
  }),
  flags: fc.record({ one: anyFlag, two: anyFlag, three: anyFlag }),
}) as fc.Arbitrary<Data>;

/** A change, and what it makes of the data; undefined for one that does not fit these. */
interface Asked {
  readonly change: Change;
  readonly path: readonly (string | number)[];
  expected(data: Data): unknown;
}

/** Every change of some kind that fits a set. */
function changesOf(data: Data): Asked[] {
  return [...Object.keys(data["flags"]).flatMap((name) => ofFlag(name, data["flags"][name])), ...ofCohorts(data)];
}

function ofFlag(name: string, flag: Data): Asked[] {
  const { rules } = flag as { rules: Data[] };
  const change = (given: object, expected: (flag: Data) => unknown, ...path: (string | number)[]): Asked => ({
    change: { change: "flag", flag: name, ...given },
    path: ["flags", name, ...path],
    expected: (after) => expected(after["flags"][name]),
  });
  const adjusted = Object.keys(settingsOf(copy(flag), "staging")["adjust"] ?? {});
  return [
    change({ otherwise: "27" }, (after) => Object.assign(after, { otherwise: 27 }), "otherwise"),
    ...["harbour office", "a: b", "#5"].map((owner) =>
      change({ owner }, (after) => Object.assign(after, { owner }), "owner"),
    ),
    change({ reviewBy: "2027-05-01" }, (after) => Object.assign(after, { "review-by": "2027-05-01" }), "review-by"),
    change(
      { environment: "production", otherwise: "5" },
      (after) => Object.assign(settingsOf(after, "production"), { otherwise: 5 }),
      "environments",
    ),
    ...rules.flatMap((rule, i) => [
      ...["33.3%", "10% to 20%"].map((share) =>
        change(
          { rule: rule["name"], share },
          (after) => Object.assign(after["rules"][i], { share }),
          "rules",
          i,
          "share",
        ),
      ),
      change(
        { rule: rule["name"], when: 'plan in ["foot"]' },
        (after) => Object.assign(after["rules"][i], { when: 'plan in ["foot"]' }),
        "rules",
        i,
        "when",
      ),
      change(
        { rule: rule["name"], give: "42" },
        (after) => Object.assign(after["rules"][i], { give: 42 }),
        "rules",
        i,
        "give",
      ),
      ...(rule["when"] === undefined
        ? []
        : [
            change(
              { rule: rule["name"], when: "everyone" },
              (after) => delete after["rules"][i].when,
              "rules",
              i,
              "when",
            ),
          ]),
      ...rules.flatMap((_, to) =>
        to === i
          ? []
          : [
              change(
                { rule: rule["name"], place: to + 1 },
                (after) => after["rules"].splice(to, 0, ...after["rules"].splice(i, 1)),
                "rules",
              ),
            ],
      ),
      // An environment that adjusts a rule needs it.
      ...(adjusted.includes(rule["name"])
        ? []
        : [change({ rule: rule["name"], remove: true }, (after) => after["rules"].splice(i, 1), "rules", i)]),
      change(
        { newRule: "a new one", when: "trips > 500", share: "1%", give: "41", place: i + 1 },
        (after) => after["rules"].splice(i, 0, { name: "a new one", when: "trips > 500", share: "1%", give: 41 }),
        "rules",
      ),
      change(
        { environment: "staging", rule: rule["name"], share: "66%" },
        (after) => {
          const { adjust = {} } = settingsOf(after, "staging");
          settingsOf(after, "staging")["adjust"] = {
            ...adjust,
            [rule["name"]]: { ...adjust[rule["name"]], share: "66%" },
          };
        },
        "environments",
      ),
    ]),
    {
      change: { change: "example", flag: name, as: { trips: 0 }, environment: "production", gives: "3" },
      path: ["flags", name, "for-instance"],
      expected: (after) => {
        const { "for-instance": examples = [] } = after["flags"][name];
        after["flags"][name]["for-instance"] = [...examples, { as: { trips: 0 }, in: "production", gives: 3 }];
      },
    },
  ];
}

function ofCohorts(data: Data): Asked[] {
  const ids = (add: readonly string[], drop: readonly string[]): Asked[] => {
    const held = data["cohorts"].testers.ids as string[];
    const kept = held.filter((id) => !drop.includes(id));
    const wanted = [...kept, ...add.filter((id) => !kept.includes(id))];
    if (JSON.stringify(wanted) === JSON.stringify(held)) return [];
    return [
      {
        change: { change: "ids", cohort: "testers", add, drop },
        path: ["cohorts", "testers", "ids"],
        expected: (after) => Object.assign(after["cohorts"].testers, { ids: wanted }),
      },
    ];
  };
  return [
    ...ids(["N-1", "N,2"], []),
    ...ids([], ["A-1", "007"]),
    ...ids(["12", "A-1"], ["C,4", "B 3", "A-2"]),
    {
      change: { change: "new-flag", flag: "nine", safe: "false", about: "New", owner: "us" },
      path: ["flags", "nine"],
      expected: (after) => Object.assign(after["flags"], { nine: { about: "New", owner: "us", safe: false } }),
    },
    {
      change: { change: "cohort", cohort: "crew", when: 'plan == "foot" or trips > 2' },
      path: ["cohorts", "crew", "when"],
      expected: (after) => Object.assign(after["cohorts"].crew, { when: 'plan == "foot" or trips > 2' }),
    },
    {
      change: { change: "cohort", cohort: "fresh", isNew: true, share: "20%", by: "account.id" },
      path: ["cohorts", "fresh"],
      expected: (after) => Object.assign(after["cohorts"], { fresh: { share: "20%", by: "account.id" } }),
    },
  ];
}

/** Without what is shared, which YAML would write as an alias. */
function copy(data: Data): Data {
  return JSON.parse(JSON.stringify(data)) as Data;
}

function settingsOf(flag: Data, environment: string): Data {
  flag["environments"] ??= {};
  flag["environments"][environment] ??= {};
  return flag["environments"][environment];
}

const written = [
  ...layouts.map(([name, layOut]) => ({
    name,
    file: "all.yaml",
    write: (data: Data) => layOut(stringify(data, { lineWidth: 0 })),
  })),
  { name: "JSON", file: "all.json", write: (data: Data) => `${JSON.stringify(data, undefined, 2)}\n` },
  { name: "JSON on one line", file: "all.json", write: (data: Data) => JSON.stringify(data) },
  { name: "JSON by tabs", file: "all.json", write: (data: Data) => JSON.stringify(data, undefined, "\t") },
];

it("comes to what was asked, and leaves every byte that it has nothing to do with, in files of every layout", async () => {
  const folder = await folderWith({});
  const cases = fc.record({ data: anySet.map(copy), pick: fc.nat(), layout: fc.constantFrom(...written) });
  await fc.assert(
    fc.asyncProperty(cases, async ({ data, pick, layout: { file, write } }) => {
      const all = changesOf(data);
      const asked = all[pick % all.length]!;
      const before = write(data);
      await put(folder, file, before);
      await put(
        folder,
        file === "all.yaml" ? "all.json" : "all.yaml",
        file === "all.yaml" ? '{ "iudex": 1 }' : "iudex: 1\n",
      );
      const loaded = await loadFolder(folder);
      expect(loaded.problems.filter(({ severity }) => severity === "error")).toEqual([]);
      const work = EditSession.of(loaded);
      const changed = await work.with(
        await makeChange(
          {
            ...asked.change,
            ...(asked.change.change === "new-flag" || asked.change.change === "cohort" ? { file } : {}),
          } as Change,
          work,
        ),
      );
      const after = changed.texts.get(file)!;
      const expected = copy(data);
      asked.expected(expected);
      expect(parse(after)).toEqual(expected);
      expect(changed.loaded.definitions).toBeDefined();
      const parts = compareSets(loaded.definitions!, changed.loaded.definitions!);
      expect(parts.map(({ name }) => name)).toEqual(parts.length === 0 ? [] : [asked.path[1]]);
      if (!takesAway(asked.change)) expect(replacedIn(before, after)).not.toContain("#");
      for (const path of besides(asked.path, data))
        expect([path, sliceOf(file, after, path)]).toEqual([path, sliceOf(file, before, path)]);
    }),
    { numRuns: Number(process.env["IUDEX_RUNS"] ?? 100), endOnFailure: true },
  );
});

/** A line that goes takes its comment along. */
function takesAway(change: Change): boolean {
  if (change.change === "ids") return true;
  return (
    change.change === "flag" && (change.remove === true || change.place !== undefined || change.when === "everyone")
  );
}

/** The text that is not there any more, from the first character that differs to the last. */
function replacedIn(before: string, after: string): string {
  let start = 0;
  while (start < before.length && before[start] === after[start]) start++;
  let end = 0;
  const most = Math.min(before.length, after.length) - start;
  while (end < most && before.at(-1 - end) === after.at(-1 - end)) end++;
  return before.slice(start, before.length - end);
}

/** The paths of everything beside the way to what is changed. */
function besides(path: readonly (string | number)[], data: Data): (string | number)[][] {
  const found: (string | number)[][] = [];
  let here: Data = data;
  for (const [i, step] of path.entries()) {
    if (typeof here !== "object" || here === null || Array.isArray(here)) break;
    for (const key of Object.keys(here)) if (key !== String(step)) found.push([...path.slice(0, i), key]);
    here = here[step];
  }
  return found;
}

/** The text of a value, as its writer left it, with its key. */
function sliceOf(file: string, text: string, path: readonly (string | number)[]): string | undefined {
  if (file.endsWith(".json")) return jsonSlice(parseTree(text), text, path);
  let node: Node | null | undefined = parseDocument(text).contents as Node;
  let start = 0;
  for (const step of path) {
    if (isMap(node)) {
      const pair = node.items.find(({ key }) => isScalar(key) && String(key.value) === String(step));
      if (!pair) return undefined;
      start = (pair.key as Node).range![0];
      node = pair.value as Node;
    } else if (isSeq(node)) {
      node = node.items[Number(step)] as Node;
      start = node.range![0];
    }
  }
  return text.slice(start, node?.range?.[1]).trimEnd();
}

function jsonSlice(root: JsonNode | undefined, text: string, path: readonly (string | number)[]): string | undefined {
  let node = root;
  for (const step of path) {
    node =
      node?.type === "object"
        ? node.children?.find(({ children }) => children?.[0]?.value === step)?.children?.[1]
        : node?.children?.[Number(step)];
  }
  return node && text.slice(node.offset, node.offset + node.length);
}
