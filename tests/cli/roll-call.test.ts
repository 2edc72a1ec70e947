import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { followFlags } from "iudex";
import { publishFolder, suspendAtShelf } from "iudex/fleet";
import { expect, onTestFinished, test } from "vitest";
import { iudexIn } from "../support/command.ts";
import { copiedDemo, holdFreight, publisherAndStopper, scratchFolder, set, shelfKind } from "../support/shelves.ts";

test.skipIf(!shelfKind("Redis").isHere)(
  "it never says that everybody has it when somebody does not",
  async () => {
    const { key, stopKey, keys } = await publisherAndStopper();
    const stand = await shelfKind("Redis").stand();
    const folder = await copiedDemo();
    const home = await scratchFolder();
    await writeFile(join(home, "keys.json"), JSON.stringify(keys));
    const until = (number: number, ...words: string[]) =>
      iudexIn(
        home,
        "shelf",
        stand.address,
        "--set",
        set,
        "--keys",
        "keys.json",
        "--until",
        String(number),
        "--within",
        "2",
        ...words,
      );
    await publishFolder(stand.shelf, { folder, key, by: "Crew", set });
    // Nobody is known to follow.
    expect((await until(1)).code).toBe(1);

    const follow = async (name: string, known: typeof keys) => {
      const flags = await followFlags(await stand.following(), { environment: "production", keys: known, name });
      onTestFinished(() => flags.close());
      return flags;
    };
    const api = await follow("booking-api", keys);
    await expect.poll(async () => (await until(1)).code).toBe(0);

    // Another knows the publisher's key alone: it has the edition, and not the stop.
    const screens = await follow("quay-screens", { keys: keys.keys.slice(0, 1) });
    await suspendAtShelf(stand.shelf, { flag: "storm-mode" }, { key: stopKey, keys });
    const behind = await until(1);
    expect(behind.code).toBe(1);
    expect(behind.out).toContain("2 processes follow it by what they say, 1 behind.");
    await screens.close();
    await expect.poll(async () => (await until(1)).code).toBe(0);

    // One that has gone back gives something else than the edition that it has.
    const first = api.revision;
    await holdFreight(folder, 125);
    await publishFolder(stand.shelf, { folder, key, keys, by: "Crew" });
    await expect.poll(async () => (await until(2)).code).toBe(0);
    api.goBackTo(first);
    await expect.poll(async () => (await until(2)).out).toContain("gone back from 2");
    expect((await until(2)).code).toBe(1);
    await api.close();

    // One that was killed is silent, and forgotten when somebody says so.
    const id = "0b9a4c1e-dead-4dead";
    const { createClient } = await import("redis");
    const client = await createClient({ url: stand.address }).connect();
    onTestFinished(() => client.destroy());
    const note = {
      id,
      name: "lost",
      host: "h",
      process: 1,
      edition: 2,
      stops: 1,
      revision: "",
      goneBack: false,
      since: "",
    };
    await client.set(`iudex:{${set}}:follower:${id}`, JSON.stringify(note), {
      expiration: { type: "PX", value: 86_400_000 - 90_000 },
    });
    const silent = await until(2);
    expect([silent.code, silent.out]).toEqual([3, expect.stringContaining("1 not heard of for a minute")]);
    expect((await until(2, "--forget", "lost")).code).toBe(1);
    expect((await until(2, "--forget", "lost")).err).toContain("No process called “lost” is noted.");
  },
  60_000,
);
