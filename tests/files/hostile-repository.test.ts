// Repositories that somebody else has made: nothing that they name is run, and no question takes for ever.
import { execFileSync } from "node:child_process";
import { chmod, cp, mkdir, readdir, writeFile } from "node:fs/promises";
import { dirname, join } from "node:path";
import { historyOf } from "iudex/tools";
import { describe, expect, it } from "vitest";
import { Git, isRevision } from "../../src/files/from/git.ts";
import { iudex } from "../support/command.ts";
import { startDesk } from "../support/desk.ts";
import { put } from "../support/folders.ts";
import { demoRepository } from "../support/repository.ts";

/** A program that leaves a trace where it is run. */
async function trap(folder: string): Promise<{ readonly program: string; readonly traces: () => Promise<string[]> }> {
  const home = join(folder, "..", "trap");
  await mkdir(home, { recursive: true });
  const program = join(home, "run.sh");
  await writeFile(program, `#!/bin/sh\ntouch "${home}/trace-$$"\nexit 0\n`);
  await chmod(program, 0o755);
  return { program, traces: async () => (await readdir(home)).filter((name) => name.startsWith("trace")) };
}

const reading = [["diff", "HEAD"], ["history"], ["diff", "HEAD~1"]];

describe("what a repository names is never run for reading", () => {
  it("where the definition folder looks like a repository of its own", async () => {
    const { folder, commit } = await demoRepository();
    const { program, traces } = await trap(folder);
    const bare = join(folder, "..", "bare");
    execFileSync("git", ["init", "--quiet", "--bare", bare]);
    for (const name of ["HEAD", "objects", "refs"]) await cp(join(bare, name), join(folder, name), { recursive: true });
    await writeFile(
      join(folder, "config"),
      `[core]\n\trepositoryformatversion = 0\n\tbare = false\n\tworktree = ${folder}\n\tfsmonitor = ${program}\n\tpager = ${program}\n[gpg]\n\tprogram = ${program}\n`,
    );
    await put(folder, "refs/keep.txt", "");
    commit("a folder that looks like a repository");
    for (const words of reading) expect((await iudex(...words, "--flags", folder)).code).toBe(0);
    const desk = await startDesk({ folder });
    expect((await desk.as("Runa").get("api/history")).status).toBe(200);
    expect((await desk.as("Runa").get("api/set?by=commit:HEAD")).status).toBe(200);
    expect((await Git.around(folder)).prefix).toBe("flags/");
    expect(await traces()).toEqual([]);
  });

  it("as a verifier of signatures, a monitor of files, a pager or a way to fetch", async () => {
    const { folder, git, commit } = await demoRepository();
    const { program, traces } = await trap(folder);
    await put(folder, "more.yaml", "iudex: 1\n");
    commit("more");
    // A commit that bears a signature, so that there is something to verify.
    const signed = git("cat-file", "commit", "HEAD").replace(
      "\n\n",
      "\ngpgsig -----BEGIN PGP SIGNATURE-----\n \n x\n -----END PGP SIGNATURE-----\n\n",
    );
    const cwd = dirname(folder);
    const object = execFileSync("git", ["hash-object", "-t", "commit", "-w", "--stdin"], { cwd, input: signed });
    git("update-ref", "HEAD", object.toString().trim());
    for (const [key, value] of [
      ["log.showSignature", "true"],
      ["gpg.program", program],
      ["core.fsmonitor", program],
      ["core.pager", program],
      ["core.sshCommand", program],
      ["diff.external", program],
      ["core.alternateRefsCommand", program],
    ] as const)
      git("config", key, value);
    for (const words of reading) expect((await iudex(...words, "--flags", folder)).code).toBe(0);
    expect(await traces()).toEqual([]);
  });
});

describe("a revision", () => {
  it.each(["HEAD", "main", "v1.2", "HEAD~3", "HEAD^", "feature/näme^2~10", "0123abc"])("may be %s", (text) => {
    expect(isRevision(text)).toBe(true);
  });

  it.each([
    "HEAD^{/((x{1,200}){1,200})}",
    ":/fix",
    "HEAD@{1 year ago}",
    "main@{upstream}",
    "HEAD:flags",
    "--all",
    "a..b",
    "HEAD^{tree}",
    "",
    "a b",
    "x".repeat(300),
  ])("is not a search or other expression: %s", async (text) => {
    const { folder } = await demoRepository();
    expect(await (await Git.around(folder)).commit(text)).toBeUndefined();
    const desk = await startDesk({ folder });
    const { status } = await desk.as("Runa").get(`api/set?by=${encodeURIComponent(`commit:${text}`)}`);
    expect([400, 404]).toContain(status);
  });
});

describe("history", () => {
  it("holds whatever an author is called and a note says", async () => {
    const { folder, git } = await demoRepository();
    await put(folder, "more.yaml", "iudex: 1\nflags: { more: { safe: 1 } }\n");
    git("add", "--all");
    const author = "Kari\u001e\u0001the Captain <kari@ternhaven.example>";
    git("commit", "--quiet", "--author", author, "--message", "one\u001e\n\nauthor Nobody <x> 0 +0000\nparent x");
    const entries: string[][] = [];
    for await (const { author: by, note, changes } of historyOf(folder))
      entries.push([by, note, changes[0]?.name ?? ""]);
    expect(entries[0]).toEqual([
      "Kari\u001e\u0001the Captain",
      "one\u001e\n\nauthor Nobody <x> 0 +0000\nparent x",
      "more",
    ]);
    expect(await iudex("history", "--flags", folder)).toMatchObject({ code: 0 });
  });

  it("is worked out once for all who ask, and no further when they have left", async () => {
    const { folder, commit } = await demoRepository();
    for (let i = 1; i <= 5; i++) {
      await put(folder, "more.yaml", `iudex: 1\nflags: { more: { safe: ${i} } }\n`);
      commit(`more ${i}`);
    }
    const { Git: git } = await import("../../src/files/index.ts");
    let asked = 0;
    const contents = git.prototype.contents;
    git.prototype.contents = function (...words) {
      asked++;
      return contents.apply(this, words);
    };
    try {
      const { historyOf: history } = await import("../../src/study/history.ts");
      const all = async (signal?: AbortSignal) => {
        const notes: string[] = [];
        for await (const { note } of history(folder, { signal })) notes.push(note);
        return notes;
      };
      const leaving = new AbortController();
      const first = history(folder, { signal: leaving.signal });
      expect((await first.next()).value).toMatchObject({ note: "more 5" });
      leaving.abort(new Error("the asker has left"));
      await expect(first.next()).rejects.toThrow("the asker has left");
      const before = asked;
      const [one, other] = await Promise.all([all(), all()]);
      expect(one).toEqual(["more 5", "more 4", "more 3", "more 2", "more 1", "The first flags"]);
      expect(other).toEqual(one);
      const once = asked - before;
      await all();
      expect([asked - before, once]).toEqual([once, once]);
      expect(once).toBeLessThanOrEqual(8);
    } finally {
      git.prototype.contents = contents;
    }
  });
});
