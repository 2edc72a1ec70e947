import { spawn } from "node:child_process";
import { chmod, readdir, readFile, stat } from "node:fs/promises";
import { join } from "node:path";
import { loadFolder } from "iudex/tools";
import { describe, expect, it } from "vitest";
import { binary, iudex } from "../support/command.ts";
import { demoPeople, folderWith, put, replace } from "../support/folders.ts";
import { demoRepository } from "../support/repository.ts";

const passengers = join(demoPeople, "passengers.csv");

function text(folder: string, file: string): Promise<string> {
  return readFile(join(folder, file), "utf8");
}

/** The lines that one text has and the other lacks. */
function changedLines(before: string, after: string): { gone: string[]; come: string[] } {
  const old = before.split("\n");
  const now = after.split("\n");
  return { gone: old.filter((line) => !now.includes(line)), come: now.filter((line) => !old.includes(line)) };
}

describe("iudex suspend and reinstate", () => {
  it("stop a flag where it is asked for, say whom it reaches, and start it again", async () => {
    const { folder } = await demoRepository();
    const words = ["--env", "production", "--yes", "--flags", folder];
    const stopped = await iudex(
      "suspend",
      "zone-fares",
      ...words,
      "--who",
      "duty officer",
      "--note",
      "off by one: zone 3",
      "--people",
      passengers,
      "--at",
      "2026-12-05T12:00Z",
    );
    expect(stopped.code).toBe(0);
    expect(stopped.out).toContain("zone-fares  suspended in production: off by one: zone 3");
    expect(stopped.out).toMatch(/67 of 240 people.*get another value/);
    expect(await text(folder, "suspended.yaml")).toBe(
      'iudex: 1\nsuspended:\n  zone-fares: { since: 2026-12-05T12:00Z, who: duty officer, note: "off by one: zone 3", in: [production] }\n',
    );
    expect((await iudex("suspend", "zone-fares", ...words)).out).toBe(
      "zone-fares is suspended in production already.\n",
    );
    await iudex("suspend", "zone-fares", "--env", "staging", "--yes", "--flags", folder);
    await iudex("suspend", "storm-mode", "--yes", "--flags", folder);
    const { suspensions } = await loadFolder(folder);
    expect(suspensions?.get("zone-fares")?.stops).toMatchObject([
      { in: ["production"], note: "off by one: zone 3", who: "duty officer" },
      { in: ["staging"], note: undefined },
    ]);
    expect(suspensions?.get("storm-mode")?.stops).toMatchObject([{ in: undefined, except: undefined }]);
    await iudex("reinstate", "zone-fares", ...words);
    expect((await loadFolder(folder)).suspensions?.get("zone-fares")?.stops).toMatchObject([{ in: ["staging"] }]);
    await iudex("reinstate", "zone-fares", "--yes", "--flags", folder);
    await iudex("reinstate", "storm-mode", "--yes", "--flags", folder);
    expect(await text(folder, "suspended.yaml")).toBe("iudex: 1\nsuspended: {}\n");
  });

  it("keep the comments of the file", async () => {
    const { folder } = await demoRepository();
    const before =
      "# whoever stops a flag calls the duty desk\niudex: 1\nsuspended:\n  # since the gale\n  storm-mode: { note: gale }   # still\n";
    await put(folder, "suspended.yaml", before);
    await iudex("suspend", "zone-fares", "--yes", "--flags", folder);
    expect(changedLines(before, await text(folder, "suspended.yaml"))).toEqual({
      gone: [],
      come: [expect.stringMatching(/^ {2}zone-fares: \{ since: /)],
    });
    await iudex("reinstate", "zone-fares", "--yes", "--flags", folder);
    expect(await text(folder, "suspended.yaml")).toBe(before);
  });

  it("work while other files are broken", async () => {
    const { folder } = await demoRepository();
    await put(folder, "fares.yaml", "iudex: 1\nflags: [");
    const { code, out } = await iudex("suspend", "zone-fares", "--yes", "--flags", folder);
    expect(code).toBe(0);
    expect(out).toContain("suspended.yaml takes effect all the same");
    expect((await loadFolder(folder)).suspensions?.has("zone-fares")).toBe(true);
    expect((await iudex("set", "storm-mode", "--otherwise", "true", "--yes", "--flags", folder)).err).toContain(
      "mend them first",
    );
  });

  it.each([
    ["cut off", "iudex: 1\nsuspended: { storm-mode", "line 2: This is not valid YAML"],
    ["emptySet", "", "line 1: Expected an object with “iudex” and “suspended”, found nothing"],
    ["something else", "- storm-mode\n", "line 1: Expected an object with “iudex” and “suspended”, found a list"],
  ])("do not say that a flag runs where their file is %s, and nobody can tell", async (_, written, why) => {
    const { folder } = await demoRepository();
    await put(folder, "suspended.yaml", written);
    const { code, err } = await iudex("reinstate", "storm-mode", "--yes", "--flags", folder);
    expect([code, err]).toEqual([2, expect.stringContaining(why)]);
    expect(err).toContain("running programs go on with what was");
    expect(await text(folder, "suspended.yaml")).toBe(written);
    const { out } = await iudex("check", "--json", "--at", "2026-12-02T12:00Z", "--flags", folder);
    const { problems } = JSON.parse(out) as { problems: { file: string }[] };
    expect(problems.map(({ file }) => file)).toEqual(["suspended.yaml"]);
    // Nor does an explanation.
    const told = await iudex("why", "storm-mode", "--as", "account.id=A-17", "--env", "production", "--flags", folder);
    expect(told).toMatchObject({ code: 0, err: expect.stringContaining(`${why}`) as string });
    expect(told.err).toContain("Here nothing is suspended; running programs go on with what was.");
  });

  it("know the flags and environments", async () => {
    const { folder } = await demoRepository();
    for (const [words, message] of [
      [["suspend", "stormmode"], "did you mean storm-mode?"],
      [["suspend", "storm-mode", "--env", "prodution"], "did you mean production?"],
      [["reinstate", "stormmode"], "did you mean storm-mode?"],
      [["reinstate", "storm-mode", "--note", "over"], "add --commit"],
    ] as const) {
      const { code, err } = await iudex(...words, "--yes", "--flags", folder);
      expect([code, err]).toEqual([2, expect.stringContaining(message)]);
    }
    expect((await iudex("reinstate", "storm-mode", "--yes", "--flags", folder)).out).toBe(
      "storm-mode is not suspended.\n",
    );
    expect(await readdir(folder)).not.toContain("suspended.yaml");
  });
});

describe("iudex set", () => {
  it("writes nothing, and asks nobody, where the files say so already", async () => {
    const { folder } = await demoRepository();
    const { mtimeMs } = await stat(join(folder, "operations.yaml"));
    const words = ["storm-mode", "--safe", "false", "--flags", folder];
    expect(await iudex("set", ...words)).toEqual({ code: 0, out: "The files say so already.\n", err: "" });
    expect(JSON.parse((await iudex("set", ...words, "--yes", "--json")).out)).toMatchObject({ written: false });
    expect((await stat(join(folder, "operations.yaml"))).mtimeMs).toBe(mtimeMs);
  });

  it.each<[string, string[], string, string, string[], string[]]>([
    [
      "a share",
      ["zone-fares", "--rule", "2", "--share", "15%"],
      "fares.yaml",
      "share raised from 10% to 15%",
      ["        share: 10%"],
      ["        share: 15%"],
    ],
    [
      "a share taken out",
      ["zone-fares", "--rule", "frequent travellers, one in ten", "--share", "none"],
      "fares.yaml",
      "share 10% taken out",
      ["        share: 10%"],
      [],
    ],
    [
      "a new share, after the condition",
      ["zone-fares", "--rule", "1", "--share", "99.5%"],
      "fares.yaml",
      "share 99.5% added",
      [],
      ["        share: 99.5%"],
    ],
    [
      "what else there is",
      ["seat-map", "--otherwise", "deck"],
      "crossing.yaml",
      'otherwise "deck" added',
      [],
      ["    otherwise: deck"],
    ],
    [
      "a value in one environment",
      ["duty-desk", "--env", "local", "--otherwise", "true"],
      "operations.yaml",
      "in local: otherwise true added",
      [],
      ["    environments: { local: { otherwise: true } }"],
    ],
  ])("sets %s and touches nothing else", async (_, words, file, meaning, gone, come) => {
    const { folder } = await demoRepository();
    if (file === "fares.yaml") await put(folder, file, withoutExamples(await text(folder, file)));
    if (file === "operations.yaml") await put(folder, file, withoutExamples(await text(folder, file)));
    const before = await text(folder, file);
    const { code, out, err } = await iudex("set", ...words, "--yes", "--flags", folder);
    expect([code, err]).toEqual([0, ""]);
    expect(out.replace(/\s+/g, " ")).toContain(meaning);
    expect(changedLines(before, await text(folder, file))).toEqual({ gone, come });
  });

  it("moves a rule with its comments", async () => {
    const { folder } = await demoRepository();
    const before = await text(folder, "fares.yaml");
    await put(
      folder,
      "fares.yaml",
      before.replace("      - name: frequent", "      # since spring\n      - name: frequent"),
    );
    const { out } = await iudex("set", "zone-fares", "--rule", "2", "--place", "1", "--yes", "--flags", folder);
    expect(out).toContain("moved from place");
    expect(await text(folder, "fares.yaml")).toContain(
      "    rules:\n      # since spring\n      - name: frequent travellers, one in ten\n        when: trips > 100\n        share: 10%\n        give: true\n      - name: our own people first\n",
    );
  });

  it("changes a rule in one environment by an adjustment, and leaves the rest of it to the flag", async () => {
    const { folder } = await demoRepository();
    await put(folder, "fares.yaml", withoutExamples(await text(folder, "fares.yaml")));
    const { out } = await iudex(
      "set",
      "hold-minutes",
      "--rule",
      "1",
      "--give",
      "90",
      "--env",
      "production",
      "--yes",
      "--flags",
      folder,
    );
    expect(out).toContain("in production: “freight plans ahead” gives 90 instead of 120");
    expect(await text(folder, "fares.yaml")).toContain(
      "environments: { production: { adjust: { freight plans ahead: { give: 90 } } } }",
    );
    const ask = async (env: string) =>
      (await iudex("why", "hold-minutes", "--env", env, "--as", "account.plan=freight", "--flags", folder)).out;
    expect(await ask("production")).toContain("hold-minutes is 90");
    expect(await ask("staging")).toContain("hold-minutes is 120");
    // What is edited in the flag's own rules later still arrives.
    await replace(join(folder, "fares.yaml"), 'account.plan == "freight"', 'account.plan in ["freight", "vehicle"]');
    const vehicle = ["--env", "production", "--as", "account.plan=vehicle", "--flags", folder];
    expect((await iudex("why", "hold-minutes", ...vehicle)).out).toContain("hold-minutes is 90");
  });

  it("copies an environment's settings", async () => {
    const { folder } = await demoRepository();
    await put(folder, "fares.yaml", withoutExamples(await text(folder, "fares.yaml")));
    const { out } = await iudex(
      "set",
      "zone-fares",
      "--env",
      "production",
      "--like",
      "staging",
      "--yes",
      "--flags",
      folder,
    );
    expect(out).toContain("in production: otherwise true added");
    await iudex("set", "zone-fares", "--env", "production", "--like", "local", "--yes", "--flags", folder);
    expect((await loadFolder(folder)).definitions?.flags.get("zone-fares")?.source.environments).toEqual({
      staging: { otherwise: true },
    });
  });

  it("edits JSON files too", async () => {
    const json = `{\n    "iudex": 1,\n    "flags": {\n        "a": { "safe": 1, "by": "id", "rules": [{ "share": "5%", "give": 2 }] }\n    }\n}\n`;
    const folder = await folderWith({ "a.json": json });
    const { code } = await iudex("set", "a", "--share", "6%", "--yes", "--flags", folder);
    expect(code).toBe(0);
    expect(await text(folder, "a.json")).toBe(json.replace("5%", "6%"));
  });

  it("writes nothing that check would refuse, and shows why", async () => {
    const { folder, git } = await demoRepository();
    const { code, err } = await iudex(
      "set",
      "zone-fares",
      "--rule",
      "3",
      "--share",
      "100%",
      "--yes",
      "--flags",
      folder,
    );
    expect(code).toBe(1);
    expect(err).toMatch(/fares\.yaml:\d+:\d+ {2}error {2}example-fails/);
    expect(err).toContain("Nothing was written");
    expect(git("status", "--short")).toBe("");
  });

  it("writes nothing without a yes, where nobody can be asked", async () => {
    const { folder, git } = await demoRepository();
    const { code, out, err } = await iudex("set", "seat-map", "--otherwise", "deck", "--flags", folder);
    expect(code).toBe(2);
    expect(out).toContain("~ seat-map");
    expect(err).toContain("add --yes");
    expect(git("status", "--short")).toBe("");
  });

  it("asks on a terminal, and takes no for an answer", async () => {
    const { folder, git } = await demoRepository();
    const words = ["set", "seat-map", "--otherwise", "deck", "--flags", folder];
    expect(await onTerminal(words, "n")).toMatch(/Write this\? \[y\/N\][\s\S]*Nothing was written/);
    expect(git("status", "--short")).toBe("");
    expect(await onTerminal(words, "y")).toContain("Written to");
    expect(git("status", "--short")).toContain("crossing.yaml");
  });

  it("records the note in the commit, and commits nothing else", async () => {
    const { folder, git } = await demoRepository();
    await put(folder, "people.yaml", `${await text(folder, "people.yaml")}# not yet\n`);
    git("add", "--all");
    const { out } = await iudex(
      "set",
      "seat-map",
      "--otherwise",
      "deck",
      "--yes",
      "--commit",
      "--note",
      "The deck is liked",
      "--flags",
      folder,
    );
    expect(out).toMatch(/Written to .*crossing\.yaml, commit [0-9a-f]{10}\./);
    expect(git("log", "-1", "--format=%B").trim()).toBe("The deck is liked");
    expect(git("show", "--stat", "--format=").trim()).toMatch(/^flags\/crossing\.yaml .*\n/);
    expect(git("status", "--short").trim()).toBe("M  flags/people.yaml");
  });

  it("writes nothing where there is no repository to commit to, and says what was written where git will not have it", async () => {
    const alone = await folderWith({ "a.yaml": "iudex: 1\nflags: { a: { safe: 1 } }\n" });
    const words = ["set", "a", "--safe", "2", "--yes", "--commit", "--flags"];
    const nowhere = await iudex(...words, alone);
    expect([nowhere.code, nowhere.err]).toEqual([2, expect.stringContaining("lies in no git repository")]);
    expect(await text(alone, "a.yaml")).toContain("safe: 1");
    const { folder, git } = await demoRepository();
    await put(folder, "../.git/hooks/pre-commit", "#!/bin/sh\necho the office is closed >&2\nexit 1\n");
    await chmod(join(folder, "../.git/hooks/pre-commit"), 0o755);
    const refused = await iudex("set", "seat-map", "--otherwise", "deck", "--yes", "--commit", "--flags", folder);
    expect([refused.code, refused.err]).toEqual([
      2,
      expect.stringMatching(/crossing\.yaml is written, but not committed: .*the office is closed/),
    ]);
    expect(git("diff", "HEAD", "--name-only").trim()).toBe("flags/crossing.yaml");
  });

  it.each([
    [["set", "zone-fares", "--share", "5%"], "say which one is meant"],
    [["set", "zone-fares", "--rule", "4", "--share", "5%"], "write a number from 1 to 3"],
    [["set", "zone-fares", "--rule", "2", "--share", "15"], "write 15%"],
    [["set", "zone-fares", "--rule", "1", "--give", "maybe"], "write true or false"],
    [["set", "seat-map", "--otherwise", "dek"], "did you mean deck?"],
    [["set", "zone-fares", "--rule", "1", "--place", "9"], "write 1 to 3"],
    [["set", "zone-fares"], "There is nothing to set."],
    [["set", "zone-fares", "--safe", "true", "--env", "production"], "the same in every environment"],
    [["set", "zone-fares", "--like", "staging"], "say to which with --env"],
    [["set", "zone-fares", "--rule", "1", "--give", "true", "--note", "x"], "add --commit"],
  ])("%j is wrong use", async (words, message) => {
    const { folder } = await demoRepository();
    const { code, err } = await iudex(...words, "--yes", "--flags", folder);
    expect([code, err]).toEqual([2, expect.stringContaining(message)]);
  });

  it("loses nothing when several write at once", async () => {
    const names = Array.from({ length: 8 }, (_, i) => `flag-${i}`);
    const flags = names.map((name) => `  ${name}: { safe: 0 } # ${name}\n`).join("");
    const folder = await folderWith({ "a.yaml": `iudex: 1\nflags:\n${flags}` });
    const both = names.flatMap((name, i) => [
      iudex("set", name, "--safe", String(i + 1), "--yes", "--flags", folder),
      iudex("suspend", name, "--yes", "--flags", folder),
    ]);
    expect((await Promise.all(both)).map(({ code, err }) => [code, err])).toEqual(both.map(() => [0, ""]));
    const { definitions } = await loadFolder(folder);
    expect(names.map((name) => definitions?.flags.get(name)?.source.safe)).toEqual(names.map((_, i) => i + 1));
    expect([...definitions!.suspensions.keys()].sort()).toEqual(names);
    expect((await readdir(folder)).sort()).toEqual(["a.yaml", "suspended.yaml"]);
    expect(await text(folder, "a.yaml")).toContain("flag-3: { safe: 4 } # flag-3");
  }, 120_000);
});

/** Runs a command with a terminal of its own (by Debian's `script`), and types an answer. */
/** Gives what the terminal showed, also where the command never ended. Typed again where nothing seems to have heard. */
function onTerminal(words: readonly string[], answer: string): Promise<string> {
  return new Promise((resolve) => {
    const command = [process.execPath, binary, ...words].map((word) => `'${word}'`).join(" ");
    // In a session of its own: in the background of another terminal it would be stopped.
    const child = spawn("script", ["--quiet", "--return", "--command", command, "/dev/null"], { detached: true });
    let out = "";
    let typing: NodeJS.Timeout | undefined;
    const type = () => void (child.stdin.writable && child.stdin.write(`${answer}\n`));
    const patience = setTimeout(() => child.kill(), 60_000);
    child.stdin.on("error", () => {});
    child.stdout.on("data", (chunk: Buffer) => {
      out += chunk;
      if (typing !== undefined || !out.includes("[y/N]")) return;
      type();
      typing = setInterval(type, 3_000);
    });
    child.on("close", () => {
      clearInterval(typing);
      clearTimeout(patience);
      resolve(out);
    });
  });
}

/** Examples would rightly refuse some of these changes. */
function withoutExamples(yaml: string): string {
  return yaml.replace(/ {4}for-instance:\n(?: {6}.*\n)+/g, "");
}
