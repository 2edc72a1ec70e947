import { createHash } from "node:crypto";
import { readdir, rm, stat, utimes } from "node:fs/promises";
import { join } from "node:path";
import { followFlags } from "iudex";
import { publishAgain, publishFolder } from "iudex/fleet";
import pg from "pg";
import { createClient } from "redis";
import { describe, expect, onTestFinished, test } from "vitest";
import type { NewFile, Place } from "../../src/shelf/index.ts";
import { iudex } from "../support/command.ts";
import { copiedDemo, holdFreight, type Stand, set, shelfKinds } from "../support/shelves.ts";

/** What the test does behind the shelf's back. */
interface Hand {
  /** As if nobody had used any file for two days. */
  age(): Promise<void>;
  remove(sha256: string): Promise<void>;
  files(): Promise<readonly string[]>;
}

const twoDays = 2 * 86_400;

async function handIn({ folder, address }: Stand): Promise<Hand> {
  if (folder !== undefined) {
    const files = () => readdir(join(folder, "files"));
    return {
      files,
      age: async () => {
        for (const name of await files()) {
          const path = join(folder, "files", name);
          // By the clock of the disk.
          const old = (await stat(path)).mtimeMs / 1_000 - twoDays;
          await utimes(path, old, old);
        }
      },
      remove: (sha256) => rm(join(folder, "files", sha256)),
    };
  }
  if (address.startsWith("redis:")) {
    const client = await createClient({ url: address }).connect();
    onTestFinished(() => client.destroy());
    const key = (name: string) => `iudex:{${set}}:${name}`;
    return {
      files: async () => (await client.keys(key("file:*"))).map((name) => name.slice(key("file:").length)),
      age: async () => {
        for (const member of await client.zRange(key("files"), 0, -1))
          await client.zIncrBy(key("files"), -twoDays, member);
      },
      remove: async (sha256) => void (await client.del(key(`file:${sha256}`))),
    };
  }
  const pool = new pg.Pool({ connectionString: address });
  onTestFinished(() => pool.end());
  return {
    files: async () =>
      (await pool.query<{ sha256: string }>("select sha256 from iudex_files")).rows.map((row) => row.sha256),
    age: async () => void (await pool.query(`update iudex_files set used = used - interval '${twoDays} seconds'`)),
    remove: async (sha256) => void (await pool.query("delete from iudex_files where sha256 = $1", [sha256])),
  };
}

const kinds = shelfKinds.filter(({ name }) => !name.startsWith("web"));

describe.each(kinds)("a shelf that is kept tidy: $name", (kind) => {
  test.runIf(kind.isHere)("loses files that no kept edition names, once they are old, and nothing else", async () => {
    const { shelf, ...stand } = await kind.stand();
    const hand = await handIn({ shelf, ...stand });
    const folder = await copiedDemo();
    const publish = (minutes: number, keep?: number) =>
      holdFreight(folder, minutes).then(() => publishFolder(shelf, { folder, by: "Crew", set, keep }));
    const { edition: first } = await publish(121);
    const { edition: second } = await publish(122);
    // Nothing is old enough.
    expect(await publish(123, 1)).toMatchObject({ removed: 0 });
    await hand.age();
    expect(await publish(124, 2)).toMatchObject({ removed: 2, edition: { number: 4 } });
    const standing = await hand.files();
    const fares = (files = second!.files) => files.find(({ path }) => path === "fares.yaml")!.sha256;
    expect(standing).not.toContain(fares(first!.files));
    expect(standing).not.toContain(fares());
    expect(standing).toHaveLength(second!.files.length + 1);

    const flags = await followFlags(await stand.following(), { environment: "production" });
    onTestFinished(() => flags.close());
    expect(flags.value("hold-minutes", { account: { plan: "freight" } })).toBe(124);
    // The lists stand, and say what there was.
    expect(await shelf.edition(1)).toEqual(first);
    await expect(publishAgain(shelf, 1, { by: "Crew" })).rejects.toThrow(/is not there|does not hold|cannot be read/);
    await publishAgain(shelf, 3, { by: "Crew" });
    await expect.poll(() => flags.value("hold-minutes", { account: { plan: "freight" } })).toBe(123);
  });

  test.runIf(kind.isHere)("puts again what somebody else removes meanwhile", async () => {
    const stand = await kind.stand();
    const hand = await handIn(stand);
    const folder = await copiedDemo();
    const { edition } = await publishFolder(stand.shelf, { folder, by: "Crew", set });
    await hand.age();
    const place = (stand.shelf as unknown as Record<symbol, Place>)[Object.getOwnPropertySymbols(stand.shelf)[0]!]!;
    const old: NewFile = { ...edition!.files[0]!, read: async () => Buffer.from("again") };
    const bytes = Buffer.from("again");
    const again = { ...old, sha256: createHash("sha256").update(bytes).digest("hex"), bytes: bytes.length };
    const list = (number: number) => {
      const payload = Buffer.from(JSON.stringify({ edition: 1, set, number })).toString("base64url");
      return { name: "edition" as const, set, number, text: JSON.stringify({ payload, signatures: [] }) };
    };
    expect(await place.publishing!.put(list(2), [again], 1)).toBe(true);
    await hand.age();
    // It is there when the publisher looks first, and is removed while the next file is put.
    const fresh = Buffer.from("fresh");
    const slow: NewFile = {
      ...again,
      sha256: createHash("sha256").update(fresh).digest("hex"),
      bytes: fresh.length,
      read: async () => {
        if ((await hand.files()).includes(again.sha256)) await hand.remove(again.sha256);
        return fresh;
      },
    };
    expect(await place.publishing!.put(list(3), [again, slow], 2)).toBe(true);
    expect(await hand.files()).toEqual(expect.arrayContaining([again.sha256, slow.sha256]));
    // What was used again is not old any more.
    expect(await place.publishing!.forget!(new Set([slow.sha256]))).toBe(edition!.files.length);
    expect(await hand.files()).toContain(again.sha256);
  });
});

test("iudex publish --keep says what it has removed, and takes a whole number", async () => {
  const stand = await shelfKinds[0]!.stand();
  const hand = await handIn(stand);
  const folder = await copiedDemo();
  const publish = (...words: string[]) => iudex("publish", "--to", stand.address, "--flags", folder, "--yes", ...words);
  await publish();
  await hand.age();
  await holdFreight(folder, 131);
  expect((await publish("--keep", "1")).out).toContain("Removed 1 file that no kept edition names.");
  await holdFreight(folder, 132);
  expect((await publish("--keep", "5")).out).toContain("No file was removed.");
  expect(await publish("--keep", "0")).toMatchObject({ code: 2, err: expect.stringContaining("write --keep 7") });
  await holdFreight(folder, 133);
  expect(JSON.parse((await publish("--keep", "5", "--json")).out)).toMatchObject({ published: true, removed: 0 });
});
