import { chmod, mkdir, symlink } from "node:fs/promises";
import { join } from "node:path";
import { FlagsError, followFlags, type LocatedProblem } from "iudex";
import { describe, expect, it } from "vitest";
import { folderWith } from "../support/folders.ts";

/** Opens a folder that cannot be used, and gives its problems. */
async function problemsOf(files: Readonly<Record<string, string>>): Promise<readonly LocatedProblem[]> {
  return problemsIn(await folderWith(files));
}

async function problemsIn(folder: string): Promise<readonly LocatedProblem[]> {
  const error = await followFlags(folder).then(
    (flags) => flags.close(),
    (e: unknown) => e,
  );
  if (!(error instanceof FlagsError)) throw new Error("the folder was accepted");
  return error.problems;
}

const head = "iudex: 1\nflags:\n";

describe("a folder that cannot be used", () => {
  it("is missing", async () => {
    const [problem] = await problemsIn("no/such/folder");
    expect(problem).toMatchObject({ code: "folder-missing", message: expect.stringContaining("does not exist") });
  });

  it("is empty", async () => {
    const [problem] = await problemsOf({ "readme.txt": "nothing here" });
    expect(problem).toMatchObject({ code: "folder-empty", expected: expect.stringContaining("iudex: 1") });
  });

  it("holds a file that may not be read", async () => {
    const folder = await folderWith({ "a.yaml": head });
    await mkdir(join(folder, "gone"));
    await symlink(join(folder, "nowhere.yaml"), join(folder, "b.yaml"));
    await chmod(join(folder, "a.yaml"), 0o000);
    const problems = await problemsIn(folder);
    expect(problems.find((p) => p.file === "b.yaml")).toMatchObject({
      code: "file-unreadable",
      message: expect.stringContaining("does not exist"),
    });
  });

  it("holds a link that leads out of it", async () => {
    const outside = await folderWith({ "secret.yaml": `${head}  a: { safe: true }\n` });
    const folder = await folderWith({ "a.yaml": `${head}  b: { safe: true }\n` });
    await symlink(join(outside, "secret.yaml"), join(folder, "link.yaml"));
    expect((await problemsIn(folder))[0]).toMatchObject({ code: "outside-folder", file: "link.yaml" });
  });
});

describe("each problem is found at its place", () => {
  it.each<[string, Record<string, string>, Partial<LocatedProblem> & { readonly text?: string }]>([
    [
      "no format version",
      { "a.yaml": "flags: {}\n" },
      { code: "format-missing", line: 1, column: 1, help: "write “iudex: 1” as the first line" },
    ],
    ["a newer format", { "a.yaml": "# hi\niudex: 2\n" }, { code: "format-newer", line: 2, column: 1 }],
    ["a syntax error", { "a.yaml": "iudex: 1\nflags: [\n" }, { code: "yaml-syntax", line: 3 }],
    ["a JSON syntax error", { "a.json": '{\n "iudex": 1,\n}' }, { code: "json-syntax", line: 3, column: 1 }],
    ["a key twice", { "a.yaml": `${head}  a: { safe: 1, safe: 2 }\n` }, { code: "duplicate-key", line: 3, column: 17 }],
    [
      "a key twice in JSON",
      { "a.json": '{"iudex":1,\n"flags":{"a":{"safe":1},\n"a":{"safe":2}}}' },
      { code: "duplicate-key", line: 3, column: 1 },
    ],
    [
      "an unknown key",
      { "a.yaml": `${head}  a: { safe: 1, rulez: [] }\n` },
      { code: "unknown-key", line: 3, column: 17, help: "did you mean “rules”?" },
    ],
    [
      "a value of another type",
      { "a.yaml": `${head}  a:\n    safe: false\n    rules:\n      - give: 12\n` },
      { code: "value-type", line: 6, column: 15, expected: "true or false" },
    ],
    [
      "an unknown variant",
      { "a.yaml": `${head}  a: { variants: { deck: 1, list: 2 }, safe: dekc }\n` },
      { code: "unknown-variant", line: 3, column: 46, help: "did you mean deck?" },
    ],
    [
      "a plain condition",
      { "a.yaml": `${head}  a: { safe: 1, rules: [{ when: trips >> 3, give: 2 }] }\n` },
      { code: "condition-syntax", line: 3, column: 40 },
    ],
    [
      "a quoted condition",
      { "a.yaml": `${head}  a: { safe: 1, rules: [{ when: "a == \\"x\\" andd b", give: 2 }] }\n` },
      { code: "condition-syntax", line: 3, column: 45, endColumn: 49 },
    ],
    [
      "a folded condition",
      {
        "a.yaml": `${head}  a:\n    safe: 1\n    rules:\n      - when: >-\n          trips > 3\n          and plan ==\n        give: 2\n`,
      },
      { code: "condition-syntax", line: 8, column: 22 },
    ],
    [
      "a condition in JSON",
      { "a.json": `{"iudex":1,"flags":{"a":{"safe":1,\n"rules":[{"when":"a == \\"x\\" andd","give":2}]}}}` },
      { code: "condition-syntax", line: 2, column: 30 },
    ],
    [
      "a condition cut short",
      { "a.yaml": `${head}  a:\n    safe: 1\n    rules:\n      - when: tags contains # dog\n        give: 2\n` },
      { code: "condition-syntax", help: expect.stringContaining("single quotes") as never },
    ],
    [
      "an unquoted colon",
      { "a.yaml": `${head}  a:\n    safe: 1\n    rules:\n      - when: x == "a: b"\n        give: 2\n` },
      { code: "yaml-syntax", line: 6, help: "put the whole condition in single quotes" },
    ],
    ["a tag", { "a.yaml": `${head}  a: { safe: !!str 1 }\n` }, { code: "yaml-feature" }],
    [
      "a merge key",
      { "a.yaml": `${head}  a: &a { safe: 1 }\n  b: { <<: *a }\n` },
      { code: "yaml-feature", found: "<<" },
    ],
    ["two documents", { "a.yaml": "iudex: 1\n---\niudex: 1\n" }, { code: "yaml-feature", line: 2 }],
    ["nothing where a value belongs", { "a.yaml": `${head}  a: { safe: }\n` }, { code: "null-value", line: 3 }],
    ["an infinite number", { "a.yaml": `${head}  a: { safe: .inf }\n` }, { code: "number-not-finite", found: ".inf" }],
    [
      "an unquoted id",
      {
        "a.yaml":
          "iudex: 1\ncohorts: { c: { of: id, ids: [1, 007] } }\nflags: { a: { safe: true, provided: cohort:c } }\n",
      },
      { code: "id-not-exact", line: 2, found: "007", help: 'put it in quotes: "007"' },
    ],
    [
      "a list outside",
      { "a.yaml": "iudex: 1\ncohorts: { c: { of: id, file: ../ids.txt } }\nflags: {}\n" },
      { code: "outside-folder", line: 2 },
    ],
    [
      "a share without its sign",
      { "a.yaml": `${head}  a: { safe: true, by: id, rules: [{ share: 10, give: true }] }\n` },
      { code: "wrong-type", help: "write 10%" },
    ],
    [
      "a share of nobody in particular",
      { "a.yaml": `${head}  a: { safe: true, rules: [{ share: 10%, give: true }] }\n` },
      { code: "subject-missing" },
    ],
    [
      "local time without a zone",
      { "a.yaml": "iudex: 1\nwindows: { w: { from: 2026-12-01 } }\n" },
      { code: "zone-missing", line: 2 },
    ],
    [
      "a zone that does not exist",
      { "a.yaml": "iudex: 1\nwindows: { w: { from: 2026-12-01, zone: atlantic/faroe } }\n" },
      { code: "zone-unknown", help: "did you mean Atlantic/Faroe?" },
    ],
    [
      "a circle",
      { "a.yaml": `${head}  a: { safe: true, provided: flag:b }\n  b: { safe: true, provided: flag:a }\n` },
      { code: "circle", message: expect.stringContaining("flag:a → flag:b → flag:a") as never },
    ],
    ["bytes that are no text", { "a.yaml": "iudex: 1 \ufffd" }, { code: "format-missing" }],
  ])("%s", async (_, files, expected) => {
    const problems = await problemsOf(files);
    expect(problems.find((p) => p.code === expected.code) ?? problems[0]).toMatchObject(expected);
  });

  it("names both places of a flag that is defined twice", async () => {
    const [problem] = await problemsOf({
      "a.yaml": `${head}  a: { safe: 1 }\n`,
      "b/c.json": '{"iudex":1,"flags":{"a":{"safe":1}}}',
    });
    expect(problem).toMatchObject({ code: "defined-twice", file: "b/c.json", line: 1, column: 21 });
    expect(problem?.related).toEqual([{ file: "a.yaml", line: 3, column: 3, message: "the first definition" }]);
  });

  it("does not call names unknown that a broken file may define", async () => {
    const problems = await problemsOf({
      "a.yaml": `${head}  a: { safe: true, provided: cohort:crew }\n`,
      "b.yaml": "iudex: 1\ncohorts: {{\n",
    });
    expect(problems.map((p) => p.code)).not.toContain("unknown-cohort");
  });
});

describe("hostile files are refused promptly", () => {
  const bomb = `iudex: 1\nflags:\n  a:\n    safe:\n      - &a [1, 1, 1, 1, 1, 1, 1, 1, 1]\n${"bcdefghi"
    .split("")
    .map((name, i) => `      - &${name} [${Array(9).fill(`*${"abcdefgh"[i]}`).join(", ")}]`)
    .join("\n")}\n`;
  it.each<[string, Record<string, string>, string]>([
    ["an alias bomb", { "a.yaml": bomb }, "too-many-aliases"],
    ["an alias inside itself", { "a.yaml": `${head}  a: { safe: &x [*x] }\n` }, "too-deep"],
    ["deep YAML", { "a.yaml": `${head}  a: { safe: ${"[".repeat(20_000)}${"]".repeat(20_000)} }\n` }, "too-deep"],
    [
      "deep JSON",
      { "a.json": `{"iudex":1,"flags":{"a":{"safe":${"[".repeat(100_000)}${"]".repeat(100_000)}}}}` },
      "too-deep",
    ],
    ["a huge file", { "a.yaml": `iudex: 1\n#${"x".repeat(5 * 1024 * 1024)}` }, "file-too-large"],
    ["a name of a prototype", { "a.json": '{"iudex":1,"flags":{"__proto__":{"safe":true}}}' }, "name-invalid"],
    [
      "a pattern that multiplies",
      { "a.yaml": `${head}  a: { safe: true, provided: 'x matches /((a{1,100}){1,100}){1,100}/' }\n` },
      "regex-invalid",
    ],
  ])("%s", async (_, files, code) => {
    const started = performance.now();
    expect((await problemsOf(files)).map((p) => p.code)).toContain(code);
    expect(performance.now() - started).toBeLessThan(5_000);
  });

  it("takes flags called constructor and toString like any other", async () => {
    const folder = await folderWith({ "a.yaml": `${head}  constructor: { safe: 1 }\n  toString: { safe: 2 }\n` });
    const flags = await followFlags(folder);
    expect([flags.value("constructor"), flags.value("toString"), flags.value("valueOf")]).toEqual([1, 2, undefined]);
    await flags.close();
  });
});
