// One set of files, wherever it comes from: what it says is the same, and what is wrong with it too.
import { execFileSync } from "node:child_process";
import { mkdir, readFile, rename, symlink, writeFile } from "node:fs/promises";
import { dirname, join } from "node:path";
import { followFlags } from "iudex";
import { folderShelf, publishFolder } from "iudex/fleet";
import { describe, expect, it, onTestFinished } from "vitest";
import { type FileName, fileName, requireFileName } from "../../src/files/file-name.ts";
import { type Files, filesFrom, over } from "../../src/files/files.ts";
import { filesOfCommit } from "../../src/files/from/commit.ts";
import { Disk } from "../../src/files/from/disk.ts";
import { Git } from "../../src/files/from/git.ts";
import type { Loaded } from "../../src/files/judge-content.ts";
import { movedIn, readSet, readSteadily } from "../../src/files/read.ts";
import { iudex } from "../support/command.ts";
import { folderWith, put } from "../support/folders.ts";
import { demoRepository } from "../support/repository.ts";
import { scratchFolder } from "../support/shelves.ts";

const ids = 'id,boat\nA-17,K-1\n"Quay, North",K-2\n';
const set = `iudex: 1
cohorts:
  plain: { of: id, file: lists/crew.csv }
  dotted: { of: id, file: ./lists//crew.csv, column: boat }
flags:
  a: { safe: false, provided: cohort:plain, otherwise: true }
  b: { safe: false, provided: cohort:dotted, otherwise: true }
  c: { safe: { n: 1 }, schema: { file: ./schemas/n.schema.json } }
`;
const whole = { "a.yaml": set, "lists/crew.csv": ids, "schemas/n.schema.json": '{ "type": "object" }\n' };

type Given = Readonly<Record<string, string>>;

const disk = async (files: Given): Promise<Files> => new Disk(await folderWith(files)).look();

async function committed(files: Given, links: Given = {}): Promise<Files> {
  const folder = await folderWith(files);
  for (const [name, target] of Object.entries(links)) {
    await mkdir(dirname(join(folder, name)), { recursive: true });
    await symlink(target, join(folder, name));
  }
  const git = (...words: string[]) => execFileSync("git", words, { cwd: dirname(folder) });
  git("init", "--quiet");
  git("add", "--all");
  git("-c", "user.name=Kari", "-c", "user.email=kari@ternhaven.example", "commit", "--quiet", "-m", "all");
  const repository = await Git.around(folder);
  return filesOfCommit(repository, (await repository.commit("HEAD"))!);
}

const bytes = (files: Given) =>
  Object.entries(files).map(([name, text]) => [requireFileName(name), Buffer.from(text)] as const);

const sources: readonly (readonly [string, (files: Given) => Promise<Files>])[] = [
  ["a folder on disk", disk],
  ["a commit", committed],
  ["memory", async (files) => filesFrom(bytes(files))],
  [
    "a draft on top of other files",
    async (files) =>
      over(
        await disk({ "a.yaml": "iudex: 1\n", "z.yaml": "broken: [" }),
        new Map([...bytes(files), [requireFileName("z.yaml"), undefined]]),
      ),
  ],
];

describe.each(sources)("the files of %s", (_, from) => {
  const read = async (files: Given): Promise<Loaded> => readSet(await from(files));

  it("are found however a list or schema is written", async () => {
    const { definitions, problems } = await read(whole);
    expect(problems).toEqual([]);
    const cohort = (name: string, id: string) => {
      const found = definitions!.cohorts.get(name)!;
      return found.kind === "list" && found.ids.has(id);
    };
    expect([cohort("plain", "Quay, North"), cohort("plain", "Quay"), cohort("dotted", "K-2")]).toEqual([
      true,
      false,
      true,
    ]);
    expect(definitions!.revision).toBe((await readSet(await disk(whole))).definitions!.revision);
  });

  it.each([
    ["../crew.csv", "outside-folder", "“../crew.csv” leads out of the definition folder."],
    ["/etc/crew.csv", "outside-folder", "“/etc/crew.csv” leads out of the definition folder."],
    ["C:crew.csv", "outside-folder", "“C:crew.csv” leads out of the definition folder."],
    ["lists\\crew.csv", "file-name", "“lists\\crew.csv” has a backslash."],
    ["lists/none.csv", "list-missing", "There is no list file “lists/none.csv”."],
    ["Lists/Crew.csv", "list-missing", "There is no list file “Lists/Crew.csv”."],
    ["lists", "list-kind", "“lists” is not a list file."],
  ])("name no list as %s", async (written, code, message) => {
    const { definitions, problems } = await read({
      ...whole,
      "a.yaml": set.replace("lists/crew.csv", JSON.stringify(written)),
    });
    expect(definitions).toBeUndefined();
    expect(problems).toMatchObject([{ code, message }]);
    if (written === "Lists/Crew.csv") expect(problems[0]!.help).toBe("did you mean lists/crew.csv?");
  });

  it("are no list where one only points to a large file kept elsewhere", async () => {
    const pointer = `version https://large.example/spec/v1\noid sha256:${"0".repeat(64)}\nsize 123\n`;
    const { problems } = await read({ ...whole, "lists/crew.csv": pointer });
    expect(problems.map(({ message }) => message)).toContain(
      "“lists/crew.csv” only points to a large file that is kept elsewhere.",
    );
  });

  it("parse again only what has changed", async () => {
    const first = await readSet(await from(whole));
    const second = await readSet(await from({ ...whole, "b.yaml": "iudex: 1\n" }), { before: first.content });
    expect(second.content.files.get("a.yaml")!.document).toBe(first.content.files.get("a.yaml")!.document);
    const lists = (loaded: Loaded) => [...loaded.content.lists.values()].map(({ result }) => result);
    expect(lists(second)).toEqual(lists(first));
    for (const [i, list] of lists(second).entries()) expect(list).toBe(lists(first)[i]);
  });

  it("stop being read at once when they are called off", async () => {
    const calledOff = AbortSignal.abort(new Error("never mind"));
    await expect(readSet(await from(whole), { signal: calledOff })).rejects.toThrow("never mind");
  });
});

describe.each(sources.filter(([name]) => name !== "memory" && !name.startsWith("a draft")))(
  "names in %s",
  (_, from) => {
    it("that differ only by case, or by how accents are written, are told", async () => {
      const cased = await readSet(await from({ ...whole, "A.yaml": "iudex: 1\n" }));
      expect(cased.problems).toMatchObject([{ code: "file-name", file: "a.yaml" }]);
      const accents = { "fæ-e\u0301.yaml": "iudex: 1\n", "fæ-\u00e9.yaml": "iudex: 1\n" };
      expect((await readSet(await from({ ...whole, ...accents }))).problems).toMatchObject([{ code: "file-name" }]);
    });

    it("that are reserved in another case are told", async () => {
      const { problems } = await readSet(await from({ ...whole, "Suspended.yaml": "iudex: 1\nsuspended: {}\n" }));
      expect(problems).toMatchObject([{ code: "file-name", help: "rename it to suspended.yaml" }]);
    });
  },
);

describe("links in a commit", () => {
  it("inside the folder are followed as on disk, those that lead out are told", async () => {
    const given = { "a.yaml": set, "real/crew.csv": ids, "schemas/n.schema.json": "{}\n" };
    const links = { "lists/crew.csv": "../real/crew.csv", "more.yaml": "a.yaml", deep: "real" };
    expect((await readSet(await committed(given, links))).problems).toEqual([]);
    const out = await readSet(await committed({ ...given, "lists/crew.csv": ids }, { "b.yaml": "../../secrets.yaml" }));
    expect(out.problems).toMatchObject([{ code: "outside-folder", file: "b.yaml" }]);
    const round = await readSet(await committed({ ...whole }, { "b.yaml": "c.yaml", "c.yaml": "b.yaml" }));
    expect(round.problems).toMatchObject([{ code: "file-unreadable" }, { code: "file-unreadable" }]);
    const list = await readSet(await committed({ ...given }, { "lists/crew.csv": "/etc/passwd" }));
    expect(list.problems.map(({ code }) => code)).toEqual(["outside-folder", "outside-folder"]);
  });
});

it("an edition, and the copy kept of it, say the same as the folder", async () => {
  const folder = await folderWith(whole);
  const shelf = folderShelf(join(await scratchFolder(), "shelf"), { set: "ternhaven" });
  const lastGood = join(await scratchFolder(), "kept");
  await publishFolder(shelf, { folder, by: "crew" });
  const { definitions } = await readSet(await new Disk(folder).look());
  const flags = await followFlags(shelf, { lastGood });
  expect(flags.revision).toBe(definitions!.revision);
  await flags.close();
  await rename(shelf.called, `${shelf.called}-away`);
  const copy = await followFlags(shelf, { lastGood });
  onTestFinished(() => copy.close());
  expect([copy.origin, copy.revision]).toMatchObject([{ kept: true }, definitions!.revision]);
  expect(["Quay, North", "Quay"].map((id) => copy.value("a", { id }))).toEqual([true, false]);
});

it("a list written with a dot is the same for every command, a commit and a branch included", async () => {
  const { folder, git, commit } = await demoRepository();
  await put(
    folder,
    "more.yaml",
    "iudex: 1\ncohorts: { crew-two: { of: account.id, file: ./lists/pilot-captains.csv } }\n",
  );
  commit("a list with a dot");
  for (const words of [["check"], ["diff", "HEAD"], ["diff", "HEAD~1"], ["history"]]) {
    const { code, err } = await iudex(...words, "--flags", folder);
    expect([words, code, err]).toEqual([words, 0, ""]);
  }
  const words = ["set", "cohort:crew-two", "--add-id", "Z-1", "--yes", "--commit", "--flags", folder];
  expect(await iudex(...words)).toMatchObject({ code: 0 });
  expect(git("show", "--name-only", "--format=", "HEAD").trim()).toBe("flags/lists/pilot-captains.csv");
  expect((await readFile(join(folder, "lists/pilot-captains.csv"), "utf8")).trimEnd()).toMatch(/Z-1/);
});

describe("the name of a file", () => {
  it.each([
    ["a.yaml", "a.yaml"],
    ["./a//b/./c.csv", "a/b/c.csv"],
    ["cafe\u0301.yaml", "caf\u00e9.yaml"],
  ])("%s is %s", (written, name) => {
    expect(fileName(written)).toBe(name as FileName);
  });

  it.each(["", ".", "a/", "..", "a/../b", "/a", "\\a", "C:\\a", "a\\b", "a\0b"])("%j is none", (written) => {
    expect(fileName(written)).toMatchObject({ code: expect.stringMatching(/outside-folder|file-name/) as string });
  });
});

it("a folder without files says so, whatever else is in it", async () => {
  const folder = await folderWith({ "notes.txt": "x", "README.txt": "y", "readme.txt": "z" });
  expect((await readSet(await new Disk(folder).look())).problems).toMatchObject([{ code: "folder-empty" }]);
  await writeFile(join(folder, "a.yaml"), "iudex: 1\n");
  expect((await readSet(await new Disk(folder).look())).problems).toEqual([]);
});

it("what is new without an event is found by a look: a stop, a list that was missing, one file of too many", async () => {
  const folder = await folderWith({ "a.yaml": set.replace(/^ {2}dotted.*\n|^ {2}[bc]:.*\n/gm, "") });
  const disk = new Disk(folder);
  const settled = async () => {
    const content = await readSteadily(() => disk.look());
    const again = async () => movedIn(content, await disk.look());
    expect([...(await again())]).toEqual([]);
    return again;
  };
  const before = await settled();
  await put(folder, "suspended.yaml", "iudex: 1\nsuspended: { a: {} }\n");
  expect([...(await before())]).toEqual(["suspended.yaml"]);
  const stopped = await settled();
  await put(folder, "lists/crew.csv", ids);
  expect([...(await stopped())]).toEqual(["lists/crew.csv"]);
  await put(folder, "lists.yaml", "iudex: 1\ncohorts: { odd: { of: id, file: a.yaml } }\n");
  await settled();
  for (let i = 0; i < 1_002; i++) await put(folder, `many/${i}.yaml`, "iudex: 1\n");
  await settled();
});
