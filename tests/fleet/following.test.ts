import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { type Flags, followFlags, formatExplanation, type ShelfOptions } from "iudex";
import { publishAgain, publishFolder, reinstateAtShelf, type Shelf, suspendAtShelf } from "iudex/fleet";
import { describe, expect, onTestFinished, test } from "vitest";
import {
  copiedDemo,
  freight,
  holdFreight,
  keyPair,
  publisherAndStopper,
  scratchFolder,
  set,
  shelfKind,
  shelfKinds,
} from "../support/shelves.ts";
import { collected, meeting, next } from "../support/waiting.ts";

const by = "Crew";

async function follow(shelf: Shelf, options: ShelfOptions = {}): Promise<Flags> {
  const flags = await followFlags(shelf, { environment: "production", ...options });
  onTestFinished(() => flags.close());
  return flags;
}

for (const kind of shelfKinds) {
  describe.skipIf(!kind.isHere)(`a shelf: ${kind.name}`, () => {
    test("what is published comes into force, and is said to", async () => {
      const { key, keys } = await keyPair();
      const stand = await kind.stand();
      const folder = await copiedDemo();
      await publishFolder(stand.shelf, { folder, key, by, set, note: "the first edition" });
      const flags = await follow(await stand.following(), { keys });
      expect(flags.origin).toMatchObject({ kind: "shelf", set, edition: 1, kept: false });
      expect(flags.value("hold-minutes", freight)).toBe(120);

      const change = next(flags, "change");
      await holdFreight(folder, 125);
      const { plan } = await publishFolder(stand.shelf, { folder, key, by, note: "more time" });
      expect(plan.files).toMatchObject({ all: 6, fresh: 1 });
      expect((await change).summary).toContain("hold-minutes: ");
      expect(flags.value("hold-minutes", freight)).toBe(125);
      expect(flags.origin).toMatchObject({ edition: 2 });
      expect(flags.origin).not.toHaveProperty("refused");

      const editions = [];
      for await (const edition of (await stand.following()).editions({ keys })) editions.push(edition);
      expect(editions.map(({ number, note }) => [number, note])).toEqual([
        [2, "more time"],
        [1, "the first edition"],
      ]);
    });

    test("the emergency stop needs no folder, and an older content brings no stopped flag back", async () => {
      const { key, stopKey, keys } = await publisherAndStopper();
      const stand = await kind.stand();
      const folder = await copiedDemo();
      await publishFolder(stand.shelf, { folder, key, by, set });
      await holdFreight(folder, 125);
      await publishFolder(stand.shelf, { folder, key, by });
      const flags = await follow(await stand.following(), { keys });

      const stopped = next(flags, "change");
      await suspendAtShelf(
        stand.shelf,
        { flag: "hold-minutes", who: "Duty desk", note: "too long" },
        { key: stopKey, keys },
      );
      expect((await stopped).changes).toMatchObject([{ part: "suspension", name: "hold-minutes", kind: "added" }]);
      expect(flags.verdict("hold-minutes", freight)).toMatchObject({ cause: "suspended" });

      const back = next(flags, "change");
      await publishAgain(stand.shelf, 1, { key, keys, by, note: "as it was" });
      await back;
      expect(flags.origin).toMatchObject({ edition: 3, stops: 1 });
      expect(flags.verdict("hold-minutes", freight)).toMatchObject({ cause: "suspended" });

      const again = next(flags, "change");
      await reinstateAtShelf(stand.shelf, { flag: "hold-minutes" }, { key: stopKey, keys });
      await again;
      expect(flags.verdict("hold-minutes", freight)).toMatchObject({ cause: "rule", value: 120 });
    });

    test("a restart goes by the kept copy while the shelf is away, and goes on with the shelf when it is back", async () => {
      const { key, keys } = await keyPair();
      const stand = await kind.stand();
      const folder = await copiedDemo();
      const lastGood = join(await scratchFolder(), "good");
      await publishFolder(stand.shelf, { folder, key, by, set });
      const first = await follow(await stand.following(), { keys, lastGood });
      await first.close();
      if (!stand.engine) return;

      const shelf = await stand.following();
      await stand.engine.kill();
      const second = await follow(shelf, { keys, lastGood });
      expect(second.origin).toMatchObject({ kind: "shelf", edition: 1, kept: true });
      expect(second.value("hold-minutes", freight)).toBe(120);

      await stand.engine.start();
      await expect.poll(() => second.origin).toMatchObject({ kept: false });
      const change = next(second, "change");
      await holdFreight(folder, 125);
      await publishFolder(await stand.following(), { folder, key, by }).catch(() =>
        publishFolder(stand.shelf, { folder, key, by }),
      );
      await change;
      expect(second.value("hold-minutes", freight)).toBe(125);
    });

    test.skipIf(kind.name === "folder")(
      "a server that is killed, or hangs, costs no verdict; what was missed comes after",
      async () => {
        const { key, keys } = await keyPair();
        const stand = await kind.stand();
        const folder = await copiedDemo();
        await publishFolder(stand.shelf, { folder, key, by, set });
        const flags = await follow(await stand.following(), { keys, staleAfter: 1_000 });
        const problems = collected(flags, "problem");

        await stand.engine!.kill();
        await expect
          .poll(() => problems.map(({ message }) => message).join("\n"))
          .toContain("has confirmed nothing for 1 seconds");
        expect(flags.value("hold-minutes", freight)).toBe(120);
        await stand.engine!.start();
        const change = next(flags, "change");
        await holdFreight(folder, 125);
        await retried(() => publishFolder(stand.shelf, { folder, key, by }));
        await change;

        stand.engine!.hang();
        await expect
          .poll(() => Date.now() - (flags.origin as { confirmed: Date }).confirmed.getTime())
          .toBeGreaterThan(1_500);
        expect(flags.value("hold-minutes", freight)).toBe(125);
        const later = next(flags, "change");
        stand.engine!.goOn();
        await holdFreight(folder, 129);
        await retried(() => publishFolder(stand.shelf, { folder, key, by }));
        await later;
        expect(flags.value("hold-minutes", freight)).toBe(129);
      },
    );

    test("a start without a copy fails at once and says why, or waits if it may", async () => {
      const stand = await kind.stand();
      const shelf = await stand.following();
      await expect(followFlags(shelf, { environment: "production" })).rejects.toThrow(
        "The shelf holds no edition. Nothing can be started from, and no lastGood is given.",
      );
      const waiting = follow(shelf, { wait: true });
      await publishFolder(stand.shelf, { folder: await copiedDemo(), by, set });
      expect((await waiting).origin).toMatchObject({ edition: 1 });
    });

    test("of publishers at the same moment one wins, and the others are told", async () => {
      const stand = await kind.stand();
      const folder = await copiedDemo();
      await publishFolder(stand.shelf, { folder, by, set });
      const folders = await Promise.all(
        [125, 126, 127].map(async (minutes) => {
          const own = await copiedDemo();
          await holdFreight(own, minutes);
          return own;
        }),
      );
      // Each has seen the same shelf before any of them publishes.
      const begin = meeting(folders.length);
      const confirm = () => begin().then(() => true);
      const told = await Promise.allSettled(
        folders.map((own) => publishFolder(stand.shelf, { folder: own, by, confirm })),
      );
      expect(told.filter(({ status }) => status === "fulfilled")).toHaveLength(1);
      for (const each of told)
        if (each.status === "rejected")
          expect(String(each.reason)).toContain("Meanwhile edition 2 (Crew) was published; yours was not.");
      expect((await stand.shelf.newest())!.number).toBe(2);
    });

    test.skipIf(!kind.hasPresence)(
      "the list of followers knows who follows, who refused what, and who has left",
      async () => {
        const { key, keys } = await keyPair();
        const stand = await kind.stand();
        const folder = await copiedDemo();
        await publishFolder(stand.shelf, { folder, key, by, set });
        const one = await follow(await stand.following(), { keys, name: "booking-api" });
        const other = await follow(await stand.following(), {
          keys: (await keyPair("another")).keys,
          name: "quay-screens",
          lastGood: await goodCopy(stand.shelf, keys),
        });
        expect(other.origin).toMatchObject({ kept: true, edition: 1 });
        await expect
          .poll(() => stand.shelf.followers())
          .toMatchObject([
            { name: "booking-api", edition: 1, environment: "production", process: process.pid },
            {
              name: "quay-screens",
              edition: 1,
              refused: { edition: 1, why: expect.stringContaining("“2026-11”, which is none of those known here") },
            },
          ]);
        expect(await stand.notesRunOut!()).toBeGreaterThan(0);
        expect(await stand.notesRunOut!()).toBeLessThanOrEqual(86_400_000);
        await one.close();
        expect((await stand.shelf.followers())?.map(({ name }) => name)).toEqual(["quay-screens"]);
      },
    );
  });
}

/** A folder that holds a copy of what stands on a shelf. */
async function goodCopy(shelf: Shelf, keys: ShelfOptions["keys"]): Promise<string> {
  const lastGood = join(await scratchFolder(), "good");
  const flags = await followFlags(shelf, { environment: "production", keys, lastGood });
  await flags.close();
  return lastGood;
}

/** Engines take a moment to let anybody in after a start. */
async function retried<T>(work: () => Promise<T>): Promise<T> {
  let fault: unknown;
  for (let i = 0; i < 100; i++) {
    try {
      return await work();
    } catch (error) {
      fault = error;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
  }
  throw fault;
}

test("an explanation says which list of a shelf holds an id", async () => {
  const [folderKind] = shelfKinds;
  const stand = await folderKind!.stand();
  await publishFolder(stand.shelf, { folder: await copiedDemo(), by, set });
  const flags = await follow(await stand.following());
  expect(flags.value("berth-view", { account: { id: "C-204" } })).toBe(true);
  const words = formatExplanation(flags.explain("berth-view", { account: { id: "C-204" } })!);
  expect(words).toContain("account.id is C-204, which is in lists/pilot-captains.csv");
});

test("a developer's overrides stand on top of a shelf, where the environment allows it", async () => {
  const stand = await shelfKinds[0]!.stand();
  await publishFolder(stand.shelf, { folder: await copiedDemo(), by, set });
  const localOverrides = join(await scratchFolder(), "overrides.local.yaml");
  await writeFile(localOverrides, "iudex: 1\noverrides:\n  hold-minutes: 99\n");
  const own = await follow(await stand.following(), { environment: "local", localOverrides });
  expect(own.value("hold-minutes", freight)).toBe(99);
  const theirs = await follow(await stand.following(), { localOverrides });
  expect(theirs.value("hold-minutes", freight)).toBe(120);
});

test("going back stays until another content comes; a stop counts at once and brings nothing else", async () => {
  const stand = await shelfKinds[0]!.stand();
  const folder = await copiedDemo();
  await publishFolder(stand.shelf, { folder, by, set });
  const flags = await follow(await stand.following());
  const first = flags.revision;
  const change = next(flags, "change");
  await holdFreight(folder, 125);
  await publishFolder(stand.shelf, { folder, by });
  await change;
  flags.goBackTo(first);
  expect(flags.value("hold-minutes", freight)).toBe(120);
  const stopped = next(flags, "change");
  await suspendAtShelf(stand.shelf, { flag: "storm-mode" }, {});
  await stopped;
  expect(flags.verdict("storm-mode", {})).toMatchObject({ cause: "suspended" });
  expect(flags.value("hold-minutes", freight)).toBe(120);
  await holdFreight(folder, 129);
  await writeFile(join(folder, "suspended.yaml"), "iudex: 1\nsuspended:\n  storm-mode: { since: 2026-11-26T00:00Z }\n");
  await publishFolder(stand.shelf, { folder, by });
  // Going back is told of as well, so that the next event may not be this one's.
  await expect.poll(() => flags.value("hold-minutes", freight)).toBe(129);
});

test.skipIf(!shelfKind("Redis").isHere)(
  "a Redis that has lost everything changes nothing, until it has a higher edition",
  async () => {
    const stand = await shelfKind("Redis").stand();
    const folder = await copiedDemo();
    await publishFolder(stand.shelf, { folder, by, set });
    await holdFreight(folder, 125);
    await publishFolder(stand.shelf, { folder, by });
    const flags = await follow(await stand.following());
    const problems = collected(flags, "problem");
    await stand.empty!();
    await expect.poll(() => problems.map(({ message }) => message)).toContain("The shelf holds no edition any more.");
    await holdFreight(folder, 126);
    await publishFolder(stand.shelf, { folder, by, set });
    await expect.poll(() => flags.origin).toMatchObject({ edition: 2, refused: { edition: 1 } });
    await holdFreight(folder, 127);
    await publishFolder(stand.shelf, { folder, by, above: 2 });
    await expect.poll(() => flags.value("hold-minutes", freight)).toBe(127);
  },
);
