import { readFile, rm } from "node:fs/promises";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { iudex } from "../support/command.ts";
import { demoFolder, demoPeople, folderWith, put, replace } from "../support/folders.ts";
import { demoRepository } from "../support/repository.ts";

const passengers = join(demoPeople, "passengers.csv");

describe("iudex diff", () => {
  it("tells what a change means from git's last commit to the folder as it is", async () => {
    const { folder } = await demoRepository();
    await replace(join(folder, "fares.yaml"), "share: 10%", "share: 25%");
    await replace(join(folder, "fares.yaml"), "trips > 100", "trips > 80");
    await replace(join(folder, "crossing.yaml"), "app.version >= v4.2", "app.version >= v4.2 and not contractor");
    await replace(join(folder, "people.yaml"), "ids: [A-1001, A-1002]", "ids: [A-1001, A-1002, A-1003]");
    const { code, out } = await iudex("diff", "--flags", folder);
    expect(code).toBe(0);
    expect(out.replace(/\s+/g, " ")).toContain(
      'rule “frequent travellers, one in ten”: when "trips > 100" → "trips > 80", which widens it, share raised from 10% to 25%',
    );
    expect(out.replace(/\s+/g, " ")).toContain('→ "app.version >= v4.2 and not contractor", which narrows it');
    expect(out).toContain("~ cohort testers  2 → 3 ids");
  });

  it("takes revisions, ranges, folders and single files", async () => {
    const { folder, commit } = await demoRepository();
    await replace(join(folder, "operations.yaml"), "safe: false", "safe: true");
    commit("Storm");
    for (const words of [["HEAD~1", "HEAD"], ["HEAD~1..HEAD"], ["HEAD~1"], [demoFolder, folder], [demoFolder]]) {
      const { code, out } = await iudex("diff", ...words, "--flags", folder);
      expect([code, out], words.join(" ")).toEqual([0, expect.stringContaining("~ storm-mode  safe false → true")]);
    }
    const files = [join(demoFolder, "operations.yaml"), join(folder, "operations.yaml")] as const;
    expect((await iudex("diff", ...files)).out).toContain("~ storm-mode  safe false → true");
    expect((await iudex("diff", "HEAD", "--flags", folder)).out).toContain(
      "nothing changes in what the definitions mean",
    );
    const { code, err } = await iudex("diff", "no-such-branch", "--flags", folder);
    expect([code, err]).toEqual([
      2,
      expect.stringContaining("“no-such-branch” is not a folder, a file or a revision."),
    ]);
  });

  it("counts and names the people who get another value, and by what", async () => {
    const { folder } = await demoRepository();
    await replace(join(folder, "fares.yaml"), "share: 10%", "share: 60%");
    const words = ["--people", passengers, "--env", "production", "--at", "2026-12-02T10:00Z", "--flags", folder];
    const { reach } = JSON.parse((await iudex("diff", ...words, "--json")).out) as {
      reach: {
        people: number;
        reached: number;
        flags: { flag: string; moves: { people: number; who: string[]; to: object }[] }[];
      };
    };
    expect(reach.people).toBe(240);
    const [flag] = reach.flags;
    expect(flag?.flag).toBe("zone-fares");
    expect(flag?.moves.reduce((sum, move) => sum + move.people, 0)).toBe(reach.reached);
    expect(flag?.moves[0]).toMatchObject({
      from: { value: false, cause: "otherwise" },
      to: { value: true, cause: "rule", rule: 2, ruleName: "frequent travellers, one in ten" },
    });
    // Each one named does get another value, asked one by one.
    for (const id of flag!.moves[0]!.who) {
      const row = (await readFile(passengers, "utf8")).split("\n").find((line) => line.startsWith(`${id},`))!;
      const [, , , trips] = row.split(",");
      const as = ["--as", `account.id=${id}`, `trips=${trips}`, "--env", "production", "--at", "2026-12-02T10:00Z"];
      const before = JSON.parse(
        (await iudex("why", "zone-fares", ...as, "--json", "--flags", demoFolder)).out,
      ) as object;
      const after = JSON.parse((await iudex("why", "zone-fares", ...as, "--json", "--flags", folder)).out) as object;
      expect([before, after]).toMatchObject([{ value: false }, { value: true }]);
    }
    const { out } = await iudex("diff", ...words);
    expect(out).toContain(`${reach.reached} of 240 people`);
    expect(out).toContain("now by rule 2 “frequent travellers, one in ten”, before by otherwise");
    expect(out.split("\n").filter((line) => line.length > 100)).toEqual([]);
  });

  it("knows a renamed flag, and says which salt keeps its people", async () => {
    const { folder } = await demoRepository();
    await replace(join(folder, "crossing.yaml"), "  seat-map:", "  seat-plan:");
    const { out } = await iudex("diff", "--flags", folder);
    expect(out).toContain("renamed from seat-map");
    expect(out.replace(/\s+/g, " ")).toContain("write “salt: seat-map” to keep them");
    await replace(join(folder, "crossing.yaml"), "  seat-plan:\n", "  seat-plan:\n    salt: seat-map\n");
    const words = ["--people", passengers, "--env", "production", "--flags", folder];
    const kept = (await iudex("diff", ...words)).out;
    expect(kept).not.toContain("to keep them");
    expect(kept).toContain("0 of 240 people");
  });

  it("shows the problems of a side that cannot be used", async () => {
    const { folder } = await demoRepository();
    await put(folder, "broken.yaml", "iudex: 1\nflags: { a: { safe: } }\n");
    const { code, err } = await iudex("diff", "--flags", folder);
    expect(code).toBe(1);
    expect(err).toContain("broken.yaml:2:");
  });
});

describe("iudex history", () => {
  it("tells earlier changes by meaning, with date, author and note, under earlier names as well", async () => {
    const { folder, commit } = await demoRepository();
    await replace(join(folder, "operations.yaml"), "    safe: false\n\n  duty-desk", "    safe: true\n\n  duty-desk");
    commit("The wind turns\n\nSeen from the pier.");
    await put(folder, "notes.yaml", "iudex: 1\n# nothing yet\n");
    commit("A file that means nothing");
    await replace(join(folder, "operations.yaml"), "  storm-mode:", "  harbour-closed:");
    await replace(join(folder, "operations.yaml"), "flag:storm-mode", "flag:harbour-closed");
    commit("A better name");
    const { out } = await iudex("history", "harbour-closed", "--json", "--flags", folder);
    const { entries } = JSON.parse(out) as { entries: { note: string; author: string; changes: object[] }[] };
    expect(entries.map(({ note, author, changes }) => [note, author, changes])).toMatchObject([
      ["A better name", "Duty Officer", [{ kind: "renamed", from: "storm-mode" }]],
      ["The wind turns\n\nSeen from the pier.", "Duty Officer", [{ words: ["safe false → true"] }]],
      ["The first flags", "Duty Officer", [{ kind: "added" }]],
    ]);
    const text = (await iudex("history", "--most", "2", "--flags", folder)).out;
    expect(text).toContain("A better name");
    expect(text).not.toContain("The first flags");
    expect(text).not.toContain("means nothing");
  });

  it("goes on past a commit that could not be used, and needs a repository", async () => {
    const { folder, commit } = await demoRepository();
    await put(folder, "broken.yaml", "iudex: 1\nflags: [\n");
    commit("Broken");
    await rm(join(folder, "broken.yaml"));
    commit("Mended");
    const { out } = await iudex("history", "--flags", folder);
    expect(out).toContain("could not be used");
    expect(out).toContain("The first flags");
    const { code, err } = await iudex("history", "--flags", await folderWith({}));
    expect([code, err]).toEqual([2, expect.stringContaining("lies in no git repository")]);
  });

  it("says of a flag that never was that there is none, and which may be meant", async () => {
    const { folder } = await demoRepository();
    const { code, err } = await iudex("history", "storm-mod", "--flags", folder);
    expect([code, err]).toEqual([2, "There is no flag “storm-mod”.\ndid you mean storm-mode?\n"]);
    expect((await iudex("history", "door-by-rq", "--flags", folder)).err).toContain("there are berth-view, check-in");
  });
});

it("never lets control characters of words and files reach the terminal in an error", async () => {
  const steering = "\u001b[2J\u202e";
  const context = await folderWith({ "as.json": `{"a${steering}": {"b": 1}` });
  const odd = await folderWith({
    "a.yaml": `iudex: 1\nflags: { a: { safe: 1, rules: [{ name: ${JSON.stringify(steering)} }] } }\n`,
  });
  for (const words of [
    ["why", "zone-fares", "--env", steering],
    ["why", `cohort:${steering}`, "--env", "production"],
    ["why", "zone-fares", "--env", "production", "--as", join(context, "as.json")],
    ["set", steering, "--give", "1"],
    ["census", "zone-fares", "--env", "production", "--people", passengers, "--by", steering],
    ["diff", steering],
    ["list", steering],
    ["check", `--${steering}`],
    ["list", "--flags", odd],
    ["check", "--flags", steering],
    ["desk", "--env", steering],
    ["history", steering],
    ["suspend", steering, "--yes"],
    ["set", "zone-fares", "--share", steering, "--rule", steering],
    ["set", "zone-fares", "--rename", steering],
    ["publish", "--to", join(odd, steering), "--key", steering],
    ["shelf", join(odd, steering)],
    ["stops", `${steering}://x`],
    ["pass", `storm-mode=${steering}`, "--for", steering, "--env", "production"],
    ["key", "--for", steering],
    ["key", "--for", "passes", "--to", join(odd, steering, "x")],
    ["leftovers", "--code", steering],
    ["agenda", "--at", steering],
  ]) {
    const { code, out, err } = await iudex(...words, ...(words.includes("--flags") ? [] : ["--flags", demoFolder]));
    expect([words[0], code === 0]).toEqual([words[0], false]);
    expect(out + err, words.join(" ")).not.toMatch(/[\u001b\u202e]/);
  }
});

it("writes no sign into TypeScript that an editor or a compiler takes for anything but itself", async () => {
  const sign = "\u2028\u202e\u0085\u200b";
  const json = JSON.stringify(sign);
  const folder = await folderWith({
    "a.json": `{ "iudex": 1, "attributes": { "plan": [${json}], "[${json.replaceAll('"', "'")}]": "text" }, "flags": { "a": { "about": ${json}, "safe": { "k": ${json}, ${json}: 1 } }, "b": { "safe": ${json} } } }`,
  });
  const { code, out } = await iudex("catalogue", "--flags", folder);
  expect([code, out.match(/[\u0080-\u009f\u200b\u2028\u202e]/)]).toEqual([0, null]);
  expect(out).toContain("\\u2028\\u202e\\u0085\\u200b");
});

it("never lets control characters of files, people or commits reach the terminal", async () => {
  const { folder, commit } = await demoRepository();
  const steering = "\u001b[2J\u202e";
  await put(
    folder,
    "odd.yaml",
    `iudex: 1\nflags:\n  odd: { safe: 1, rules: [{ name: ${JSON.stringify(steering)}, give: 2 }] }\n`,
  );
  await put(folder, "people.csv", `account.id,account.plan\nA-1,"${steering}"\n`);
  commit(`Odd ${steering}`);
  await put(join(folder, "../code"), "page.ts", "export {};");
  const people = ["--people", join(folder, "people.csv"), "--env", "production"];
  await put(
    folder,
    "odd.yaml",
    `iudex: 1\nflags:\n  odd: { safe: 1, rules: [{ name: ${JSON.stringify(steering)}, give: 3 }] }\n`,
  );
  for (const words of [
    ["diff", ...people],
    ["history"],
    ["census", "odd", "--by", "account.plan", ...people],
    ["list"],
    ["leftovers", "--code", join(folder, "../code")],
  ]) {
    const { out } = await iudex(...words, "--flags", folder);
    expect(out, words.join(" ")).toContain("odd");
    expect(out, words.join(" ")).not.toMatch(/[\u001b\u202e]/);
  }
});
