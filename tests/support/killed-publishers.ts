import { spawn } from "node:child_process";
import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { type Flags, followFlags } from "iudex";
import { publishFolder, reinstateAtShelf, suspendAtShelf } from "iudex/fleet";
import { expect, onTestFinished, test } from "vitest";
import { followersAtOnce, kills, publishersAtOnce } from "./runs.ts";
import {
  copiedDemo,
  freight,
  holdFreight,
  publisherAndStopper,
  type ShelfKind,
  scratchFolder,
  set,
} from "./shelves.ts";
import { collected, sleep } from "./waiting.ts";

const runs = kills(6);

export const publisher = fileURLToPath(new URL("publisher.mjs", import.meta.url));

/**
 * Publishers that are killed at any step leave a shelf of this kind sound, and its followers at the newest edition. Beside
 * them somebody stops a flag and starts it again, with a key of their own: no stop is lost, and none is late.
 */
export function testKilledPublishers(kind: ShelfKind): void {
  test.skipIf(!kind.isHere)(
    `publishers that are killed at any step leave ${kind.name} sound, ${runs} times`,
    async () => {
      const { key, stopKey, keys } = await publisherAndStopper();
      const stand = await kind.stand();
      const folder = await copiedDemo();
      await publishFolder(stand.shelf, { folder, key, by: "Crew", set });
      const following = () => stand.following({ every: 200 });
      const followers: Flags[] = [];
      for (let i = 0; i < followersAtOnce; i++)
        followers.push(await followFlags(await following(), { environment: "production", keys }));
      onTestFinished(async () => void (await Promise.all(followers.map((flags) => flags.close()))));
      const told = followers.flatMap((flags) => [collected(flags, "problem"), collected(flags, "rejected")]);
      const keyFile = join(await scratchFolder(), "key.json");
      const keysFile = join(await scratchFolder(), "keys.json");
      await writeFile(keyFile, JSON.stringify(key));
      await writeFile(keysFile, JSON.stringify(keys));
      const isStopped = (flags: Flags) => flags.verdict("storm-mode", {}).cause === "suspended";
      let stops = 0;
      let latest = 0;
      for (let i = 0; i < runs; i++) {
        const words = (which: number) => [kind.name, stand.address, folder, keyFile, String(4 * i + which), keysFile];
        const killing = Promise.all(Array.from({ length: publishersAtOnce }, (_, which) => killOne(words(which))));
        const change = i % 2 === 0 ? suspendAtShelf : reinstateAtShelf;
        const { stops: put } = await change(stand.shelf, { flag: "storm-mode" }, { key: stopKey, keys });
        const returned = performance.now();
        const wanted = followers.map(() => i % 2 === 0);
        await expect.poll(() => followers.map(isStopped), { interval: 10 }).toEqual(wanted);
        latest = Math.max(latest, performance.now() - returned);
        expect(put!.number).toBe(++stops);
        await killing;
        const restarted = await followFlags(await following(), { environment: "production", keys });
        expect(isStopped(restarted)).toBe(i % 2 === 0);
        await restarted.close();
      }

      expect(latest).toBeLessThan(5_000);
      if (runs > 6) console.log(`${kind.name}: the latest stop was in force after ${Math.round(latest)} ms`);

      // A verdict's revision is what is in force, stops included; an edition's is that of its files.
      if (isStopped(followers[0]!)) await reinstateAtShelf(stand.shelf, { flag: "storm-mode" }, { key: stopKey, keys });
      const newest = await stand.shelf.newest(keys);
      expect(newest!.number).toBeGreaterThan(runs);
      const all = (of: (flags: Flags) => unknown) => new Set(followers.map(of));
      await expect
        .poll(() => all(({ origin }) => "edition" in origin && origin.edition))
        .toEqual(new Set([newest!.number]));
      await expect.poll(() => all(({ revision }) => revision)).toEqual(new Set([newest!.revision]));
      expect(told.flat()).toEqual([]);
      await holdFreight(folder, 119);
      await publishFolder(stand.shelf, { folder, key, keys, by: "Crew" });
      await expect.poll(() => all((flags) => flags.value("hold-minutes", freight))).toEqual(new Set([119]));
    },
    1_200_000,
  );
}

/** It publishes over and over, so that it is in the middle of something whenever it is killed. */
async function killOne(words: readonly string[]): Promise<void> {
  const child = spawn(process.execPath, [publisher, ...words], { stdio: ["ignore", "pipe", "inherit"] });
  await new Promise((resolve) => child.stdout.once("data", resolve));
  await sleep(Math.random() * 120);
  child.kill("SIGKILL");
  await new Promise((resolve) => child.once("exit", resolve));
  expect(child.signalCode).toBe("SIGKILL");
}
