import { mkdir, symlink, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { FlagsError, followFlags } from "iudex";
import { describe, expect, it } from "vitest";
import { folderWith, put } from "../support/folders.ts";

const set = (file: string, column = "") =>
  `iudex: 1\ncohorts: { c: { of: id, file: ${file}${column ? `, column: ${column}` : ""} } }\nflags: { a: { safe: false, provided: cohort:c, otherwise: true } }\n`;

async function holds(file: string, content: string | Uint8Array, ids: unknown[], column = ""): Promise<boolean[]> {
  const folder = await folderWith({ "a.yaml": set(file, column) });
  await put(folder, file, "");
  await writeFile(join(folder, file), content);
  const flags = await followFlags(folder, { watch: false });
  return ids.map((id) => flags.value("a", { id }) === true);
}

async function problemOf(files: Record<string, string>, prepare: (folder: string) => Promise<void> = async () => {}) {
  const folder = await folderWith(files);
  await prepare(folder);
  const error = await followFlags(folder, { watch: false }).catch((e: unknown) => e);
  if (!(error instanceof FlagsError)) throw new Error("the folder was accepted");
  return error.problems[0]!;
}

describe("list files", () => {
  it("in text have an id a line, whatever ends the lines and stands around", async () => {
    expect(await holds("ids.txt", "\ufeffA-1\r\n  A-2  \n\n\r\nA-3", ["A-1", "A-2", "A-3", "", " A-2"])).toEqual([
      true,
      true,
      true,
      false,
      false,
    ]);
  });

  it("in CSV have a header; the first column counts unless one is named", async () => {
    const csv = '\ufeffid,ship\r\nC-1,Sandpiper\r\n\r\n "C-2" ,"Little, Auk"\r\nC-3\r\n';
    expect(await holds("people.csv", csv, ["C-1", "C-2", "C-3", "id", "Sandpiper"])).toEqual([
      true,
      true,
      true,
      false,
      false,
    ]);
    expect(await holds("people.csv", csv, ["Sandpiper", "Little, Auk", "C-1", ""], "ship")).toEqual([
      true,
      true,
      false,
      false,
    ]);
  });

  it("compare as text with numbers and big integers", async () => {
    expect(await holds("ids.txt", "17\n9007199254740993\n007\n", [17, "17", 9007199254740993n, 7, "007"])).toEqual([
      true,
      true,
      true,
      false,
      true,
    ]);
  });

  it("lie in folders below, and are read through links that stay inside", async () => {
    const folder = await folderWith({ "a.yaml": set("lists/now.txt"), "versions/one.txt": "A-1\n" });
    await mkdir(join(folder, "lists"));
    await symlink("../versions/one.txt", join(folder, "lists/now.txt"));
    const flags = await followFlags(folder, { watch: false });
    expect(flags.value("a", { id: "A-1" })).toBe(true);
  });

  it.each<[string, string, string, object]>([
    [
      "that does not exist",
      set("gone.csv"),
      "",
      { code: "list-missing", message: "There is no list file “gone.csv”.", line: 2 },
    ],
    ["of another kind", set("ids.json"), "", { code: "list-kind", expected: "a .csv or .txt file" }],
    ["at an absolute path", set("/etc/ids.txt"), "", { code: "outside-folder" }],
    ["above the folder", set("../ids.txt"), "", { code: "outside-folder" }],
    [
      "without the column",
      set("people.csv", "shp"),
      "id,ship\nC-1,Tern\n",
      { code: "list-column", help: "did you mean ship?", expected: "one of id or ship" },
    ],
    ["that is no CSV", set("people.csv"), 'id\n"open\n', { code: "list-syntax" }],
  ])("%s", async (_, yaml, csv, expected) => {
    expect(await problemOf({ "a.yaml": yaml, ...(csv ? { "people.csv": csv } : {}) })).toMatchObject(expected);
  });

  it("that a link takes out of the folder", async () => {
    const outside = await folderWith({ "secret.txt": "A-1\n" });
    const problem = await problemOf({ "a.yaml": set("ids.txt") }, (folder) =>
      symlink(join(outside, "secret.txt"), join(folder, "ids.txt")),
    );
    expect(problem).toMatchObject({ code: "outside-folder" });
  });

  it("that is not a text", async () => {
    const problem = await problemOf({ "a.yaml": set("ids.txt") }, (folder) =>
      writeFile(join(folder, "ids.txt"), new Uint8Array([65, 255, 254])),
    );
    expect(problem).toMatchObject({ code: "list-missing", message: "This file is not UTF-8 text." });
  });
});

describe("the revision", () => {
  const revisionOf = async (files: Record<string, string>) => {
    const flags = await followFlags(await folderWith(files), { watch: false });
    return flags.revision;
  };
  const base = {
    "a.yaml":
      'iudex: 1\ndefaults: { by: id }\nflags:\n  a: { safe: 1, rules: [{ when: x > 1, share: 10%, give: 2 }] }\n  b: { safe: "t" }\n',
  };

  it.each<[string, Record<string, string>]>([
    ["comments and layout", { "a.yaml": `# hello\n${base["a.yaml"]}\n\n` }],
    [
      "the order of keys",
      {
        "a.yaml":
          'flags:\n  b: { safe: "t" }\n  a: { rules: [{ when: x > 1, give: 2, share: 10% }], safe: 1 }\ndefaults: { by: id }\niudex: 1\n',
      },
    ],
    [
      "JSON for YAML",
      {
        "z.json":
          '{"iudex":1,"defaults":{"by":"id"},"flags":{"a":{"safe":1,"rules":[{"when":"x > 1","share":"10%","give":2}]},"b":{"safe":"t"}}}',
      },
    ],
    [
      "other files",
      {
        "a.yaml": base["a.yaml"].split("  b:")[0]!,
        "b/c.yaml": 'iudex: 1\ndefaults: { by: id }\nflags: { b: { safe: "t" } }\n',
      },
    ],
  ])("is not changed by %s", async (_, files) => {
    expect(await revisionOf(files)).toBe(await revisionOf(base));
  });

  it.each<[string, string, string]>([
    ["a value", "give: 2", "give: 3"],
    ["a condition", "x > 1", "x > 2"],
    ["a subject", "by: id", "by: other"],
    ["an owner", "safe: 1,", "safe: 1, owner: me,"],
  ])("is changed by %s", async (_, from, to) => {
    expect(await revisionOf({ "a.yaml": base["a.yaml"].replace(from, to) })).not.toBe(await revisionOf(base));
  });

  it("sees a list as its set of ids, and suspensions too", async () => {
    const files = { "a.yaml": set("ids.txt") };
    const one = await revisionOf({ ...files, "ids.txt": "A\nB\n" });
    expect(await revisionOf({ ...files, "ids.txt": "B\r\n\nA\nA\n" })).toBe(one);
    expect(await revisionOf({ ...files, "ids.txt": "A\n" })).not.toBe(one);
    expect(
      await revisionOf({ ...files, "ids.txt": "A\nB\n", "suspended.yaml": "iudex: 1\nsuspended: { a: {} }\n" }),
    ).not.toBe(one);
  });
});

describe("the folder", () => {
  it("passes over hidden names, backups and other endings, and reads a file once", async () => {
    const flag = (name: string) => `iudex: 1\nflags: { ${name}: { safe: 1 } }\n`;
    const folder = await folderWith({
      "a.yaml": flag("a"),
      "b.yml": flag("b"),
      "c/d.json": '{"iudex":1,"flags":{"d":{"safe":1}}}',
      ".e.yaml": flag("e"),
      "f.yaml~": flag("f"),
      "g.txt": flag("g"),
      ".git/h.yaml": flag("h"),
    });
    await symlink("a.yaml", join(folder, "z.yaml"));
    await symlink("c", join(folder, "y"));
    const flags = await followFlags(folder, { watch: false });
    expect(flags.names).toEqual(["a", "b", "d"]);
  });
});
