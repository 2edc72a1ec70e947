import { execFileSync } from "node:child_process";
import { writeFileSync } from "node:fs";
import { readdir, readFile, rename, rm, symlink, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { defineCatalogue, FlagsError, followFlags, variant, yesNo } from "iudex";
import { flagsFrom } from "iudex/testing";
import { describe, expect, it, onTestFinished } from "vitest";
import { Disk } from "../../src/files/from/disk.ts";
import { judgeContent } from "../../src/files/judge-content.ts";
import { readSteadily } from "../../src/files/read.ts";
import { settleRevision } from "../../src/files/revision.ts";
import { Flags } from "../../src/flags/flags.ts";
import { DefinitionStore, opened as openedState } from "../../src/flags/store.ts";
import { FolderFeed } from "../../src/follow/folder-feed.ts";
import { folderWith, put } from "../support/folders.ts";
import { collected, next, sleep } from "../support/waiting.ts";

// What must hold also when things go wrong half-way, twice, or at the same time.

const set = (safe: number) => `iudex: 1\nflags:\n  minutes: { safe: ${safe}, otherwise: ${safe + 1} }\n`;
const stop = "iudex: 1\nsuspended: { minutes: { note: gale } }\n";

async function opened(files: Record<string, string>, options: object = {}) {
  const folder = await folderWith(files);
  const flags = await followFlags(folder, { watch: { quiet: 20, poll: 100 }, ...options });
  onTestFinished(() => flags.close());
  return { folder, flags };
}

describe("an emergency stop", () => {
  it.each<[string, (path: string) => Promise<unknown>]>([
    ["a link to nothing", (path) => symlink("nowhere", path)],
    ["a link out of the folder", (path) => symlink("/etc/hostname", path)],
    ["empty", (path) => writeFile(path, "")],
    ["cut off in the middle", (path) => writeFile(path, "iudex: 1\nsuspended: { minu")],
  ])("stays while its file is %s", async (_, spoil) => {
    const { folder, flags } = await opened({ "a.yaml": set(1), "suspended.yaml": stop });
    expect(flags.verdict("minutes").cause).toBe("suspended");
    // Put in its place at once: a file that is gone for a moment is certainly gone.
    const aside = join(folder, "..", "aside");
    await spoil(aside);
    await rename(aside, join(folder, "suspended.yaml"));
    const said = Promise.race([next(flags, "problem"), next(flags, "rejected")]);
    await put(folder, "a.yaml", set(5));
    await said;
    await sleep(150);
    expect(flags.verdict("minutes").cause).toBe("suspended");
  });

  it("stays while the whole folder is away, and goes when its file is certainly gone", async () => {
    const { folder, flags } = await opened({ "a.yaml": set(1), "suspended.yaml": stop });
    const rejected = next(flags, "rejected");
    await rename(folder, `${folder}-away`);
    await rejected;
    expect(flags.verdict("minutes").cause).toBe("suspended");
    const changed = next(flags, "change");
    await rm(join(`${folder}-away`, "suspended.yaml"));
    await rename(`${folder}-away`, folder);
    expect((await changed).summary).toContain("minutes: reinstated");
    expect(flags.value("minutes")).toBe(2);
  });

  it("made while a large set is being put together is not lifted by what was read before it", async () => {
    const large = (n: number) =>
      `iudex: 1\nflags:\n${Array.from({ length: 4_000 }, (_, i) => `  f-${i}: { safe: ${n} }\n`).join("")}`;
    const folder = await folderWith({ "a.yaml": set(1), "b.yaml": large(1) });
    const disk = new Disk(folder);
    const loaded = await judgeContent(await readSteadily(() => disk.look()));
    await settleRevision(loaded.definitions!, loaded.content.tools.memory);
    const origin = { kind: "files", folder } as const;
    const store = new DefinitionStore(openedState(loaded.definitions!, origin));
    let armed = false;
    let feed: FolderFeed | undefined;
    const flags = Flags.of(store, {}, (feeding) => {
      feed = new FolderFeed(
        disk,
        loaded,
        {},
        {
          ...feeding,
          // Asked for when everything has been read and found at rest, and nothing of it has been put into force.
          get store() {
            if (armed) writeFileSync(join(folder, "suspended.yaml"), stop);
            armed = false;
            return store;
          },
        },
      );
      return feed;
    });
    onTestFinished(() => flags.close());
    await feed!.start();
    const causes: string[] = [];
    flags.on("change", () => causes.push(flags.verdict("minutes").cause));
    armed = true;
    await put(folder, "b.yaml", large(2));
    await expect.poll(() => flags.value("f-7")).toBe(2);
    await expect.poll(() => flags.verdict("minutes").cause).toBe("suspended");
    await sleep(300);
    expect(causes.slice(causes.indexOf("suspended"))).toEqual(
      causes.slice(causes.indexOf("suspended")).map(() => "suspended"),
    );
  });

  it("is in the kept copy from which a start succeeds", async () => {
    const { folder, flags } = await opened({ "a.yaml": set(1), "suspended.yaml": stop });
    const lastGood = join(folder, "..", "kept");
    await flags.close();
    const first = await followFlags(folder, { lastGood });
    await first.close();
    await put(folder, "a.yaml", "iudex: 1\nflags: [");
    await rm(join(folder, "suspended.yaml"));
    await symlink(join(folder, "nowhere"), join(folder, "suspended.yaml"));
    const again = await followFlags(folder, { lastGood });
    onTestFinished(() => again.close());
    expect(again.origin.kind).toBe("last-good");
    expect(again.verdict("minutes").cause).toBe("suspended");
  });

  it("outlives a restart where it was made, or ended, while the other files were broken", async () => {
    const { folder } = await opened({ "a.yaml": set(1) });
    const lastGood = join(folder, "..", "kept");
    const restarted = async () => {
      const flags = await followFlags(folder, { lastGood, watch: { quiet: 20, poll: 100 } });
      onTestFinished(() => flags.close());
      return flags;
    };
    const first = await restarted();
    await put(folder, "a.yaml", "iudex: 1\nflags: [");
    await put(folder, "suspended.yaml", stop);
    await expect.poll(() => first.verdict("minutes").cause).toBe("suspended");
    await first.close();
    await rename(folder, `${folder}-away`);
    const second = await restarted();
    expect(second.verdict("minutes").cause).toBe("suspended");
    await rename(`${folder}-away`, folder);
    await rm(join(folder, "suspended.yaml"));
    await expect.poll(() => second.verdict("minutes").cause).toBe("otherwise");
    await second.close();
    await rename(folder, `${folder}-away`);
    expect((await restarted()).verdict("minutes").cause).toBe("otherwise");
  });

  it("is that of the copy where what was noted since was tampered with", async () => {
    const { folder } = await opened({ "a.yaml": set(1), "suspended.yaml": stop });
    const lastGood = join(folder, "..", "kept");
    await (await followFlags(folder, { lastGood, watch: false })).close();
    const [source] = await readdir(join(lastGood, "sets"));
    const note = join(lastGood, "sets", source!, "stops.json");
    await writeFile(note, (await readFile(note, "utf8")).replace("minutes", "hours"));
    await rename(folder, `${folder}-away`);
    const again = await followFlags(folder, { lastGood, watch: false });
    expect(again.verdict("minutes").cause).toBe("suspended");
    await again.close();
  });
});

describe("going back", () => {
  it("holds through broken saves, and through good ones that say nothing new", async () => {
    const { folder, flags } = await opened({ "a.yaml": set(1) });
    const first = flags.revision;
    const changed = next(flags, "change");
    await put(folder, "a.yaml", set(5));
    await changed;
    flags.goBackTo(first);
    for (const text of ["iudex: 1\nflags: [", "iudex: 1\nflags: { minutes: { safe: x, otherwise: 3 } }\n"]) {
      const rejected = next(flags, "rejected");
      await put(folder, "a.yaml", text);
      await rejected;
      expect([flags.origin.kind, flags.value("minutes")]).toEqual(["history", 2]);
    }
    await put(folder, "a.yaml", `# mended\n${set(5)}`);
    await sleep(400);
    expect([flags.origin.kind, flags.value("minutes")]).toEqual(["history", 2]);
    const news = next(flags, "change");
    await put(folder, "a.yaml", set(7));
    await news;
    expect([flags.origin.kind, flags.value("minutes")]).toEqual(["files", 8]);
  });
});

describe("a restart", () => {
  const catalogue = defineCatalogue({ minutes: yesNo({ fallback: true }), gone: yesNo({ fallback: false }) });

  it("goes on as a running process does where the files do not keep the catalogue", async () => {
    const { flags } = await opened({ "a.yaml": set(1) }, { catalogue });
    const problems = collected(flags, "problem");
    expect(flags.verdict("minutes")).toMatchObject({ value: true, cause: "fallback", problem: "wrong-type" });
    expect(flags.verdict("gone")).toMatchObject({ value: false, cause: "fallback", problem: "unknown-flag" });
    // What explains agrees with what is given.
    expect(flags.explain("minutes" as never)).toMatchObject({ value: true, cause: "fallback" });
    expect(flags.pin({}).explain("minutes" as never)).toMatchObject({ value: true, cause: "fallback" });
    await expect.poll(() => problems.length).toBe(2);
    const folder = await folderWith({ "a.yaml": set(1) });
    await expect(followFlags(folder, { catalogue, strict: true })).rejects.toThrow(FlagsError);
  });
});

describe("a list", () => {
  const listed =
    "iudex: 1\ncohorts: { c: { of: id, file: ids.txt } }\nflags: { a: { safe: false, provided: cohort:c } }\n";

  it("that is a pipe is refused instead of waited for", async () => {
    const folder = await folderWith({ "a.yaml": listed });
    execFileSync("mkfifo", [join(folder, "ids.txt")]);
    await expect(followFlags(folder)).rejects.toThrow(/ids\.txt/);
  });

  it("that lost more than half of its ids is told first", async () => {
    const ids = Array.from({ length: 100 }, (_, i) => `A-${i}`).join("\n");
    const { folder, flags } = await opened({
      "a.yaml": listed,
      "b.yaml": "iudex: 1\nflags: { b: { safe: 1 } }\n",
      "ids.txt": ids,
    });
    const changed = next(flags, "change");
    await Promise.all([
      writeFile(join(folder, "ids.txt"), "A-1\nA-2\n"),
      put(folder, "b.yaml", "iudex: 1\nflags: { b: { safe: 2 } }\n"),
    ]);
    const { changes } = await changed;
    expect(changes[0]).toMatchObject({
      part: "cohort",
      words: ["more than half of its ids gone, 100 → 2: was the file cut off?"],
    });
  });
});

describe("two services in one process", () => {
  it("know nothing of each other", async () => {
    const one = await opened({ "a.yaml": set(1) });
    const other = await opened({ "a.yaml": set(1) });
    using _ = one.flags.override({ minutes: 99 });
    const changed = next(other.flags, "change");
    await put(other.folder, "suspended.yaml", stop);
    await changed;
    expect([one.flags.value("minutes"), other.flags.value("minutes")]).toEqual([99, 1]);
    expect(one.flags.history).toHaveLength(1);
    expect(other.flags.history).toHaveLength(2);
  });
});

describe("a schema", () => {
  const lanes = { type: "object", required: ["lanes"], properties: { lanes: { type: "integer", minimum: 1 } } };
  const quay = (value: object, schema: unknown = lanes) =>
    JSON.stringify({ iudex: 1, flags: { "check-in": { schema, safe: { lanes: 2 }, rules: [{ give: value }] } } });

  it("keeps a slip from coming into force, and an override that does not keep it", async () => {
    const { folder, flags } = await opened({ "a.json": quay({ lanes: 3 }) });
    const rejected = next(flags, "rejected");
    await put(folder, "a.json", quay({ lanes: 0 }));
    expect((await rejected).problems).toMatchObject([{ code: "schema-violated", file: "a.json" }]);
    expect(flags.value("check-in")).toEqual({ lanes: 3 });
    const problems = collected(flags, "problem");
    flags.override({ "check-in": { lanes: "two" } });
    expect(flags.value("check-in")).toEqual({ lanes: 3 });
    expect(problems[0]?.message).toContain("does not keep its schema");
  });

  it.each<[string, unknown, string]>([
    ["with a key that JSON Schema does not know", { ...lanes, minimun: 1 }, "schema-invalid"],
    ["that refers to elsewhere", { $ref: "https://ternhaven.example/s.json" }, "schema-invalid"],
    ["of a pattern that is not RE2", { properties: { lanes: { pattern: "(?=x)" } } }, "schema-invalid"],
    ["that nothing keeps", false, "schema-violated"],
  ])("%s is refused", async (_, schema, code) => {
    const folder = await folderWith({ "a.json": quay({ lanes: 3 }, schema) });
    const error = await followFlags(folder).catch((fault: unknown) => fault);
    expect((error as FlagsError).problems.map((problem) => problem.code)).toContain(code);
  });

  it("may stand in a file of its own, and a change of that file counts", async () => {
    const { folder, flags } = await opened({
      "a.json": quay({ lanes: 3 }, { file: "schemas/check-in.schema.json" }),
      "schemas/check-in.schema.json": JSON.stringify(lanes),
    });
    const rejected = next(flags, "rejected");
    await put(
      folder,
      "schemas/check-in.schema.json",
      JSON.stringify({ ...lanes, properties: { lanes: { maximum: 2 } } }),
    );
    expect((await rejected).problems).toMatchObject([{ code: "schema-violated" }]);
    expect(flags.value("check-in")).toEqual({ lanes: 3 });
  });
});

describe("in tests", () => {
  const flags = flagsFrom(
    {
      flags: {
        minutes: { safe: 15 },
        seats: { variants: { list: 1, deck: 2 }, safe: "list" },
        storm: { safe: false, otherwise: true },
      },
    },
    { suspended: { storm: { note: "calm" } } },
  );

  it.each<[object, string]>([
    [{ minuets: 3 }, "did you mean minutes?"],
    [{ minutes: "long" }, "is not of its type"],
    [{ seats: variant("tour") }, "none of its variants"],
  ])("an override that cannot hold throws: %j", (overrides, message) => {
    expect(() => flags.override(overrides)).toThrow(message);
    expect(() => flags.withOverrides(overrides, () => {})).toThrow(message);
  });

  it("flags may be suspended from the start", () => {
    expect(flags.verdict("storm")).toMatchObject({ value: false, cause: "suspended" });
  });
});

it("answers for a name that is none like for any unknown flag", async () => {
  const { flags } = await opened({ "a.yaml": set(1) });
  for (const name of [Symbol("x"), 3, null, undefined, {}]) {
    expect(flags.verdict(name as never)).toMatchObject({
      value: undefined,
      cause: "fallback",
      problem: "unknown-flag",
    });
  }
});
