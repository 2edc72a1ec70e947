import { join } from "node:path";
import { followFlags } from "iudex";
import { folderShelf, publishFolder } from "iudex/fleet";
import { flagsFrom } from "iudex/testing";
import { describe, expect, it, onTestFinished } from "vitest";
import { folderWith, put } from "../support/folders.ts";
import { copiedDemo, keyPair, scratchFolder } from "../support/shelves.ts";
import { collected, next } from "../support/waiting.ts";

const sound = "iudex: 1\nflags: { a: { safe: 1 } }\n";
const broken = "iudex: 1\nflags: [";

async function followed(folder: string, options: Parameters<typeof followFlags>[1] = {}) {
  const flags = await followFlags(folder, options);
  onTestFinished(() => flags.close());
  return flags;
}

describe("the health of flags", () => {
  it("is sound until files cannot be used, says why, and recovers with them, though they say what they said", async () => {
    const folder = await folderWith({ "a.yaml": sound });
    const flags = await followed(folder);
    const { revision } = flags;
    expect(flags.health()).toMatchObject({ sound: true, revision, problems: [], origin: { kind: "files" } });
    const rejected = next(flags, "rejected");
    await put(folder, "a.yaml", broken);
    await rejected;
    const { since, ...unwell } = flags.health();
    expect(unwell).toMatchObject({ sound: false, revision, problems: [{ located: { file: "a.yaml" } }] });
    const recovered = next(flags, "recovered");
    const changes = collected(flags, "change");
    await put(folder, "a.yaml", sound);
    expect(await recovered).toMatchObject({ revision, since, summary: expect.stringContaining("sound again") });
    expect(flags.health()).toMatchObject({ sound: true, problems: [] });
    expect(flags.health().age).toBeLessThan(60_000);
    expect(changes).toEqual([]);
  });

  it("is not sound while suspended.yaml cannot be read, nor after a start from a copy", async () => {
    const folder = await folderWith({ "a.yaml": sound });
    const lastGood = join(await folderWith({}), "good");
    await (await followed(folder, { lastGood })).close();
    await put(folder, "a.yaml", broken);
    const flags = await followed(folder, { lastGood });
    expect(flags.health()).toMatchObject({ sound: false, origin: { kind: "last-good" } });
    const recovered = next(flags, "recovered");
    await put(folder, "a.yaml", sound);
    await recovered;
    const problem = next(flags, "problem");
    await put(folder, "suspended.yaml", "iudex: 1\nsuspended: [[");
    await problem;
    await expect.poll(() => flags.health().sound).toBe(false);
    const again = next(flags, "recovered");
    await put(folder, "suspended.yaml", "iudex: 1\nsuspended: {}\n");
    await again;
  });

  it("of a shelf goes by what the shelf says: refused, silent, back", async () => {
    const { key, keys } = await keyPair();
    const directory = join(await scratchFolder(), "shelf");
    const shelf = folderShelf(directory, { every: 200 });
    const folder = await copiedDemo();
    await publishFolder(shelf, { folder, key, by: "Crew" });
    const known = { keys: [...keys.keys] };
    const flags = await followFlags(shelf, { environment: "production", keys: () => known, staleAfter: 1_000 });
    onTestFinished(() => flags.close());
    expect(flags.health()).toMatchObject({ sound: true, origin: { edition: 1 } });
    const stranger = await keyPair("stranger");
    await put(folder, "more.yaml", sound);
    const refused = next(flags, "problem");
    await publishFolder(shelf, {
      folder,
      key: stranger.key,
      keys: { keys: [...keys.keys, ...stranger.keys.keys] },
      by: "Crew",
    });
    await refused;
    expect(flags.health()).toMatchObject({
      sound: false,
      problems: [{ message: expect.stringContaining("stranger") }],
    });
    const recovered = next(flags, "recovered");
    known.keys.push(...stranger.keys.keys);
    await recovered;
    expect(flags.health()).toMatchObject({ sound: true, origin: { edition: 2 } });
  });

  it("of flags in a test is sound", () => {
    expect(flagsFrom({ flags: { a: { safe: 1 } } }).health()).toMatchObject({ sound: true, origin: { kind: "code" } });
  });
});
