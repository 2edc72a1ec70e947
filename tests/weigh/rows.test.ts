import { appendFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { loadFolder, weigh } from "iudex/tools";
import { describe, expect, test } from "vitest";
import { binary, iudex, iudexAlone } from "../support/command.ts";
import { put } from "../support/folders.ts";
import { demoRepository } from "../support/repository.ts";
import { scratch } from "../support/scratch.ts";
import {
  filesOf,
  groupsOf,
  halves,
  iso,
  noon,
  type Row,
  rate,
  shared,
  split,
  verdict,
  weighRows,
} from "../support/weighing.ts";

const minute = 60_000;
const day = 24 * 60 * minute;
const came = (subject: unknown, at = noon + minute, more: object = {}): Row => ({
  subject,
  at: typeof at === "number" ? iso(at) : at,
  measure: "it",
  ...more,
});

async function had(verdicts: readonly Row[], outcomes: readonly Row[], request: Parameters<typeof weighRows>[1] = {}) {
  const weighing = await weighRows({ verdicts, outcomes }, request);
  const figures = weighing.measures[0]?.groups.map(({ people, figure }) => [
    people,
    Math.round((figure || 0) * people * 1000) / 1000,
  ]);
  return { ...weighing, figures };
}

describe("who counts", () => {
  test("the first verdict decides; what comes after it dilutes, an override before it leaves out", async () => {
    const verdicts = [
      verdict("a", "old"),
      verdict("a", "new", noon + minute, { cause: "override", rule: undefined, ruleName: undefined }),
      verdict("b", "new", noon, { cause: "override", rule: undefined, ruleName: undefined }),
      verdict("b", "old", noon + minute),
      verdict("c", "new"),
      verdict("c", "old", noon + minute, { cause: "suspended", rule: undefined, ruleName: undefined }),
      verdict("d", "old", noon, { rule: 2, ruleName: "others" }),
      verdict("d", "new", noon + minute),
    ];
    const { figures, leftOut, diluted } = await had(
      verdicts,
      ["a", "b", "c", "d"].map((subject) => came(subject, noon + 2 * minute)),
    );
    expect(figures).toEqual([
      [1, 1],
      [2, 2],
    ]);
    expect(leftOut!.people.overriddenBefore).toBe(1);
    expect(leftOut!.outcomes.ofOthers).toBe(1);
    expect(diluted).toBe(2);
  });

  test("a share lets in, and leaves out whom its verdict says, whatever these then got", async () => {
    const left = { outside: [{ rule: 1, ruleName: "some", by: "account.id", id: "b" }] };
    const verdicts = [
      verdict("a", "", noon, {
        ruleName: "some",
        variant: undefined,
        value: true,
        drawn: { by: "account.id", id: "a" },
      }),
      verdict("b", "", noon, { ...left, rule: 2, ruleName: "others", variant: undefined, value: true }),
      verdict("c", "", noon, {
        cause: "otherwise",
        rule: undefined,
        ruleName: undefined,
        variant: undefined,
        value: false,
      }),
    ];
    const { groups } = await weighRows({ definitions: shared("50%"), verdicts, outcomes: [] });
    expect(groups).toEqual([
      { name: "left out", people: 1 },
      { name: "let in", people: 1 },
    ]);
  });

  test("whom the rule drew is who counts: another id is refused and counted", async () => {
    const drawn = (id: string, by = "device.id") => ({ drawn: { by, id } });
    const definitions = halves.replace("{ name: parts,", "{ name: parts, by: device.id,");
    const verdicts = [
      verdict("a", "old", noon, drawn("d1")),
      verdict("a", "new", noon, drawn("d2")),
      verdict("b", "new", noon, drawn("b", "account.id")),
    ];
    const weighing = await weighRows({ definitions, verdicts, outcomes: [came("d1"), came("a")] });
    expect(weighing.by).toBe("device.id");
    expect(weighing.groups.map(({ people }) => people)).toEqual([1, 1]);
    expect(weighing.leftOut!.verdicts.otherIds).toBe(1);
    expect(weighing.leftOut!.outcomes.ofOthers).toBe(1);
  });

  test("dates go by the first verdict, and a time within which outcomes count has to fit", async () => {
    const at = (days: number) => noon + days * day;
    const verdicts = [verdict("a", "old", at(0)), verdict("b", "new", at(1)), verdict("c", "new", at(6))];
    const outcomes = [came("a", at(6)), came("b", at(9)), came("c", at(7))];
    const whole = await had(verdicts, outcomes);
    expect(whole.figures).toEqual([
      [1, 1],
      [2, 2],
    ]);
    const cut = await had(verdicts, outcomes, { from: at(0.5), until: at(6.5) });
    expect(cut.figures).toEqual([
      [0, 0],
      [2, 2],
    ]);
    const within = await had(verdicts, outcomes, { within: 7 * day, until: at(8.5) });
    expect(within.figures).toEqual([
      [1, 1],
      [1, 0],
    ]);
    expect(within.leftOut).toMatchObject({ people: { withinNotOver: 1 }, outcomes: { afterEnd: 1, ofOthers: 1 } });
    expect(within.notes.join()).not.toContain("so far");
  });
});

describe("what is wrong is counted, and changes nothing", () => {
  const verdicts = [verdict("a", "old"), verdict("b", "new")];
  const outcomes = [came("a"), came("b")];

  test.each<[string, readonly Row[], object]>([
    ["a private id", [verdict("•••", "old")], { privateIds: 1 }],
    ["no id", [verdict(undefined, "old"), verdict("", "old")], { withoutId: 2 }],
    [
      "no instant",
      [verdict("x", "old", noon, { at: "yesterday" }), verdict("x", "old", noon, { at: "2026-11-02T12:00:00" })],
      { withoutInstant: 2 },
    ],
    ["another variant", [verdict("x", "blue")], { otherVariants: 1 }],
    ["a broken line", ['{"subject":"x","fla'], { unreadableLines: 1 }],
    ["what only a page got", [verdict("x", "old", noon, { asked: "page" })], { sentOnly: 1 }],
    ["another flag", [verdict("x", "old", noon, { flag: "other" })], {}],
  ])("of the verdicts: %s", async (_, rows, wanted) => {
    const { figures, leftOut } = await had([...verdicts, ...rows], outcomes);
    expect(figures).toEqual([
      [1, 1],
      [1, 1],
    ]);
    expect(leftOut!.verdicts).toMatchObject(wanted);
    expect(Object.values(leftOut!.verdicts).reduce((all, n) => all + n, 0)).toBe(
      Object.values(wanted).reduce((all: number, n) => all + Number(n), 0),
    );
  });

  test.each<[string, readonly Row[], object]>([
    ["somebody else", [came("x")], { ofOthers: 1 }],
    ["before the first verdict", [came("a", noon - minute)], { beforeFirstVerdict: 1 }],
    ["no instant", [{ ...(came("a") as object), at: 1 }], { withoutInstant: 1 }],
    ["no id", [came(undefined)], { withoutId: 1 }],
    ["the same row twice", [came("b"), came("b")], { repeated: 2 }],
    [
      "not a number",
      [came("a", noon, { value: "many" }), came("a", noon, { value: "NaN" }), came("a", noon, { value: 1e200 })],
      { notANumber: 3 },
    ],
    ["a broken line", ["{"], { unreadableLines: 1 }],
  ])("of the outcomes: %s", async (_, rows, wanted) => {
    const { figures, leftOut } = await had(verdicts, [...outcomes, ...rows]);
    expect(figures).toEqual([
      [1, 1],
      [1, 1],
    ]);
    expect(leftOut!.outcomes).toMatchObject(wanted);
  });

  test("an amount without a value is told; negative and huge ones count", async () => {
    const rows = [came("a", noon, { value: -3 }), came("a", noon + 1, { value: 1e12 }), came("b")];
    const { measures, leftOut } = await had(verdicts, rows);
    expect(measures[0]!.kind).toBe("amount");
    expect(measures[0]!.groups.map(({ figure }) => figure)).toEqual([999_999_999_997, 0]);
    expect(leftOut!.outcomes.withoutValue).toBe(1);
  });

  test("rows in any order, ids as numbers and texts, instants of other zones", async () => {
    const { verdicts: told, outcomes: what } = groupsOf({ old: rate(30, 90), new: rate(45, 90) });
    const odd = (row: Row, i: number) => {
      const { at, subject, ...rest } = row as { at: string; subject: string };
      const local = `${new Date(Date.parse(at) + 2 * 60 * minute).toISOString().replace("Z", "")}+02:00`;
      return { ...rest, subject, at: i % 2 === 0 ? local : at };
    };
    const plain = await weighRows({ verdicts: told, outcomes: what });
    const mixed = await weighRows({ verdicts: told.map(odd).reverse(), outcomes: what.map(odd).reverse() });
    expect(mixed).toEqual(plain);
    const numbered = await had([verdict(17, "old"), verdict("18", "new")], [came("17"), came(18)]);
    expect(numbered.figures).toEqual([
      [1, 1],
      [1, 1],
    ]);
  });
});

test("more subjects than memory is to hold are read in several passes, and nothing differs", async () => {
  const rows = groupsOf({ old: rate(300, 900), new: rate(450, 900) });
  const odd = [came("x"), came(undefined), "{", came("old-1", noon - 1)];
  const verdicts = [
    ...rows.verdicts,
    verdict("•••", "old"),
    verdict("y", "old", noon, { cause: "override", ruleName: undefined, rule: undefined }),
  ];
  const asked = { verdicts, outcomes: [...rows.outcomes, ...odd] };
  const [whole, parts] = [await weighRows(asked), await weighRows(asked, { maxSubjects: 300 })];
  const rounded = (weighing: object) =>
    JSON.parse(JSON.stringify(weighing), (_, each) => (typeof each === "number" ? Number(each.toPrecision(12)) : each));
  expect(rounded(parts)).toEqual(rounded(whole));
});

test("a log of one group, and everybody the same, say what they can", async () => {
  const same = await had(
    Array.from({ length: 60 }, (_, i) => verdict(`p${i}`, i % 2 ? "old" : "new")),
    Array.from({ length: 60 }, (_, i) => came(`p${i}`, noon, { value: 5 })),
  );
  expect(same.measures[0]!.differences[0]!.says).toBe("cannot tell yet: everybody had it in both groups");
  const one = await had(
    Array.from({ length: 60 }, (_, i) => verdict(`p${i}`, "old")),
    [came("p1")],
  );
  expect(one.measures[0]!.differences[0]!.says).toBe(
    "the scales are off: 60 and 0 where halves were due; no comparison",
  );
  const pages = [
    verdict("a", "old", noon, { asked: "page" }),
    verdict("b", "old", noon, { cause: "otherwise", rule: undefined, ruleName: undefined }),
  ];
  expect((await had(pages, [])).groups.map(({ people }) => people)).toEqual([1, 0]);
});

describe("a change that nobody told of", () => {
  const verdicts = [
    verdict("a", "old"),
    verdict("a", "new", noon + day),
    verdict("b", "new"),
    verdict("b", "old", noon + 3 * day),
  ];

  test("shows itself by somebody in two groups: nothing is compared, and it is said when", async () => {
    const failing = weighRows({ verdicts, outcomes: [] });
    await expect(failing).rejects.toThrow(
      `2 of those whom this rule divided are in two groups, first at ${iso(noon + day)}`,
    );
    await expect(failing).rejects.toMatchObject({ help: expect.stringContaining(`--changed ${iso(noon + day)}`) });
    const { spans } = await weighRows({ verdicts: verdicts.slice(0, 3), outcomes: [] }, { changed: [noon + day] });
    expect(spans.map(({ people }) => people)).toEqual([
      [1, 1],
      [0, 0],
    ]);
  });

  test("is found in the repository, and a share that rises ends a span by itself", async () => {
    const { folder, git } = await demoRepository();
    const flag = (share: string) =>
      `iudex: 1\ndefaults: { by: account.id }\nflags:\n  greeting:\n    safe: false\n    rules: [{ name: some, share: ${share}, give: true }]\n`;
    for (const [share, at] of [
      ["10%", "2026-11-01T00:00:00Z"],
      ["50%", "2026-11-03T00:00:00Z"],
    ] as const) {
      await put(folder, "greeting.yaml", flag(share));
      git("add", ".");
      git("commit", "--quiet", "--date", at, "--message", `Greeting at ${share}`);
    }
    const left = { cause: "otherwise", rule: undefined, ruleName: undefined, outside: [{ rule: 1, ruleName: "some" }] };
    const inside = { ruleName: "some" };
    const rows = [
      verdict("a", "", noon, left),
      verdict("a", "", noon + 2 * day, inside),
      verdict("b", "", noon, inside),
    ];
    const { files } = await filesOf({ verdicts: rows, outcomes: [came("a", noon + 2 * day)] });
    const { out, code } = await iudex(
      "weigh",
      "greeting",
      "--env",
      "production",
      "--verdicts",
      files.verdicts,
      "--outcomes",
      files.outcomes,
      "--flags",
      folder,
      "--json",
    );
    expect(code).toBe(0);
    const { spans, leftOut } = JSON.parse(out);
    expect(spans.map(({ from, people }: { from: string; people: number[] }) => [from, people])).toEqual([
      [null, [1, 1]],
      ["2026-11-03T00:00:00.000Z", [0, 0]],
    ]);
    // It came after the span in which that person counts.
    expect(leftOut.outcomes.afterEnd).toBe(1);
  });
});

describe("files", () => {
  test("CSV, compressed, with columns of other names", async () => {
    const place = await scratch();
    const { folder, files } = await filesOf(groupsOf({ old: rate(30, 90), new: rate(45, 90) }));
    const { definitions } = await loadFolder(folder);
    const plain = await weigh(definitions!, { flag: "greeting", ...files });
    const csv = { verdicts: join(place, "v.csv.gz"), outcomes: join(place, "o.csv") };
    const people = [
      ...rate(30, 90).map((it, i) => [`old-${i}`, "old", it]),
      ...rate(45, 90).map((it, i) => [`new-${i}`, "new", it]),
    ];
    const header = "who,when,flag,variant,rule,outside\n";
    await writeFile(
      csv.verdicts,
      gzipSync(
        header + people.map(([id, variant]) => `${id},2026-11-02 12:00:00+00,greeting,${variant},parts,`).join("\n"),
      ),
    );
    await writeFile(
      csv.outcomes,
      `who,when,measure\n${people
        .filter(([, , it]) => it)
        .map(([id]) => `${id},2026-11-02 12:00:01+00,it`)
        .join("\n")}\n`,
    );
    const columns = { subject: "who", at: "when" };
    expect(await weigh(definitions!, { flag: "greeting", ...csv, columns })).toEqual(plain);
    const words = [
      "--verdicts",
      csv.verdicts,
      "--outcomes",
      csv.outcomes,
      "--flags",
      folder,
      "--columns",
      "subject=who,at=when",
      "--json",
    ];
    expect(JSON.parse((await iudex("weigh", "greeting", ...words)).out)).toEqual(JSON.parse(JSON.stringify(plain)));
  });

  test("swapped, empty, missing or of another flag: said", async () => {
    const { folder, files } = await filesOf(groupsOf({ old: rate(3, 9), new: rate(4, 9) }));
    const ask = (verdicts: string, outcomes: string) =>
      iudex("weigh", "greeting", "--verdicts", verdicts, "--outcomes", outcomes, "--flags", folder);
    expect(await ask(files.outcomes, files.verdicts)).toMatchObject({
      code: 2,
      err: expect.stringContaining("are the two files swapped?"),
    });
    expect(await ask(files.verdicts, files.verdicts)).toMatchObject({
      code: 2,
      err: expect.stringContaining("holds verdicts"),
    });
    expect(await ask(files.verdicts, join(folder, "none.csv"))).toMatchObject({
      code: 2,
      err: expect.stringContaining("cannot be read"),
    });
    expect(await ask(files.verdicts, folder)).toMatchObject({
      code: 2,
      err: expect.stringContaining("is a folder"),
    });
    await writeFile(files.verdicts, "");
    expect(await ask(files.verdicts, files.outcomes)).toMatchObject({
      code: 2,
      err: expect.stringContaining("holds no verdict of greeting"),
    });
  });

  test("what is added while they are read waits for the next time, and twice gives the same bytes", async () => {
    const { folder, files } = await filesOf(groupsOf({ old: rate(3000, 9000), new: rate(4000, 9000) }));
    const { definitions } = await loadFolder(folder);
    const before = JSON.stringify(await weigh(definitions!, { flag: "greeting", ...files }));
    const during = weigh(definitions!, { flag: "greeting", ...files });
    await appendFile(files.verdicts, `${JSON.stringify(verdict("old-1", "new"))}\n`);
    expect([before, "in two groups"]).toContain(await during.then(JSON.stringify, () => "in two groups"));
    await expect(weigh(definitions!, { flag: "greeting", ...files })).rejects.toThrow("in two groups");
  });
});

test("options that cannot be meant are refused, with what to write", async () => {
  const { folder, files } = await filesOf(groupsOf({ old: rate(3, 9), new: rate(4, 9) }));
  const flags = ["weigh", "greeting", "--verdicts", files.verdicts, "--outcomes", files.outcomes, "--flags", folder];
  for (const [words, said] of [
    [["--guard", "it=2"], "Which direction of “it” is bad?"],
    [["--guard", "it=0 more"], "“0” is not a number above 0."],
    [["--better", "it=bigger"], "“bigger” is not a direction."],
    [["--columns", "subjct=who"], "There is no column “subjct”."],
    [["--plan", "--rate", "4%", "--tell", "1"], "A plan is made before there is anything to weigh."],
    [["--within", "soon"], "“soon” is not a length of time."],
    [["--tell", "much"], "“much” is not a number above 0."],
    [["--measure", "a/b/c"], "“a/b/c” is not a measure."],
    [["--sql", "oracle"], "“oracle” is not a dialect."],
    [["--sums", files.outcomes], "--sums takes the place of --verdicts and --outcomes."],
    [["--svg", join(folder, "no", "where.svg")], "cannot be written"],
  ] as const)
    expect(await iudex(...flags, ...words), words.join(" ")).toMatchObject({
      code: 2,
      err: expect.stringContaining(said),
    });
  expect(await iudexAlone({}, "weigh", "--flags", folder)).toMatchObject({
    code: 2,
    err: expect.stringContaining("Which flag is weighed?"),
  });
  expect(binary).toContain("dist");
});

test("plans by people and days", async () => {
  const plan = async (...words: string[]) => (await iudex("weigh", "--plan", ...words)).out;
  expect(await plan("--rate", "4%", "--tell", "0.5", "--split", "1 a, 1 b")).toBe(
    "To tell 0.5 points in four of five cases it takes\n  51,100 people for one look that is decided beforehand\n  114,600 people for any number of looks\n",
  );
  expect(
    JSON.parse(await plan("--rate", "4%", "--tell", "0.5", "--daily", "1000", "--within", "7d", "--json")),
  ).toEqual({
    people: { oneLook: 51_097, anyLook: 114_579 },
    days: { oneLook: 59, anyLook: 122 },
  });
  expect(await plan("--variance", "100", "--tell", "1", "--share", "10%")).toMatch(/ 8,730 people for one look/);
  expect((await iudex("weigh", "--plan", "--tell", "1")).err).toContain("write --rate 4%");
});

test("a split of three is compared with its first", async () => {
  const rows = groupsOf({ old: rate(300, 900), new: rate(450, 900), third: rate(310, 900) });
  const { measures } = await weighRows({ definitions: split("[1 old, 1 new, 1 third]"), ...rows });
  expect(measures[0]!.differences.map(({ from, to, says }) => [from, to, says.split(":")[0]])).toEqual([
    ["old", "new", "new has more"],
    ["old", "third", "cannot tell yet"],
  ]);
});
