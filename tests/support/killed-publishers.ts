import { spawn } from "node:child_process";
import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { followFlags } from "iudex";
import { publishFolder, reinstateAtShelf, suspendAtShelf } from "iudex/fleet";
import { expect, onTestFinished, test } from "vitest";
import { kills } from "./runs.ts";
import { copiedDemo, holdFreight, publisherAndStopper, type ShelfKind, scratchFolder, set } from "./shelves.ts";
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
      const flags = await followFlags(await stand.following({ every: 200 }), { environment: "production", keys });
      onTestFinished(() => flags.close());
      const told = [collected(flags, "problem"), collected(flags, "rejected")];
      const keyFile = join(await scratchFolder(), "key.json");
      const keysFile = join(await scratchFolder(), "keys.json");
      await writeFile(keyFile, JSON.stringify(key));
      await writeFile(keysFile, JSON.stringify(keys));
      const isStopped = () => flags.verdict("storm-mode", {}).cause === "suspended";
      let stops = 0;
      for (let i = 0; i < runs; i++) {
        const killing = killOne([kind.name, stand.address, folder, keyFile, String(i), keysFile]);
        const change = i % 2 === 0 ? suspendAtShelf : reinstateAtShelf;
        const { stops: put } = await change(stand.shelf, { flag: "storm-mode" }, { key: stopKey, keys });
        const returned = performance.now();
        await expect.poll(isStopped, { interval: 10 }).toBe(i % 2 === 0);
        expect(performance.now() - returned).toBeLessThan(2_000);
        expect(put!.number).toBe(++stops);
        await killing;
        const restarted = await followFlags(await stand.following({ every: 200 }), { environment: "production", keys });
        expect(restarted.verdict("storm-mode", {}).cause === "suspended").toBe(i % 2 === 0);
        await restarted.close();
      }

      // A verdict's revision is what is in force, stops included; an edition's is that of its files.
      if (isStopped()) await reinstateAtShelf(stand.shelf, { flag: "storm-mode" }, { key: stopKey, keys });
      const newest = await stand.shelf.newest(keys);
      expect(newest!.number).toBeGreaterThan(runs);
      await expect.poll(() => flags.origin).toMatchObject({ edition: newest!.number });
      await expect.poll(() => flags.revision).toBe(newest!.revision);
      expect(told).toEqual([[], []]);
      await holdFreight(folder, 119);
      await publishFolder(stand.shelf, { folder, key, keys, by: "Crew" });
      await expect.poll(() => flags.value("hold-minutes", { account: { plan: "freight" } })).toBe(119);
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
