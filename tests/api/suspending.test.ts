import { readFileSync, writeFileSync } from "node:fs";
import { readFile, rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { followFlags } from "iudex";
import { changeFolder, makeChange } from "iudex/tools";
import { describe, expect, it, onTestFinished } from "vitest";
import { iudex } from "../support/command.ts";
import { folderWith, put } from "../support/folders.ts";
import { collected, next, sleep } from "../support/waiting.ts";

const set = `iudex: 1
environments: { staging: {}, production: {} }
flags:
  zone-fares: { safe: false, rules: [{ give: true }] }
  deck: { variants: { on: 1, off: 0 }, safe: off, otherwise: on }
  follower: { safe: 0, rules: [{ when: "flag:zone-fares", give: 1 }] }
`;
const stop = (where = "") =>
  `iudex: 1\nsuspended:\n  zone-fares: { since: 2026-12-02T10:14Z, who: duty officer, note: off by one zone${where} }\n`;

async function opened(files: Record<string, string>, environment = "production") {
  const folder = await folderWith(files);
  const flags = await followFlags(folder, { environment });
  onTestFinished(() => flags.close());
  return { folder, flags };
}

describe("suspension", () => {
  it("lets other files change while it stands", async () => {
    const { folder, flags } = await opened({ "a.yaml": set, "suspended.yaml": stop() });
    const rejected = collected(flags, "rejected");
    const changed = next(flags, "change");
    writeFileSync(join(folder, "a.yaml"), set.replace("safe: off", "safe: on"));
    expect((await changed).summary).toContain("deck: safe");
    expect(rejected).toEqual([]);
    expect(flags.verdict("zone-fares").cause).toBe("suspended");
  });

  it("gives the safe value, keeps the rules, and is seen by flags that refer to it", async () => {
    const { folder, flags } = await opened({ "a.yaml": set });
    expect([flags.value("zone-fares"), flags.value("follower")]).toEqual([true, 1]);
    const changed = next(flags, "change");
    await writeFile(join(folder, "suspended.yaml"), stop());
    expect((await changed).summary).toContain("zone-fares: suspended: off by one zone");
    expect(flags.verdict("zone-fares")).toMatchObject({ value: false, cause: "suspended", rule: undefined });
    expect(flags.value("follower")).toBe(0);
    expect(flags.explain("zone-fares")?.steps).toEqual([
      { step: "suspended", since: "2026-12-02T10:14Z", who: "duty officer", note: "off by one zone" },
    ]);
    const again = next(flags, "change");
    await rm(join(folder, "suspended.yaml"));
    expect((await again).summary).toContain("zone-fares: reinstated");
    expect(flags.value("zone-fares")).toBe(true);
  });

  it("takes effect while the other files are broken", async () => {
    const { folder, flags } = await opened({ "a.yaml": set });
    const rejected = next(flags, "rejected");
    await writeFile(join(folder, "a.yaml"), "iudex: 1\nflags: {{");
    await rejected;
    const changed = next(flags, "change");
    await writeFile(join(folder, "suspended.yaml"), stop());
    await changed;
    expect(flags.value("zone-fares")).toBe(false);
    expect(flags.value("deck")).toBe(1);
  });

  it("holds at the first opening, and only in the environments named", async () => {
    const files = { "a.yaml": set, "suspended.yaml": stop(", in: [staging]") };
    expect((await opened(files, "production")).flags.value("zone-fares")).toBe(true);
    expect((await opened(files, "staging")).flags.value("zone-fares")).toBe(false);
  });

  it.each([
    ["an unknown key", "iudex: 1\nsuspended: { zone-fares: { why: haste } }\n"],
    ["no format version", "suspended: { zone-fares: {} }\n"],
    ["an unreadable place", "iudex: 1\nsuspended: { zone-fares: { in: staging } }\n"],
    ["nothing behind the name", "iudex: 1\nsuspended:\n  zone-fares:\n"],
  ])("takes what can be read: %s", async (_, text) => {
    const { flags } = await opened({ "a.yaml": set, "suspended.yaml": text });
    const problem = next(flags, "problem");
    expect(flags.value("zone-fares")).toBe(false);
    expect((await problem).problems[0]).toMatchObject({ code: "suspension-fault", file: "suspended.yaml" });
  });

  it("stays when its file becomes unreadable", async () => {
    const { folder, flags } = await opened({ "a.yaml": set, "suspended.yaml": stop() });
    const problem = next(flags, "problem");
    await put(folder, "suspended.yaml", "iudex: 1\nsuspended: [[");
    await problem;
    expect(flags.value("zone-fares")).toBe(false);
  });
});

it("holds through a rename: never is the flag at work under either name", async () => {
  const { folder, flags } = await opened({ "a.yaml": set, "suspended.yaml": stop() });
  const working = new Set<string>();
  const asking = setInterval(() => {
    for (const name of ["zone-fares", "fares"]) {
      const cause = flags.names.includes(name) ? flags.verdict(name as never).cause : "gone";
      if (cause !== "suspended" && cause !== "gone") working.add(`${name}: ${cause}`);
    }
  }, 2);
  onTestFinished(() => clearInterval(asking));
  const renamed = await iudex("set", "zone-fares", "--rename", "fares", "--yes", "--flags", folder);
  expect(renamed.code).toBe(0);
  await expect.poll(() => flags.names).toContain("fares");
  await sleep(300);
  expect([[...working], flags.verdict("fares" as never).cause]).toEqual([[], "suspended"]);
  // It ends as ever.
  await rm(join(folder, "suspended.yaml"));
  await expect.poll(() => flags.verdict("fares" as never).cause).not.toBe("suspended");
});

it("holds through a rename by hand, however often the file is looked at in between", async () => {
  const { folder, flags } = await opened({ "a.yaml": set, "suspended.yaml": stop() });
  const changed = next(flags, "change");
  const renamed = (text: string) => text.replaceAll("zone-fares", "fares");
  await writeFile(join(folder, "suspended.yaml"), renamed(stop()));
  await changed;
  // The rest of the files is being written to, and wrong, meanwhile.
  const rejected = next(flags, "rejected");
  await writeFile(join(folder, "a.yaml"), "iudex: 1\nflags: {{");
  await writeFile(join(folder, "suspended.yaml"), renamed(stop()).replace("one zone", "two zones"));
  await rejected;
  expect(flags.verdict("zone-fares").cause).toBe("suspended");
  await writeFile(join(folder, "a.yaml"), renamed(set));
  await expect.poll(() => flags.names).toContain("fares");
  expect(flags.verdict("fares" as never).cause).toBe("suspended");
  await rm(join(folder, "suspended.yaml"));
  await expect.poll(() => flags.verdict("fares" as never).cause).not.toBe("suspended");
});

it("is written with both names while the rest of a rename is not written", async () => {
  const folder = await folderWith({ "a.yaml": set, "suspended.yaml": stop() });
  const seen = new Set<string>();
  const looking = setInterval(() => {
    const text = readFileSync(join(folder, "suspended.yaml"), "utf8");
    const stops = ["zone-fares", "fares"].filter((name) => text.includes(`  ${name}:`));
    const defined = readFileSync(join(folder, "a.yaml"), "utf8").includes("  zone-fares:") ? "zone-fares" : "fares";
    seen.add(`${defined} of ${stops.join(" and ")}`);
  });
  await changeFolder({
    folder,
    change: (work) => makeChange({ change: "rename", flag: "zone-fares", to: "fares" }, work),
    confirm: async () => true,
    at: 0,
  });
  clearInterval(looking);
  expect([...seen]).not.toContain("fares of zone-fares");
  expect([...seen]).not.toContain("zone-fares of fares");
  expect(await readFile(join(folder, "suspended.yaml"), "utf8")).toBe(stop().replace("zone-fares", "fares"));
});

describe("history", () => {
  it("keeps the last revisions and goes back to one, until the files change again", async () => {
    const { folder, flags } = await opened({ "a.yaml": set });
    const first = flags.revision;
    const raise = async (n: number) => {
      const changed = next(flags, "change");
      await writeFile(join(folder, "a.yaml"), set.replace("safe: 0", `safe: ${n}`).replace("give: 1", `give: ${n}`));
      await changed;
    };
    await raise(7);
    expect(flags.value("follower")).toBe(7);
    expect(flags.history.map((h) => h.revision)).toEqual([flags.revision, first]);
    const changes = collected(flags, "change");
    flags.goBackTo(first);
    expect([flags.value("follower"), flags.revision, flags.origin]).toEqual([
      1,
      first,
      { kind: "history", revision: first },
    ]);
    expect(changes[0]?.summary).toContain("gone back");
    await raise(9);
    expect([flags.value("follower"), flags.origin.kind]).toEqual([9, "files"]);
    expect(() => flags.goBackTo("nowhere")).toThrow(/holds no revision “nowhere”/);
  });

  it("a listener that goes back does not hear itself, and the others hear everything in order", async () => {
    const { folder, flags } = await opened({ "a.yaml": set });
    const first = flags.revision;
    const heard: string[] = [];
    flags.on("change", ({ summary }) => {
      heard.push(`self: ${summary.slice(0, 9)}`);
      flags.goBackTo(first);
    });
    flags.on("change", ({ summary }) => heard.push(`other: ${summary.includes("gone back")}`));
    const changed = next(flags, "change");
    await writeFile(join(folder, "a.yaml"), set.replace("safe: 0", "safe: 7"));
    await changed;
    await expect.poll(() => heard).toHaveLength(3);
    expect(heard.map((line) => line.replace(/self.*/, "self"))).toEqual(["self", "other: false", "other: true"]);
    expect(flags.revision).toBe(first);
  });

  it("does not undo an emergency stop", async () => {
    const { folder, flags } = await opened({ "a.yaml": set });
    const first = flags.revision;
    const changed = next(flags, "change");
    await writeFile(join(folder, "suspended.yaml"), stop());
    await changed;
    flags.goBackTo(first);
    expect(flags.value("zone-fares")).toBe(false);
  });
});
