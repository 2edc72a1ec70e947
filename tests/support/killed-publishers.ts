import { spawn } from "node:child_process";
import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { followFlags } from "iudex";
import { publishFolder } from "iudex/fleet";
import { expect, onTestFinished, test } from "vitest";
import { kills } from "./runs.ts";
import { copiedDemo, holdFreight, keyPair, type ShelfKind, scratchFolder, set } from "./shelves.ts";
import { collected, sleep } from "./waiting.ts";

const runs = kills(6);

export const publisher = fileURLToPath(new URL("publisher.mjs", import.meta.url));

/** Publishers that are killed at any step leave a shelf of this kind sound, and its followers at the newest edition. */
export function testKilledPublishers(kind: ShelfKind): void {
  test.skipIf(!kind.isHere)(
    `publishers that are killed at any step leave ${kind.name} sound, ${runs} times`,
    async () => {
      const { key, keys } = await keyPair();
      const stand = await kind.stand();
      const folder = await copiedDemo();
      await publishFolder(stand.shelf, { folder, key, by: "Crew", set });
      const flags = await followFlags(await stand.following({ every: 200 }), { environment: "production", keys });
      onTestFinished(() => flags.close());
      const told = [collected(flags, "problem"), collected(flags, "rejected")];
      const keyFile = join(await scratchFolder(), "key.json");
      await writeFile(keyFile, JSON.stringify(key));
      for (let i = 0; i < runs; i++) await killOne([kind.name, stand.address, folder, keyFile, String(i)]);

      const newest = await stand.shelf.newest(keys);
      expect(newest!.number).toBeGreaterThan(runs);
      await expect.poll(() => flags.origin).toMatchObject({ edition: newest!.number });
      expect(flags.revision).toBe(newest!.revision);
      expect(told).toEqual([[], []]);
      await holdFreight(folder, 119);
      await publishFolder(stand.shelf, { folder, key, by: "Crew" });
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
