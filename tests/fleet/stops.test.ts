import { readFile, rename, rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { type Flags, followFlags, type ShelfOptions } from "iudex";
import {
  folderShelf,
  publishAgain,
  publishFolder,
  reinstateAtShelf,
  type Shelf,
  signStopsAgain,
  suspendAtShelf,
  webShelf,
} from "iudex/fleet";
import { GeneralSign, importJWK } from "jose";
import { describe, expect, onTestFinished, test } from "vitest";
import { put, replace } from "../support/folders.ts";
import { sendFile, serve } from "../support/serve.ts";
import {
  copiedDemo,
  freight,
  holdFreight,
  keyPair,
  publisherAndStopper,
  scratchFolder,
  set,
  shelfKinds,
} from "../support/shelves.ts";
import { collected, next, sleep } from "../support/waiting.ts";

const by = "Crew";
const stop = { flag: "hold-minutes", who: "Duty desk", note: "too long" };

async function follow(shelf: Shelf, options: ShelfOptions = {}): Promise<Flags> {
  const flags = await followFlags(shelf, { environment: "production", ...options });
  onTestFinished(() => flags.close());
  return flags;
}

const causeOf = (flags: Flags) => flags.verdict("hold-minutes", freight).cause;

/** A shelf in a folder with one edition, signed. */
async function signedStand() {
  const keys = await publisherAndStopper();
  const directory = join(await scratchFolder(), "shelf");
  const shelf = folderShelf(directory, { set, every: 200 });
  const folder = await copiedDemo();
  await publishFolder(shelf, { folder, key: keys.key, by });
  const following = () => folderShelf(directory, { set, every: 200 });
  return { ...keys, directory, shelf, folder, following };
}

type Stand = Awaited<ReturnType<typeof signedStand>>;

/** Puts a list of stops on the shelf, made of whatever, signed by a key. */
async function forgeStops(
  { directory }: Stand,
  payload: object,
  key: Awaited<ReturnType<typeof keyPair>>["key"] | undefined,
): Promise<void> {
  const text = JSON.stringify({ stops: 1, set, changed: "2026-12-02T10:00:00Z", ...payload });
  const jws = new GeneralSign(new TextEncoder().encode(text));
  if (key)
    jws
      .addSignature(await importJWK(key, key.alg))
      .setProtectedHeader({ alg: key.alg, kid: key.kid, typ: "iudex-stops" });
  const list = key ? await jws.sign() : { payload: Buffer.from(text).toString("base64url"), signatures: [] };
  await putInOneStep(directory, "stops.json", JSON.stringify(list));
}

/** Writes aside and renames: a follower never reads a half of it, which it would rightly tell of. */
async function putInOneStep(directory: string, name: string, text: string): Promise<void> {
  await writeFile(join(directory, "aside"), text);
  await rename(join(directory, "aside"), join(directory, name));
}

describe.each(shelfKinds.filter(({ isHere }) => isHere))("a stop at a shelf: $name", (kind) => {
  test("is ended by no edition, whatever its folder says, and by no restart", async () => {
    const { key, stopKey, keys } = await publisherAndStopper();
    const stand = await kind.stand();
    const folder = await copiedDemo();
    const publish = () => publishFolder(stand.shelf, { folder, key, keys, by, set });
    await publish();
    const lastGood = join(await scratchFolder(), "good");
    const flags = await follow(await stand.following(), { keys, lastGood });
    const stopped = next(flags, "change");
    await suspendAtShelf(stand.shelf, stop, { key: stopKey, keys });
    await suspendAtShelf(stand.shelf, { flag: "storm-mode", note: "false alarm" }, { key: stopKey, keys });
    await stopped;

    const waysOver: (() => Promise<unknown>)[] = [
      async () => put(folder, "suspended.yaml", "iudex: 1\nsuspended: { seat-map: { note: another } }\n"),
      async () => put(folder, "suspended.yaml", "# nothing\niudex: 1\nsuspended: {}\n"),
      async () => put(folder, "suspended.yaml", "iudex: 1\nsuspended: { storm-mode: { note: the second of two } }\n"),
      async () => rm(join(folder, "suspended.yaml")),
      async () => holdFreight(folder, 125),
    ];
    for (const [i, change] of waysOver.entries()) {
      await change();
      const { edition } = await publish();
      await expect.poll(() => flags.origin).toMatchObject({ edition: edition!.number });
      expect([i, causeOf(flags)]).toEqual([i, "suspended"]);
    }
    await publishAgain(stand.shelf, 1, { key, keys, by });
    await expect.poll(() => flags.origin).toMatchObject({ edition: 7, stops: 2 });
    expect([causeOf(flags), flags.verdict("storm-mode", {}).cause]).toEqual(["suspended", "suspended"]);

    await flags.close();
    const again = await follow(await stand.following(), { keys, lastGood });
    expect(causeOf(again)).toBe("suspended");
    const fresh = await follow(await stand.following(), { keys });
    expect(causeOf(fresh)).toBe("suspended");
    const over = next(again, "change");
    await reinstateAtShelf(stand.shelf, { flag: "hold-minutes" }, { key: stopKey, keys });
    await over;
    expect(causeOf(again)).toBe("rule");
    expect(again.verdict("storm-mode", {}).cause).toBe("suspended");
  }, 60_000);

  test("of several stoppers at once each is in force", async () => {
    const { key, stopKey, keys } = await publisherAndStopper();
    const stand = await kind.stand();
    await publishFolder(stand.shelf, { folder: await copiedDemo(), key, by, set });
    const flags = await follow(await stand.following(), { keys });
    const names = ["hold-minutes", "storm-mode", "seat-map", "zone-fares"];
    await Promise.all(
      names.map((flag) => suspendAtShelf(stand.shelf, { flag, note: "all at once" }, { key: stopKey, keys })),
    );
    await expect.poll(() => flags.origin).toMatchObject({ stops: 4 });
    for (const flag of names) expect(flags.verdict(flag, freight).cause).toBe("suspended");
  });
});

describe("the list of stops", () => {
  test("stands beside editions, and says what suspended.yaml says", async () => {
    const stand = await signedStand();
    await suspendAtShelf(
      stand.shelf,
      { ...stop, environment: "production" },
      { key: stand.stopKey, keys: stand.keys, at: Date.parse("2026-12-02T10:14:00Z") },
    );
    const text = await readFile(join(stand.directory, "stops.json"), "utf8");
    const { payload, signatures } = JSON.parse(text) as { payload: string; signatures: { protected: string }[] };
    expect(JSON.parse(Buffer.from(payload, "base64url").toString())).toEqual({
      stops: 1,
      set,
      number: 1,
      changed: expect.stringMatching(/Z$/),
      suspended: {
        "hold-minutes": [{ since: "2026-12-02T10:14Z", who: "Duty desk", note: "too long", in: ["production"] }],
      },
    });
    expect(JSON.parse(Buffer.from(signatures[0]!.protected, "base64url").toString())).toMatchObject({
      kid: "stopper",
      typ: "iudex-stops",
    });
    expect(await readFile(join(stand.directory, "stops", "1.json"), "utf8")).toBe(text);
    await holdFreight(stand.folder, 125);
    const { edition } = await publishFolder(stand.shelf, {
      folder: stand.folder,
      key: stand.key,
      keys: stand.keys,
      by,
    });
    expect(edition).toMatchObject({ number: 2, stops: 1 });
  });

  test("one environment of everywhere is started again, and those that come later stay stopped", async () => {
    const stand = await signedStand();
    const request = { key: stand.stopKey, keys: stand.keys };
    await suspendAtShelf(stand.shelf, stop, request);
    const { plan, stops } = await reinstateAtShelf(
      stand.shelf,
      { flag: "hold-minutes", environment: "production" },
      request,
    );
    expect(stops!.suspended.get("hold-minutes")!.stops).toMatchObject([{ except: ["production"], note: "too long" }]);
    expect(plan.remarks).toEqual([]);
    expect(causeOf(await follow(stand.following(), { keys: stand.keys }))).toBe("rule");
    expect(causeOf(await follow(stand.following(), { keys: stand.keys, environment: "staging" }))).toBe("suspended");
  });

  test("where the files stop a flag too, the end of a stop says so", async () => {
    const stand = await signedStand();
    const request = { key: stand.stopKey, keys: stand.keys };
    await put(stand.folder, "suspended.yaml", "iudex: 1\nsuspended: { hold-minutes: { in: [staging] } }\n");
    await publishFolder(stand.shelf, { folder: stand.folder, key: stand.key, by });
    await suspendAtShelf(stand.shelf, stop, request);
    const { plan } = await reinstateAtShelf(stand.shelf, { flag: "hold-minutes" }, request);
    expect(plan.remarks).toEqual(["hold-minutes is still suspended in staging, by the files of the edition."]);
    await expect(reinstateAtShelf(stand.shelf, { flag: "hold-minutes" }, request)).rejects.toThrow(
      "hold-minutes is not stopped at the shelf; the files of its edition stop it.",
    );
  });

  test("a start that has seen nothing takes no older shelf than it is told of", async () => {
    const stand = await signedStand();
    const request = { key: stand.stopKey, keys: stand.keys };
    await suspendAtShelf(stand.shelf, stop, request);
    const from = (notBefore: object) => follow(stand.following(), { keys: stand.keys, notBefore });
    await expect(from({ edition: 2 })).rejects.toThrow(
      "The shelf shows edition 1, and notBefore asks for 2 or a later one.",
    );
    await expect(from({ stops: 3 })).rejects.toThrow(
      /shows list \d of the stops, and notBefore asks for list 3 or a later one/,
    );
    expect(causeOf(await from({ edition: 1, stops: 1 }))).toBe("suspended");
    await rm(join(stand.directory, "stops.json"));
    await rm(join(stand.directory, "stops"), { recursive: true });
    await expect(from({ stops: 1 })).rejects.toThrow("The shelf shows no list of stops");
  });

  test("that is missing, emptied, older, forged or of another key ends nothing, and is told of once", async () => {
    const stand = await signedStand();
    const request = { key: stand.stopKey, keys: stand.keys };
    await suspendAtShelf(stand.shelf, { flag: "storm-mode" }, request);
    const old = await readFile(join(stand.directory, "stops.json"), "utf8");
    await suspendAtShelf(stand.shelf, stop, request);
    const lastGood = join(await scratchFolder(), "good");
    const flags = await follow(stand.following(), { keys: stand.keys, lastGood });
    const problems = collected(flags, "problem");
    const stranger = await keyPair("stranger", "EdDSA", { "iudex-for": ["stops"] });
    const ways: [string, () => Promise<unknown>][] = [
      ["", () => rm(join(stand.directory, "stops.json"))],
      ["is refused: it is not signed", () => forgeStops(stand, { number: 3, suspended: {} }, undefined)],
      ["none of those known here", () => forgeStops(stand, { number: 3, suspended: {} }, stranger.key)],
      ["“2026-11”, which is not for stops", () => forgeStops(stand, { number: 3, suspended: {} }, stand.key)],
      ["is refused: its list is not JSON", () => putInOneStep(stand.directory, "stops.json", "{")],
      [
        "List 1 of the stops is refused: its number is below 2",
        async () => {
          await rm(join(stand.directory, "stops", "2.json"));
          await putInOneStep(stand.directory, "stops.json", old);
        },
      ],
    ];
    for (const [why, harm] of ways) {
      problems.length = 0;
      await harm();
      if (why !== "") await expect.poll(() => problems.map(({ message }) => message).join("\n")).toContain(why);
      await sleep(700);
      // Editions are confirmed meanwhile, look by look.
      expect([why, problems.length]).toEqual([why, why === "" ? 0 : 1]);
      expect([why, flags.health().sound]).toEqual([why, why === ""]);
      expect([why, causeOf(flags)]).toEqual([why, "suspended"]);
      const again = await follow(stand.following(), { keys: stand.keys, lastGood });
      expect([why, causeOf(again)]).toEqual([why, "suspended"]);
      await again.close();
    }
    // An edition comes into force all the same.
    await holdFreight(stand.folder, 125);
    await publishFolder(stand.shelf, {
      folder: stand.folder,
      key: stand.key,
      keys: stand.keys,
      by,
      despiteUnverified: true,
    });
    await expect.poll(() => flags.origin).toMatchObject({ edition: 2 });
    expect(causeOf(flags)).toBe("suspended");
  }, 60_000);

  test("that an edition names is waited for by who has seen none", async () => {
    const stand = await signedStand();
    await suspendAtShelf(stand.shelf, stop, { key: stand.stopKey, keys: stand.keys });
    await holdFreight(stand.folder, 125);
    await publishFolder(stand.shelf, { folder: stand.folder, key: stand.key, keys: stand.keys, by });
    await rename(join(stand.directory, "stops.json"), join(stand.directory, "away.json"));
    await expect(follow(stand.following(), { keys: stand.keys })).rejects.toThrow(
      "Edition 2 was published when list 1 of the stops stood, and the shelf shows no list of stops: not yet.",
    );
    const waiting = follow(stand.following(), { keys: stand.keys, wait: 20_000 });
    await sleep(700);
    await rename(join(stand.directory, "away.json"), join(stand.directory, "stops.json"));
    expect(causeOf(await waiting)).toBe("suspended");
  });

  test("two with one number, from two regions, both count until a larger one", async () => {
    const stand = await signedStand();
    const both = { number: 1, suspended: { "hold-minutes": [{ note: "here" }] } };
    await forgeStops(stand, both, stand.stopKey);
    const lastGood = join(await scratchFolder(), "good");
    const flags = await follow(stand.following(), { keys: stand.keys, lastGood });
    await forgeStops(stand, { number: 1, suspended: { "storm-mode": [{ note: "there" }] } }, stand.stopKey);
    await expect.poll(() => flags.verdict("storm-mode", {}).cause).toBe("suspended");
    expect(causeOf(flags)).toBe("suspended");
    await expect
      .poll(async () => causeOf(await follow(stand.following(), { keys: stand.keys, lastGood })))
      .toBe("suspended");
    await forgeStops(stand, { number: 2, suspended: {} }, stand.stopKey);
    await expect.poll(() => causeOf(flags)).toBe("rule");
  });

  test("by a key whose time is over adds stops and ends none; another key signs what stands", async () => {
    const stand = await signedStand();
    const [publisher, stopper] = stand.keys.keys;
    await suspendAtShelf(stand.shelf, stop, { key: stand.stopKey, keys: stand.keys });
    const successor = await keyPair("successor", "ES256", { "iudex-for": ["stops"] });
    const ended = { keys: [publisher!, { ...stopper!, exp: 1_700_000_000 }, ...successor.keys.keys] };
    const flags = await follow(stand.following(), { keys: ended });
    expect(causeOf(flags)).toBe("suspended");
    await forgeStops(stand, { number: 2, suspended: { "storm-mode": [{}] } }, stand.stopKey);
    await expect.poll(() => flags.verdict("storm-mode", {}).cause).toBe("suspended");
    expect(causeOf(flags)).toBe("suspended");
    const put = signStopsAgain(stand.shelf, { key: Object.assign({ exp: 1_700_000_000 }, stand.stopKey), keys: ended });
    await expect(put).rejects.toThrow("The key “stopper” ended 2023-11-14T22:13:20.000Z.");
    const { stops } = await signStopsAgain(stand.shelf, { key: successor.key, keys: ended });
    expect([...stops!.suspended.keys()].sort()).toEqual(["hold-minutes", "storm-mode"]);
    await reinstateAtShelf(stand.shelf, { flag: "hold-minutes" }, { key: successor.key, keys: ended });
    await expect.poll(() => causeOf(flags)).toBe("rule");
  });

  test("of a lost shelf is brought back from what a follower has kept", async () => {
    const stand = await signedStand();
    const request = { key: stand.stopKey, keys: stand.keys };
    await suspendAtShelf(stand.shelf, stop, request);
    const kept = await readFile(join(stand.directory, "stops.json"), "utf8");
    for (const name of ["stops.json", "stops", "edition.json", "editions"])
      await rm(join(stand.directory, name), { recursive: true });
    await expect(suspendAtShelf(stand.shelf, stop, request)).rejects.toThrow("holds no edition");
    await expect(signStopsAgain(stand.shelf, { ...request, kept: "{}", above: 7 })).rejects.toThrow(
      "The kept stops are not to be trusted",
    );
    const { stops } = await signStopsAgain(stand.shelf, { ...request, kept, above: 7 });
    expect([stops!.number, [...stops!.suspended.keys()]]).toEqual([8, ["hold-minutes"]]);
  });

  test("a key that was withdrawn keeps nobody out by a number that it has taken", async () => {
    const stand = await signedStand();
    const lost = await keyPair("lost", "EdDSA", { "iudex-for": ["editions", "stops"] });
    let keys = { keys: [...stand.keys.keys, ...lost.keys.keys] };
    await forgeStops(stand, { number: 900_000, suspended: { "storm-mode": [{}] } }, lost.key);
    const flags = await follow(stand.following(), { keys: () => keys });
    expect(flags.verdict("storm-mode", {}).cause).toBe("suspended");
    keys = stand.keys;
    await forgeStops(stand, { number: 1, suspended: { "hold-minutes": [{}] } }, stand.stopKey);
    await expect.poll(() => causeOf(flags)).toBe("suspended");
    expect(flags.verdict("storm-mode", {}).cause).not.toBe("suspended");
    await forgeStops(stand, { number: 1 + 2 ** 20 + 1, suspended: {} }, stand.stopKey);
    await expect.poll(() => collected(flags, "problem")).toBeDefined();
    await sleep(600);
    expect(causeOf(flags)).toBe("suspended");
  });
});

describe("nothing goes out that followers would refuse", () => {
  test.each<[string, string, (stand: Stand) => Promise<unknown>]>([
    [
      "an unsigned stop on a signed shelf",
      "What stands on the shelf is signed",
      ({ shelf }) => suspendAtShelf(shelf, stop, {}),
    ],
    [
      "an unsigned edition on a signed shelf",
      "not to be trusted|is signed",
      async ({ shelf, folder }) => {
        await holdFreight(folder, 125);
        return publishFolder(shelf, { folder, by });
      },
    ],
    [
      "a stop by a publisher's key",
      "The key “2026-11” is for editions, and not for stops",
      ({ shelf, key, keys }) => suspendAtShelf(shelf, stop, { key, keys }),
    ],
    [
      "an edition by a stopper's key",
      "The key “stopper” is for stops, and not for editions",
      async ({ shelf, folder, stopKey, keys }) => {
        await holdFreight(folder, 125);
        return publishFolder(shelf, { folder, by, key: stopKey, keys });
      },
    ],
    [
      "a stop by a key that the keys do not hold",
      "The keys do not hold the key “another”",
      async ({ shelf, keys }) =>
        suspendAtShelf(shelf, stop, {
          key: (await keyPair("another", "EdDSA", { "iudex-for": ["stops"] })).key,
          keys,
        }),
    ],
    [
      "a key whose name is in the keys, with another half",
      "It cannot be signed: its signature by the key “stopper” does not fit",
      async ({ shelf, keys }) =>
        suspendAtShelf(shelf, stop, {
          key: (await keyPair("stopper", "EdDSA", { "iudex-for": ["stops"] })).key,
          keys,
        }),
    ],
  ])("%s", async (_, why, act) => {
    const stand = await signedStand();
    await expect(act(stand)).rejects.toThrow(new RegExp(why));
    const flags = await follow(stand.following(), { keys: stand.keys });
    expect(flags.origin).toMatchObject({ edition: 1, stops: 0 });
  });

  test("unless it is meant; and a trial goes through everything and writes nothing", async () => {
    const stand = await signedStand();
    const { stops } = await suspendAtShelf(stand.shelf, stop, { key: stand.stopKey, keys: stand.keys, trial: true });
    expect(stops).toMatchObject({ number: 1 });
    await holdFreight(stand.folder, 125);
    const request = { folder: stand.folder, key: stand.key, by };
    expect((await publishFolder(stand.shelf, { ...request, trial: true })).edition).toMatchObject({ number: 2 });
    const flags = await follow(stand.following(), { keys: stand.keys });
    expect(flags.origin).toMatchObject({ edition: 1, stops: 0 });
    expect(await suspendAtShelf(stand.shelf, stop, { unsigned: true })).toMatchObject({ stops: { number: 1 } });
    await sleep(500);
    expect(causeOf(flags)).toBe("rule");
  });

  test.each<[string, string, (folder: string) => Promise<unknown>]>([
    [
      "another safe value",
      "another safe value",
      (folder) => replace(join(folder, "fares.yaml"), /(safe|gives): 15\b/g, "$1: 16"),
    ],
    [
      "a flag that is gone",
      "does not hold it any more",
      (folder) => replace(join(folder, "fares.yaml"), /hold-minutes:/, "hold-time:"),
    ],
  ])("an edition under which a stop would not do the same: %s", async (_, why, change) => {
    const stand = await signedStand();
    await suspendAtShelf(stand.shelf, stop, { key: stand.stopKey, keys: stand.keys });
    await change(stand.folder);
    const request = { folder: stand.folder, key: stand.key, keys: stand.keys, by };
    await expect(publishFolder(stand.shelf, request)).rejects.toThrow(
      new RegExp(`hold-minutes is stopped at the shelf, and the edition .*${why}`),
    );
    expect((await publishFolder(stand.shelf, { ...request, despiteStops: true })).edition).toMatchObject({ number: 2 });
  });
});

describe("two lanes", () => {
  test("a list of stops that cannot be had is told of once, while editions are confirmed", async () => {
    const stand = await signedStand();
    let isAway = false;
    const address = await serve((request, response) => {
      if (isAway && request.url === "/stops.json") return void response.writeHead(500).end();
      sendFile(join(stand.directory, request.url!), response);
    });
    const flags = await follow(webShelf(address, { every: 200 }), { keys: stand.keys });
    const problems = collected(flags, "problem");
    isAway = true;
    await sleep(1_500);
    expect(problems.map(({ message }) => message)).toEqual([expect.stringContaining("/stops.json answers 500")]);
  });

  test("a stop does not wait for an edition's file that comes one byte a second", async () => {
    const stand = await signedStand();
    let isSlow = false;
    const address = await serve((request, response) => {
      if (!isSlow || !request.url!.startsWith("/files/"))
        return sendFile(join(stand.directory, request.url!), response);
      const timer = setInterval(() => response.write("x"), 1_000);
      response.writeHead(200).on("close", () => clearInterval(timer));
    });
    const flags = await follow(webShelf(address, { every: 200 }), { keys: stand.keys });
    isSlow = true;
    await holdFreight(stand.folder, 125);
    await publishFolder(stand.shelf, { folder: stand.folder, key: stand.key, by });
    await sleep(1_500);
    const stopped = next(flags, "change");
    const start = performance.now();
    await suspendAtShelf(stand.shelf, stop, { key: stand.stopKey, keys: stand.keys });
    await stopped;
    expect(performance.now() - start).toBeLessThan(5_000);
    expect(causeOf(flags)).toBe("suspended");
    expect(flags.origin).toMatchObject({ edition: 1, stops: 1 });
    isSlow = false;
    await flags.close();
  }, 30_000);
});

describe("a number that is claimed", () => {
  test("and not pointed at, since its publisher fell asleep, is finished by the next one", async () => {
    const stand = await signedStand();
    const request = { key: stand.stopKey, keys: stand.keys };
    await suspendAtShelf(stand.shelf, stop, request);
    const first = await readFile(join(stand.directory, "stops.json"), "utf8");
    await suspendAtShelf(stand.shelf, { flag: "storm-mode" }, request);
    // As if it had slept before it pointed at the second; and as if it woke, and pointed at the first again.
    await putInOneStep(stand.directory, "stops.json", first);
    const flags = await follow(stand.following(), { keys: stand.keys });
    expect(flags.origin).toMatchObject({ stops: 2 });
    const { stops } = await suspendAtShelf(stand.shelf, { flag: "seat-map" }, request);
    expect([stops!.number, [...stops!.suspended.keys()].sort()]).toEqual([
      3,
      ["hold-minutes", "seat-map", "storm-mode"],
    ]);
  });
});
