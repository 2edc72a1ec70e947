import { execFileSync } from "node:child_process";
import { readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { iudex } from "../support/command.ts";
import { folderWith, put } from "../support/folders.ts";
import { demoRepository } from "../support/repository.ts";

/** What an edit makes of a file. */
async function edited(file: string, before: string, ...words: string[]): Promise<string> {
  const folder = await folderWith({ [file]: before });
  const { code, err } = await iudex(...words, "--yes", "--flags", folder);
  expect([code, err]).toEqual([0, ""]);
  return readFile(join(folder, file), "utf8");
}

const environments = "environments: { staging: {}, production: {} }\n";

describe("iudex set keeps everything else as it is", () => {
  it.each<[string, string, string[], string]>([
    [
      "a share that is the rule's first key is taken out",
      "iudex: 1\nflags:\n  a:\n    safe: 1\n    by: id\n    rules:\n      - share: 10%   # few\n        give: 2\n",
      ["set", "a", "--share", "none"],
      "iudex: 1\nflags:\n  a:\n    safe: 1\n    by: id\n    rules:\n      - give: 2\n",
    ],
    [
      "a value of two lines",
      "iudex: 1\nflags:\n  a: { safe: one }  # a text\n",
      ["set", "a", "--safe", "one\ntwo"],
      'iudex: 1\nflags:\n  a: { safe: "one\\ntwo" }  # a text\n',
    ],
    [
      "line ends of another system",
      "iudex: 1\r\nflags:\r\n  a: { safe: 1 }\r\n  b: { safe: 2 } # b\r\n",
      ["set", "a", "--safe", "3"],
      "iudex: 1\r\nflags:\r\n  a: { safe: 3 }\r\n  b: { safe: 2 } # b\r\n",
    ],
  ])("%s", async (_, before, words, after) => {
    expect(await edited("a.yaml", before, ...words)).toBe(after);
  });

  it("a rule that is adjusted already keeps the comments and the layout of what is adjusted", async () => {
    const before = `iudex: 1
${environments}flags:
  a:
    safe: 1
    by: id
    rules: [{ name: some, share: 10%, give: 2 }]
    environments:
      staging:
        adjust:
          some:
            # tried out since Monday
            share: 20%   # half of what was asked
            give: 3      # as the office wants it
`;
    const words = ["set", "a", "--env", "staging", "--rule", "some", "--share", "25%"];
    expect(await edited("a.yaml", before, ...words)).toBe(before.replace("20%", "25%"));
  });

  it("a split keeps the comments of parts that did not change", async () => {
    const before = `iudex: 1
flags:
  a:
    variants: { one: 1, two: 2, three: 3 }
    safe: one
    by: id
    rules:
      - split:
          # the old one
          - 2 one   # most
          - 1 two   # some
`;
    const words = ["set", "a", "--rule", "1", "--split", "2 one, 3 two, 1 three"];
    expect(await edited("a.yaml", before, ...words)).toBe(
      before.replace("1 two ", "3 two ").replace("# some\n", "# some\n          - 1 three\n"),
    );
  });

  describe("a stop that is there", () => {
    const first = "{ since: 2026-12-01T09:00Z, who: Kari, note: off by one zone, in: [staging] }";
    const lines = "\n    # seen there\n    since: 2026-12-01T09:00Z\n    in: [staging]   # by Kari\n";
    const listed = "\n    # seen there\n    - since: 2026-12-01T09:00Z\n      in: [staging]   # by Kari\n";
    const fresh = String.raw`\{ since: \S+Z, who: duty, note: prices, in: \[production\] \}`;
    const wrapped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, "\\$&");
    it.each([
      ["on one line", ` ${first} # by Kari\n`, new RegExp(`^  a: \\[${wrapped(first)}, ${fresh}\\] # by Kari$`, "m")],
      ["on lines of its own", lines, new RegExp(`${wrapped(listed)}    - since: \\S+Z\n      who: duty\n`)],
    ])("stays as it is when another joins it: %s", async (_, entry, after) => {
      const folder = await folderWith({
        "a.yaml": `iudex: 1\n${environments}flags: { a: { safe: 1 }, b: { safe: 1 } }\n`,
        "suspended.yaml": `iudex: 1\nsuspended:\n  # ask Kari first\n  a:${entry}  b: {}\n`,
      });
      const where = ["--env", "production", "--yes", "--flags", folder];
      const why = ["--who", "duty", "--note", "prices"];
      expect(await iudex("suspend", "a", ...where, ...why)).toMatchObject({ code: 0 });
      const text = await readFile(join(folder, "suspended.yaml"), "utf8");
      expect(text).toMatch(after);
      expect(text).toContain("# ask Kari first");
      // What joined is taken out again, and the first one stands as it stood.
      expect(await iudex("reinstate", "a", ...where)).toMatchObject({ code: 0 });
      const again = await readFile(join(folder, "suspended.yaml"), "utf8");
      for (const part of ["# ask Kari first", "by Kari", "2026-12-01T09:00Z", "b: {}"]) expect(again).toContain(part);
      expect(again).not.toContain("prices");
    });

    it("of everywhere goes on to hold in environments that come later", async () => {
      const folder = await folderWith({
        "a.yaml": `iudex: 1\n${environments}flags: { a: { safe: 1, otherwise: 2 } }\n`,
        "suspended.yaml": "iudex: 1\nsuspended:\n  a: { note: off by one } # by Kari\n",
      });
      const words = ["reinstate", "a", "--env", "production", "--yes", "--flags", folder];
      expect(await iudex(...words)).toMatchObject({ code: 0 });
      expect(await readFile(join(folder, "suspended.yaml"), "utf8")).toBe(
        "iudex: 1\nsuspended:\n  a: { note: off by one, except: [production] } # by Kari\n",
      );
      const later = `iudex: 1\n${environments.replace("}, ", "}, trial: {}, ")}flags: { a: { safe: 1, otherwise: 2 } }\n`;
      await put(folder, "a.yaml", later);
      const given = async (env: string) =>
        JSON.parse((await iudex("why", "a", "--env", env, "--json", "--flags", folder)).out).value;
      expect([await given("trial"), await given("staging"), await given("production")]).toEqual([1, 1, 2]);
    });
  });

  it.each([
    [["--rule", "2", "--remove"], (text: string) => text.replace(',\n            {"give": 3,  "by":"id"}', "")],
    [
      ["--new-rule", "late", "--give", "4"],
      (text: string) =>
        text.replace(
          '"by":"id"}',
          '"by":"id"},\n            {\n                "name": "late",\n                "give": 4\n            }',
        ),
    ],
    [
      ["--about", "What it is"],
      (text: string) => text.replace('"safe":1,', '"about": "What it is",\n        "safe":1,'),
    ],
  ] as const)("%j in JSON lays nothing else out anew", async (words, after) => {
    const before =
      '{ "iudex": 1,\n    "flags": {\n      "a": {\n        "safe":1,\n        "rules": [\n            {"give": 2.50},\n            {"give": 3,  "by":"id"}\n        ]   }\n  }}\n';
    expect(await edited("a.json", before, "set", "a", ...words)).toBe(after(before));
  });

  it("a byte order mark stays", async () => {
    expect(await edited("a.yaml", "\ufeffiudex: 1\nflags:\n  a: { safe: 1 }\n", "set", "a", "--safe", "2")).toBe(
      "\ufeffiudex: 1\nflags:\n  a: { safe: 2 }\n",
    );
  });

  it("objects of JSON on one line stay there, and 2.0 is not made 2", async () => {
    const before = `{ "iudex": 1,\n  "flags": {\n    "a": { "safe": 1.0, "otherwise": 2.0, "by": "id", "rules": [{ "give": 3.50 }] }\n  }\n}\n`;
    expect(await edited("a.json", before, "set", "a", "--rule", "1", "--share", "20%")).toBe(
      before.replace('[{ "give": 3.50 }]', '[{ "share": "20%", "give": 3.50 }]'),
    );
  });

  it("what another environment has is copied, and the share with it", async () => {
    const before = `iudex: 1\n${environments}flags:\n  a:\n    safe: 1\n    by: id\n    rules: [{ name: some, share: 10%, give: 2 }]\n    environments:\n      staging: { provided: id is present, otherwise: 3 }\n`;
    const words = ["set", "a", "--env", "production", "--like", "staging", "--rule", "some", "--share", "25%"];
    const after = await edited("a.yaml", before, ...words);
    const folder = await folderWith({ "a.yaml": after });
    const { out } = await iudex("list", "--json", "--flags", folder);
    expect(after).toContain("staging: { provided: id is present, otherwise: 3 }");
    const { definitions } = await (await import("iudex/tools")).loadFolder(folder);
    expect(definitions?.flags.get("a")?.source.environments?.["production"]).toEqual({
      provided: "id is present",
      otherwise: 3,
      adjust: { some: { share: "25%" } },
    });
    expect(out).toContain("25%");
  });

  it("a change that somebody else has begun in the file is not committed along with it", async () => {
    const { folder, git } = await demoRepository();
    await put(folder, "crossing.yaml", `${await readFile(join(folder, "crossing.yaml"), "utf8")}# not done yet\n`);
    const words = ["set", "seat-map", "--otherwise", "deck", "--yes", "--commit", "--flags", folder];
    const { code, err } = await iudex(...words);
    expect([code, err]).toEqual([2, expect.stringMatching(/crossing\.yaml .*changes that are not committed/)]);
    expect(git("log", "--oneline").trim().split("\n")).toHaveLength(1);
    expect(
      git("diff")
        .split("\n")
        .filter((line) => /^[+-][^+-]/.test(line)),
    ).toEqual(["+# not done yet"]);
  });
});

describe("the emergency stop is written", () => {
  const flags = `iudex: 1\n${environments}flags: { a: { safe: false, otherwise: true }, b: { safe: false } }\n`;
  it.each<[string, string]>([
    ["nothing", ""],
    ["a remark", "# nobody is stopped\n"],
    ["no version", "suspended: {}\n"],
    ["a fault elsewhere", "iudex: 1\nsuspended:\n  b: { sinse: 2026-12-01T09:00Z }\n"],
    ["an entry for a flag that is gone", "iudex: 1\nsuspended:\n  gone: {}\n"],
  ])("into a file that holds %s, which it keeps", async (_, before) => {
    const folder = await folderWith({ "set.yaml": flags, "suspended.yaml": before });
    const { code, err } = await iudex("suspend", "a", "--env", "production", "--yes", "--flags", folder);
    expect([code, err]).toEqual([0, expect.anything()]);
    const after = await readFile(join(folder, "suspended.yaml"), "utf8");
    for (const line of before.split("\n").filter((each) => /#|sinse|gone/.test(each))) expect(after).toContain(line);
    const { suspensions } = await (await import("iudex/tools")).loadFolder(folder);
    expect(suspensions?.get("a")?.stops.map((stop) => stop.in)).toEqual([["production"]]);
  });

  it("asks before it starts a flag again elsewhere by narrowing a stop, and is told a misspelt environment", async () => {
    const files = { "set.yaml": flags, "suspended.yaml": "iudex: 1\nsuspended: { a: true }\n" };
    const folder = await folderWith({ ...files, "broken.yaml": "iudex: 1\nflags: {{" });
    const misspelt = await iudex("suspend", "a", "--env", "prodution", "--yes", "--flags", folder);
    expect([misspelt.code, misspelt.err]).toEqual([2, expect.stringContaining("did you mean production?")]);
    const whole = await folderWith(files);
    const stood = await iudex("suspend", "a", "--env", "production", "--yes", "--flags", whole);
    expect(`${stood.out}${stood.err}`).toMatch(/suspended|staging/);
    expect(await readFile(join(whole, "suspended.yaml"), "utf8")).toBe(files["suspended.yaml"]);
    await iudex("reinstate", "a", "--yes", "--flags", whole);
    expect(await readFile(join(whole, "suspended.yaml"), "utf8")).toBe("iudex: 1\nsuspended: {}\n");
  });
});

describe("commits that mean harm", () => {
  it("with a way out of the folder, or a link beside a folder of its name, write nothing and are refused", async () => {
    const { folder, git } = await demoRepository();
    const cwd = join(folder, "..");
    const blob = (text: string) =>
      execFileSync("git", ["hash-object", "-w", "--stdin"], { cwd, input: text, encoding: "utf8" }).trim();
    const tree = (lines: string) => execFileSync("git", ["mktree"], { cwd, input: lines, encoding: "utf8" }).trim();
    const file = blob("iudex: 1\nflags: { a: { safe: 1 } }\n");
    const out = blob("iudex: 1\nflags: { stray: { safe: 1 } }\n");
    const inner = tree(`100644 blob ${out}\tstray.yaml\n`);
    const evil = rawTree(cwd, [
      ["100644", "a.yaml", file],
      ["40000", "..", inner],
    ]);
    const linked = tree(`120000 blob ${blob("/etc")}\tlink.yaml\n100644 blob ${file}\ta.yaml\n`);
    for (const each of [evil, linked]) {
      const top = rawTree(cwd, [["40000", "flags", each]]);
      const commit = execFileSync("git", ["commit-tree", top, "-m", "odd"], { cwd, encoding: "utf8" }).trim();
      const ran = await iudex("diff", commit, "HEAD", "--flags", folder);
      expect([ran.code <= 2, ran.err]).toEqual([true, expect.not.stringMatching(/\n\s+at /)]);
      expect(`${ran.out}`).not.toContain("stray");
    }
    expect(git("status", "--short")).toBe("");
  });
});

/** A tree that git's own commands refuse to make. */
function rawTree(cwd: string, entries: readonly (readonly [mode: string, name: string, id: string])[]): string {
  const bytes = Buffer.concat(
    entries.flatMap(([mode, name, id]) => [Buffer.from(`${mode} ${name}\0`), Buffer.from(id, "hex")]),
  );
  const words = ["hash-object", "-w", "-t", "tree", "--literally", "--stdin"];
  return execFileSync("git", words, { cwd, input: bytes, encoding: "utf8" }).trim();
}

it("a file under two names of its own is read once", async () => {
  const folder = await folderWith({ "a.yaml": "iudex: 1\nflags: { a: { safe: 1 } }\n" });
  const { link } = await import("node:fs/promises");
  await link(join(folder, "a.yaml"), join(folder, "b.yaml"));
  const { code, out } = await iudex("check", "--flags", folder);
  expect([code, out]).toEqual([0, expect.stringContaining("1 file, 1 flag")]);
});

it("an empty CSV value is missing, and a quoted one too", async () => {
  const folder = await folderWith({
    "a.yaml":
      "iudex: 1\nattributes: { id: text, plan: text }\nflags: { a: { safe: 1, rules: [{ when: plan is missing, give: 2 }] } }\n",
  });
  await writeFile(join(folder, "../people.csv"), 'id,plan\n1,\n2,""\n3,basic\n');
  const { out } = await iudex("census", "a", "--people", join(folder, "../people.csv"), "--json", "--flags", folder);
  expect(JSON.parse(out).values).toEqual(
    expect.arrayContaining([
      expect.objectContaining({ value: 2, count: 2 }),
      expect.objectContaining({ value: 1, count: 1 }),
    ]),
  );
});
