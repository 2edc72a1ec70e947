import { access, readFile } from "node:fs/promises";
import { join } from "node:path";
import { runInNewContext } from "node:vm";
import { followFlags } from "iudex";
import { describeFlag } from "iudex/core";
import { compareSets, loadFolder } from "iudex/tools";
import { describe, expect, it, onTestFinished } from "vitest";
import { iudex } from "../support/command.ts";
import { demoFolder, folderWith, projectRoot } from "../support/folders.ts";

const guide = await readFile(join(projectRoot, "docs/guide.md"), "utf8");
const stages = [...guide.matchAll(/```yaml\n# flags\/fares\.yaml\n([\s\S]*?)```/g)].map(([, yaml]) => yaml!);
const around = Object.fromEntries(
  await Promise.all(
    ["set.yaml", "people.yaml", "lists/pilot-captains.csv"].map(async (file) => [
      file,
      await readFile(join(demoFolder, file), "utf8"),
    ]),
  ),
) as Record<string, string>;

async function stage(index: number) {
  const folder = await folderWith({ ...around, "fares.yaml": stages[index]! });
  const { definitions, problems } = await loadFolder(folder);
  expect(problems).toEqual([]);
  return { folder, definitions: definitions! };
}

describe("the guide", () => {
  it("goes from the safe value for everyone to everyone, through states that check accepts", async () => {
    const said: string[] = [];
    for (let i = 0; i < stages.length; i++) {
      const { folder, definitions } = await stage(i);
      expect((await iudex("check", "--flags", folder)).code).toBe(0);
      said.push(describeFlag(definitions, "zone-fares", "production", Date.parse("2026-12-09T12:00Z"))!);
    }
    expect(said).toEqual([
      "Everybody gets false.",
      "Crew get true, everybody else false.",
      "Crew, and 10% of people whose trips is more than 100, get true, everybody else false.",
      "Crew, and all people who have account.id, get true, everybody else false.",
    ]);
  });

  it("adds a rule at each step, and ends with a flag that is left over", async () => {
    const sets = await Promise.all(stages.map((_, i) => stage(i)));
    const words = sets.slice(1).map(({ definitions }, i) => compareSets(sets[i]!.definitions, definitions)[0]!.words);
    expect(words[0]).toContain("rule “our own people first” added");
    expect(words[1]).toContain("rule “frequent travellers, one in ten” added at the end");
    const { out } = await iudex("leftovers", "--flags", sets.at(-1)!.folder, "--at", "2027-01-10T12:00Z");
    expect(out).toContain("zone-fares  fares-team\n  gives true to everyone who has account.id, in every environment");
  });
});

it("links only to pages and pictures that are there", async () => {
  const { access } = await import("node:fs/promises");
  const pages = [
    "README.md",
    "docs/guide.md",
    "docs/how-to.md",
    "docs/weighing.md",
    "docs/http.md",
    "docs/commands.md",
    "docs/running.md",
    "docs/security.md",
    "SECURITY.md",
    "docs/testing.md",
    "docs/format.md",
    "docs/what-moves-people.md",
    "docs/judgement.md",
    "docs/architecture.md",
  ];
  for (const page of pages) {
    const text = await readFile(join(projectRoot, page), "utf8");
    for (const [, target] of text.matchAll(/\]\((?!https?:|#)([^)#]+)/g)) {
      await expect(access(join(projectRoot, page, "..", target!)), `${page} → ${target}`).resolves.toBeUndefined();
    }
  }
});

it("the kill switch of the page is on, off while it is stopped, and on again", async () => {
  const page = await readFile(join(projectRoot, "docs/how-to.md"), "utf8");
  const [, yaml] = /```yaml\n# flags\/payments\.yaml\n([\s\S]*?)```/.exec(page)!;
  const folder = await folderWith({ "payments.yaml": yaml! });
  const given = async () => (await iudex("why", "card-payments", "--flags", folder, "--json")).out;
  const value = async () => (JSON.parse(await given()) as { value: unknown }).value;
  expect(await value()).toBe(true);
  await iudex("suspend", "card-payments", "--flags", folder, "--note", "the bank is down", "--yes");
  expect(await value()).toBe(false);
  await iudex("reinstate", "card-payments", "--flags", folder, "--yes");
  expect(await value()).toBe(true);
});

it.each(["README.md", "docs/guide.md", "docs/commands.md"])("%s shows what the commands really print", async (page) => {
  const text = await readFile(join(projectRoot, page), "utf8");
  for (const [, words, shown] of text.matchAll(/```\n\$ iudex ([^\n]+)\n([^`\n$][\s\S]*?)```/g)) {
    const asked = words!.replace(/ D$/, "").split(" ");
    const folder = asked.includes("--flags") ? [] : ["--flags", demoFolder];
    const { out } = await iudex(...asked, ...folder);
    // The pages leave out the line that tells the instant.
    const lines = out.split("\n").filter((line) => !line.startsWith("environment "));
    expect(lines.join("\n").trim()).toBe(shown!.trim());
  }
});

it("the page on judgement shows what the command really prints", async () => {
  const page = await readFile(join(projectRoot, "docs/judgement.md"), "utf8");
  const example = /```\n\$ iudex ([^\n]+)\n([\s\S]*?)```/.exec(page)!;
  const { out } = await iudex(...example[1]!.split(" "), "--flags", demoFolder);
  const withoutCircumstances = out.split("\n").filter((line) => !line.startsWith("environment "));
  expect(withoutCircumstances.join("\n").trim()).toBe(example[2]!.trim());
});

it("the page on security names tests that are there", async () => {
  const page = await readFile(join(projectRoot, "docs/security.md"), "utf8");
  const named = [...page.matchAll(/`(tests\/[a-z/-]+)`/g)].map(([, path]) => `${path}.test.ts`);
  expect(named.length).toBeGreaterThan(20);
  for (const path of named) await expect(access(join(projectRoot, path))).resolves.toBeUndefined();
});

it("the README's first folder gives what it shows, revision included", async () => {
  const readme = await readFile(join(projectRoot, "README.md"), "utf8");
  const [, definitions] = /```yaml\n([\s\S]*?)```/.exec(readme)!;
  const [, passenger] = /const passenger = (\{.*\});/.exec(readme)!;
  const [, shown] = /verdict\("zone-fares", passenger\); \/\/ (\{.*\})/.exec(readme)!;
  const flags = await followFlags(await folderWith({ "a.yaml": definitions! }), { watch: false });
  onTestFinished(() => flags.close());
  const read = (text: string) => runInNewContext(`(${text})`) as object;
  const { value, cause, rule, revision } = flags.verdict("zone-fares", read(passenger!));
  expect({ value, cause, rule, revision: `${revision?.slice(0, 8)}…` }).toEqual({ ...read(shown!) });
});
