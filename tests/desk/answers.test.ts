import { spawnSync } from "node:child_process";
import { existsSync } from "node:fs";
import { cp, mkdir, readdir, readFile, rm, writeFile } from "node:fs/promises";
import { hostname, tmpdir } from "node:os";
import { basename, join } from "node:path";
import { folderShelf, publishFolder } from "iudex/fleet";
import { describe, expect, it } from "vitest";
import { type Asker, startDesk } from "../support/desk.ts";
import { demoFolder, folderWith, replace } from "../support/folders.ts";
import { demoRepository } from "../support/repository.ts";
import { keyPair, publisherAndStopper } from "../support/shelves.ts";

const raised = { change: "flag", flag: "zone-fares", rule: "frequent travellers, one in ten", share: "40%" };

async function draftOf(asker: Asker, ...changes: readonly object[]) {
  for (const change of changes) {
    const added = await asker.post("api/draft/add", { change });
    expect([added.status, added.body.title]).toEqual([200, undefined]);
  }
  return (await asker.get("api/draft/review")).body as { number: number; version: string; [key: string]: unknown };
}

describe("versions of the definitions", () => {
  it("are the files as they stand, an earlier revision, and one's own draft", async () => {
    const { folder } = await demoRepository();
    await replace(join(folder, "fares.yaml"), "share: 10%", "share: 20%");
    const { as } = await startDesk({ folder });
    const ylva = as("Ylva");
    await draftOf(ylva, raised);
    const shareBy = async (by: string) => {
      const { body } = await ylva.get(`api/set?by=${encodeURIComponent(by)}`);
      const fares = body.documents.find(({ file }: { file: string }) => file === "fares.yaml");
      return fares.data.flags["zone-fares"].rules[1].share as string;
    };
    expect([await shareBy("files"), await shareBy("commit:HEAD"), await shareBy("draft")]).toEqual([
      "20%",
      "10%",
      "40%",
    ]);
    for (const by of ["commit:nothing", "commit:--all", "commit:HEAD:x"])
      expect([by, (await ylva.get(`api/set?by=${encodeURIComponent(by)}`)).status]).toEqual([by, 404]);
    expect((await ylva.get("api/set?by=tomorrow")).status).toBe(400);
  });

  it("go on with what could be used last while the files are broken, and a flag can be stopped all the same", async () => {
    const { as, folder } = await startDesk();
    const nils = as("Nils");
    expect((await nils.get("api/set")).body.broken).toBe(false);
    await writeFile(join(folder, "fares.yaml"), "flags: [");
    await expect.poll(async () => (await nils.get("api/set")).body.broken).toBe(true);
    const { body } = await nils.get("api/set");
    expect([body.errors, body.documents.length]).toEqual([1, 5]);
    expect((await nils.get("api/problems")).body.problems[0]).toMatchObject({ file: "fares.yaml", severity: "error" });
    const stopped = await nils.post("api/suspend", { flag: "zone-fares", note: "the file is broken as well" });
    expect([stopped.status, stopped.body.written]).toEqual([200, true]);
    expect((await nils.get("api/set")).body.suspended.data.suspended["zone-fares"]).toMatchObject({ who: "Nils" });
  });

  it("show what was stopped last where the file of stops cannot tell, and stop and start what it takes", async () => {
    const { as, folder } = await startDesk();
    const nils = as("Nils");
    const stops = async () => (await nils.get("api/set")).body.suspended?.data.suspended as object | undefined;
    await nils.post("api/suspend", { flag: "zone-fares", note: "fares off by one zone", environment: "production" });
    await nils.post("api/suspend", { flag: "seat-map", note: "the wrong deck" });
    const before = await stops();
    expect(Object.keys(before!)).toEqual(["zone-fares", "seat-map"]);
    await writeFile(join(folder, "suspended.yaml"), "iudex: 1\nsuspended: { zone-f");
    await expect.poll(async () => (await nils.get("api/set")).body.errors).toBe(1);
    expect(await stops()).toEqual(before);

    const stopped = await nils.post("api/suspend", { flag: "storm-mode", note: "false alarm" });
    expect([stopped.status, stopped.body.written]).toEqual([200, true]);
    expect(await stops()).toMatchObject({ ...before, "storm-mode": { note: "false alarm" } });
    expect((await nils.get("api/set")).body.errors).toBe(0);

    await writeFile(join(folder, "suspended.yaml"), "");
    await expect.poll(async () => (await nils.get("api/set")).body.errors).toBe(1);
    const started = await nils.post("api/reinstate", { flag: "seat-map" });
    expect([started.status, started.body.written]).toEqual([200, true]);
    expect(Object.keys((await stops())!)).toEqual(["zone-fares", "storm-mode"]);
    expect(await readFile(join(folder, "suspended.yaml"), "utf8")).toContain(
      "note: fares off by one zone, in: [production]",
    );
  });

  it("say plainly where nothing could ever be used, and a folder that comes later is taken", async () => {
    const home = await folderWith({});
    const folder = join(home, "later");
    const { as } = await startDesk({ folder });
    expect((await as("Runa").get("api/set")).body).toMatchObject({ documents: [], broken: true });
    await mkdir(folder);
    await cp(demoFolder, folder, { recursive: true });
    await expect.poll(async () => (await as("Runa").get("api/set")).body.broken).toBe(false);
  });

  it("hold the ids of short lists, and answer for long ones one by one", async () => {
    const ids = Array.from({ length: 5_000 }, (_, i) => `X-${i}`);
    const folder = await folderWith({
      "flags.yaml":
        "iudex: 1\ncohorts:\n  long: { of: account.id, file: long.csv }\n  short: { of: account.id, file: short.txt }\nflags:\n  f: { safe: false, rules: [{ when: 'cohort:long', give: true }] }\n",
      "long.csv": `name,id\n${ids.map((id) => `"a, b",${id}`).join("\n")}\n`
        .replace("name,id", "id,name")
        .replace(/"a, b",(X-\d+)/g, '$1,"a, b"'),
      "short.txt": "A-1\nA-2\n",
    });
    const { as } = await startDesk({ folder });
    const runa = as("Runa");
    const { lists } = (await runa.get("api/set")).body;
    expect(
      lists.map(({ file, size, ids: sent }: { file: string; size: number; ids?: string[] }) => [file, size, sent]),
    ).toEqual([
      ["long.csv", 5_000, undefined],
      ["short.txt", 2, ["A-1", "A-2"]],
    ]);
    const asked = [
      { cohort: "long", id: "X-4999" },
      { cohort: "long", id: "X-5000" },
      { cohort: "nobody", id: "X-1" },
    ];
    const { answers } = (await runa.post("api/listed", { by: "files", asked, where: true })).body;
    expect(answers).toEqual([
      { cohort: "long", id: "X-4999", listed: true, where: "long.csv:5001" },
      { cohort: "long", id: "X-5000", listed: false },
      { cohort: "nobody", id: "X-1", listed: false },
    ]);
  });
});

describe("people", () => {
  it("are found by any attribute, and counted in one reading for many flags", async () => {
    const { as } = await startDesk();
    const runa = as("Runa");
    const found = (await runa.post("api/people", { file: "passengers.csv", find: "FREIGHT" })).body;
    expect(found.people).toHaveLength(12);
    expect(
      found.people.every(
        ({ context }: { context: { account: { plan: string } } }) => context.account.plan === "freight",
      ),
    ).toBe(true);
    const at = Date.parse("2026-12-05T12:00Z");
    const request = {
      by: "files",
      file: "passengers.csv",
      at,
      flags: ["hold-minutes", "zone-fares", "gone"],
      environments: ["staging", "production"],
    };
    const lines = [(await runa.post("api/census", request)).body].flat();
    const { counts, contexts } = lines.at(-1);
    expect(contexts).toBe(240);
    expect(
      counts.map(({ flag, environment }: { flag: string; environment: string }) => `${flag} ${environment}`),
    ).toEqual(["hold-minutes staging", "zone-fares staging", "hold-minutes production", "zone-fares production"]);
    expect(counts[1].values).toEqual(
      [{ value: true, variant: undefined, count: 240, percent: 100 }].map(({ variant: _, ...rest }) => rest),
    );
  });

  it("lie somewhere for a share: as many as a census counts are below it", async () => {
    const { as } = await startDesk();
    const runa = as("Runa");
    const at = Date.parse("2026-11-30T12:00Z");
    const request = { by: "files", flag: "zone-fares", rule: 2, environment: "production", file: "passengers.csv" };
    const counted = async (more: object) => {
      const { text, body } = await runa.post("api/positions", { ...request, instants: [at], changes: [], ...more });
      return {
        text,
        positions: [body]
          .flat()
          .at(-1)
          .positions?.map(({ after }: { after: unknown }) => after),
      };
    };
    const [positions] = (await counted({})).positions;
    const census = { by: "files", file: "passengers.csv", at, flags: ["zone-fares"], environments: ["production"] };
    const { counts } = [(await runa.post("api/census", census)).body].flat().at(-1);
    const [division] = counts[0].divisions;
    expect([positions.asked, positions.below[99], positions.below[999]]).toEqual([
      division.asked,
      division.share.count,
      division.asked,
    ]);
    expect((await counted({ rule: 9 })).text).toContain("zone-fares has no rule 9 there.");
    // A change that is being written counts as it would be, and nothing of it is kept.
    const change = { change: "flag", flag: "zone-fares", rule: "2", when: "trips > 200" };
    const [tried] = (await counted({ changes: [{ change }] })).positions;
    expect(tried.asked).toBeLessThan(positions.asked);
    expect((await counted({})).positions).toEqual([positions]);
    // The rule is at hand later as well; it asks fewer once another before it takes more.
    expect((await counted({ rule: 3, instants: [at, at + 10 * 86_400_000] })).positions.length).toBe(2);
    const wrong = { ...change, when: "trips >" };
    expect((await counted({ changes: [{ change: wrong }] })).text).toContain('"failed"');
  });
});

describe("a draft", () => {
  it("is gathered, looked through and written; comments and layout stay", async () => {
    const { as, folder } = await startDesk();
    const ylva = as("Ylva");
    const before = await readFile(join(folder, "fares.yaml"), "utf8");
    const review = await draftOf(ylva, raised, { change: "ids", cohort: "pilot-captains", add: ["C-999"] });
    expect(review).toMatchObject({
      files: ["fares.yaml", "lists/pilot-captains.csv"],
      refused: [],
      left: [],
      record: { as: "files" },
    });
    expect(review["changes"]).toEqual([
      {
        part: "flag",
        name: "zone-fares",
        kind: "changed",
        words: ["rule “frequent travellers, one in ten”: share raised from 10% to 40%"],
      },
      expect.objectContaining({ part: "cohort", name: "pilot-captains" }),
    ]);
    const written = await ylva.post("api/draft/write", { ...review, note: "They have waited long enough" });
    expect([written.status, written.body.written]).toEqual([200, true]);
    expect(await readFile(join(folder, "fares.yaml"), "utf8")).toBe(before.replace("share: 10%", "share: 40%"));
    expect(await readFile(join(folder, "lists/pilot-captains.csv"), "utf8")).toMatch(/\nC-999,*\n$/);
    expect((await ylva.get("api/draft")).body.changes).toEqual([]);
  });

  it("says at once what does not fit, and is not changed by it", async () => {
    const { as } = await startDesk();
    const ylva = as("Ylva");
    const cases = [
      [{ change: "flag", flag: "zone-fare", safe: "true" }, "did you mean zone-fares?"],
      [{ ...raised, share: "140%" }, /write 25%/],
      [{ change: "flag", flag: "zone-fares", rule: "1", when: "cohort:crews" }, /did you mean/],
      [{ change: "cohort", cohort: "crew", isNew: true, when: "trips > 1" }, /another name/],
      [{ change: "new-flag", flag: "x y", safe: "true" }, /letter first/],
      [{ change: "new-flag", flag: "fresh", safe: "true", file: "../fresh.yaml" }, /inside the folder/],
    ] as const;
    for (const [change, help] of cases) {
      const { status, body } = await ylva.post("api/draft/add", { change });
      expect([change, status, `${body.title} ${body.detail}`]).toEqual([change, 409, expect.stringMatching(help)]);
    }
    expect((await ylva.get("api/draft")).body).toEqual({ number: 0, changes: [] });
  });

  it("outlives the process, and a draft that cannot be read is set aside", async () => {
    const desk = await startDesk();
    await draftOf(desk.as("Ylva"), raised);
    await desk.restart();
    expect((await desk.as("Ylva").get("api/draft")).body.changes).toHaveLength(1);
    const { readdir } = await import("node:fs/promises");
    const [file] = await readdir(desk.drafts);
    await writeFile(join(desk.drafts, file!), '{"number": 1, "steps": [{"id":');
    await desk.restart();
    expect((await desk.as("Ylva").get("api/draft")).body.changes).toEqual([]);
    expect((await readdir(desk.drafts)).some((name) => name.includes("unreadable"))).toBe(true);
  });

  it("is worked out anew when files change underneath, and what no longer fits is said and kept", async () => {
    const { as, folder } = await startDesk();
    const ylva = as("Ylva");
    const review = await draftOf(ylva, raised, { change: "flag", flag: "hold-minutes", owner: "quay-team" });
    await replace(join(folder, "fares.yaml"), "frequent travellers, one in ten", "frequent travellers");
    await expect
      .poll(async () => (await ylva.get("api/draft")).body.changes[0].fault?.message)
      .toMatch(/There is no rule/);
    const outdated = await ylva.post("api/draft/write", { ...review, note: "x" });
    expect([outdated.status, outdated.body.detail]).toEqual([409, "look at the draft again"]);
    const again = (await ylva.get("api/draft/review")).body;
    expect(again.left).toHaveLength(1);
    expect((await ylva.post("api/draft/write", { ...again, note: "The rest of it" })).status).toBe(200);
    expect(await readFile(join(folder, "fares.yaml"), "utf8")).toContain("owner: quay-team");
    expect((await ylva.get("api/draft")).body.changes.map(({ change }: { change: object }) => change)).toEqual([
      raised,
    ]);
  });

  it("is not written over what was saved a moment ago, and nobody has looked at", async () => {
    const { as, folder } = await startDesk();
    const review = await draftOf(as("Ylva"), raised);
    // So quickly that no watcher can have told of it.
    const [, answer] = await Promise.all([
      replace(join(folder, "fares.yaml"), "about: How long", "about: For how long"),
      new Promise((done) => setTimeout(done, 20)).then(() =>
        as("Ylva").post("api/draft/write", { ...review, note: "x" }),
      ),
    ]);
    expect([answer.status, answer.body.detail]).toEqual([409, "look at the draft again"]);
    const text = await readFile(join(folder, "fares.yaml"), "utf8");
    expect([text.includes("share: 10%"), text.includes("For how long")]).toEqual([true, true]);
  });

  it("that comes to what the files say already is not written, and that is said", async () => {
    const { as } = await startDesk();
    const review = await draftOf(as("Ylva"), raised, { ...raised, share: "10%" });
    expect(review).toMatchObject({ files: [], changes: [], left: [] });
    const refused = await as("Ylva").post("api/draft/write", { ...review, note: "x" });
    expect([refused.status, refused.body.title]).toEqual([409, "The files say so already."]);
    expect((await as("Ylva").get("api/draft")).body.changes).toHaveLength(2);
  });

  it("that would break an example is not written", async () => {
    const { as, folder } = await startDesk();
    const before = await readFile(join(folder, "fares.yaml"), "utf8");
    const review = await draftOf(as("Ylva"), { change: "flag", flag: "hold-minutes", rule: "1", give: "90" });
    expect(review["refused"]).toEqual([expect.objectContaining({ code: "example-fails" })]);
    const refused = await as("Ylva").post("api/draft/write", { ...review, note: "x" });
    expect([refused.status, refused.body.title]).toEqual([409, expect.stringContaining("This example gives 90")]);
    expect(await readFile(join(folder, "fares.yaml"), "utf8")).toBe(before);
    expect((await as("Ylva").get("api/draft")).body.changes).toHaveLength(1);
  });

  it("whose second file cannot be written gives the first back what it held", async () => {
    const { as, folder } = await startDesk();
    // A list that would have to stand inside of a file.
    const list = "lists/pilot-captains.csv/more.csv";
    const change = { change: "cohort", cohort: "more", isNew: true, of: "account.id", list, ids: ["C-1"] };
    const review = await draftOf(as("Ylva"), raised, change);
    const before = await readFile(join(folder, "fares.yaml"), "utf8");
    const failed = await as("Ylva").post("api/draft/write", { ...review, note: "x" });
    expect([failed.status, failed.body.detail]).toEqual([409, "nothing was changed"]);
    expect(failed.body.title).toContain("is a link or a file, not a folder");
    expect(await readFile(join(folder, "fares.yaml"), "utf8")).toBe(before);
    expect((await as("Ylva").get("api/draft")).body.changes).toHaveLength(2);
  });

  it("of two people is written one after the other, and each keeps what the other wrote", async () => {
    const { as, folder } = await startDesk();
    const [ylva, tarn] = [as("Ylva"), as("Tarn")];
    const first = await draftOf(ylva, raised);
    await draftOf(tarn, { change: "flag", flag: "hold-minutes", owner: "quay-team" });
    expect((await ylva.post("api/draft/write", { ...first, note: "a" })).status).toBe(200);
    const second = (await tarn.get("api/draft/review")).body;
    expect((await tarn.post("api/draft/write", { ...second, note: "b" })).status).toBe(200);
    const text = await readFile(join(folder, "fares.yaml"), "utf8");
    expect([text.includes("share: 40%"), text.includes("owner: quay-team")]).toEqual([true, true]);
  });

  it("reaches people, by rule", async () => {
    const { as } = await startDesk();
    await draftOf(as("Ylva"), raised);
    const at = Date.parse("2026-11-30T12:00Z");
    const asked = { file: "passengers.csv", at, environments: ["production"] };
    const { reach } = [(await as("Ylva").post("api/draft/reach", asked)).body].flat().at(-1);
    expect(reach[0]).toMatchObject({ environment: "production", people: 240 });
    expect(reach[0].reached).toBeGreaterThan(5);
    expect(reach[0].flags[0].moves[0].to).toMatchObject({ value: true, rule: 2 });
  });

  it("puts a flag back as it was, and touches nothing that is the same", async () => {
    const { folder } = await demoRepository();
    const before = await readFile(join(folder, "fares.yaml"), "utf8");
    await replace(join(folder, "fares.yaml"), "share: 10%", "share: 20%");
    await replace(join(folder, "fares.yaml"), "about: How long", "about: For how long");
    const { as } = await startDesk({ folder });
    const review = await draftOf(as("Ylva"), { change: "restore", flag: "zone-fares", commit: "HEAD" });
    await as("Ylva").post("api/draft/write", { ...review, note: "It was a mistake" });
    const after = await readFile(join(folder, "fares.yaml"), "utf8");
    expect(after).toBe(before.replace("about: How long", "about: For how long"));
  });
});

describe("how it is recorded", () => {
  it("as a commit in the name of whoever wrote it, with note and meaning", async () => {
    const { folder, git } = await demoRepository();
    const { as } = await startDesk({ folder, record: "commit" });
    const review = await draftOf(as("Ylva"), raised);
    const { body } = await as("Ylva").post("api/draft/write", { ...review, note: "They have waited" });
    expect(body.commit).toMatch(/^[0-9a-f]{40}$/);
    expect(git("log", "-1", "--format=%an|%B").trim()).toBe(
      "Ylva|They have waited\n\nzone-fares: rule “frequent travellers, one in ten”: share raised from 10% to 40%",
    );
    const { entries } = (await as("Runa").get("api/history?flag=zone-fares")).body;
    expect(entries[0]).toMatchObject({ author: "Ylva", commit: body.commit });
    await as("Nils").post("api/suspend", { flag: "seat-map", note: "the wrong deck" });
    expect(git("log", "-1", "--format=%an|%s").trim()).toBe("Nils|the wrong deck");
    expect(git("status", "--porcelain").trim()).toBe("");
  });

  it("as a commit on a branch of its own, and the files stay as they are", async () => {
    const { folder, git } = await demoRepository();
    const { as } = await startDesk({ folder, record: { branchUnder: "desk" } });
    const before = await readFile(join(folder, "fares.yaml"), "utf8");
    const review = await draftOf(as("Ylva"), raised);
    // What a process left behind that was killed at the same work.
    const { pid } = spawnSync(process.execPath, ["--version"]);
    const left = join(tmpdir(), `iudex-branch-${hostname().replace(/[^a-zA-Z0-9.]/g, "_")}-${pid}-left`);
    await mkdir(left);
    const { body } = await as("Ylva").post("api/draft/write", { ...review, note: "For review" });
    expect(await readdir(tmpdir())).not.toContain(basename(left));
    expect(body.branch).toMatch(/^desk\/\d{14}-ylva$/);
    expect(await readFile(join(folder, "fares.yaml"), "utf8")).toBe(before);
    expect(git("show", `${body.branch}:flags/fares.yaml`)).toBe(before.replace("share: 10%", "share: 40%"));
    expect(git("status", "--porcelain").trim()).toBe("");
    expect((await as("Ylva").get("api/draft")).body.changes).toEqual([]);
  });

  it("as the next edition of a shelf; where the shelf is gone, the files are written and that is said", async () => {
    const { key, keys } = await keyPair();
    const home = await folderWith({});
    const shelf = folderShelf(join(home, "shelf"));
    const { as, folder } = await startDesk({ record: { shelf, key } });
    const ylva = as("Ylva");
    const first = await draftOf(ylva, raised);
    expect((await ylva.post("api/draft/write", { ...first, note: "They have waited" })).body.edition).toBe(1);
    const editions = [];
    for await (const { number, by, note } of shelf.editions({ keys })) editions.push([number, by, note]);
    expect(editions).toEqual([[1, "Ylva", "They have waited"]]);
    await rm(join(home, "shelf"), { recursive: true });
    await writeFile(join(home, "shelf"), "no folder any more");
    const second = await draftOf(ylva, { change: "flag", flag: "hold-minutes", owner: "quay-team" });
    const failed = await ylva.post("api/draft/write", { ...second, note: "x" });
    expect([failed.status, failed.body.written]).toEqual([200, true]);
    expect(failed.body.unrecorded).toMatch(/^The files are written, but not published/);
    expect(await readFile(join(folder, "fares.yaml"), "utf8")).toContain("owner: quay-team");
    expect((await ylva.get("api/draft")).body.changes).toEqual([]);
    // Nobody is stopped where the shelf does not take it: that is not a success with a note.
    expect((await as("Nils").post("api/suspend", { flag: "seat-map", note: "x" })).status).toBe(503);
  });

  it("as a stop at the shelf alone, by a key of its own, however broken the folder is", async () => {
    const { key, stopKey, keys } = await publisherAndStopper();
    const shelf = folderShelf(join(await folderWith({}), "shelf"));
    const { as, folder } = await startDesk({ record: { shelf, key, stopKey }, keys });
    const nils = as("Nils");
    await shelf.prepare();
    const none = await nils.post("api/suspend", { flag: "seat-map", note: "the wrong deck" });
    expect([none.status, none.body.title]).toEqual([409, expect.stringContaining("holds no edition")]);
    await publishFolder(shelf, { folder, key, by: "Nightly build" });
    await replace(join(folder, "fares.yaml"), "share: 10%", "share: 99%");
    await writeFile(join(folder, "people.yaml"), "cohorts: [");
    const stopped = await nils.post("api/suspend", { flag: "seat-map", note: "the wrong deck" });
    expect(stopped.body).toMatchObject({ written: true, changes: [{ name: "seat-map", kind: "added" }] });
    expect((await shelf.newest(keys))?.number).toBe(1);
    expect([...(await shelf.stops(keys))!.suspended.keys()]).toEqual(["seat-map"]);
    expect(existsSync(join(folder, "suspended.yaml"))).toBe(false);
    const { body } = await nils.get("api/set?by=files");
    expect(body.suspended.data.suspended["seat-map"]).toMatchObject({ who: "Nils", note: "the wrong deck" });
    expect((await nils.post("api/reinstate", { flag: "seat-map" })).body).toMatchObject({ written: true });
    expect((await nils.get("api/set?by=files")).body.suspended).toBeUndefined();
  });

  it("says what is left to be done where a commit fails after the files are written", async () => {
    const { folder } = await demoRepository();
    await writeFile(join(folder, "../.git/hooks/pre-commit"), "#!/bin/sh\nexit 1\n", { mode: 0o755 });
    const { as } = await startDesk({ folder, record: "commit" });
    const review = await draftOf(as("Ylva"), raised);
    const { status, body } = await as("Ylva").post("api/draft/write", { ...review, note: "x" });
    expect([status, body.written]).toEqual([200, true]);
    expect(body.unrecorded).toMatch(/^fares.yaml is written, but not committed/);
    expect((await as("Ylva").get("api/draft")).body.changes).toEqual([]);
  });

  it("is not begun where a commit would take in what somebody else left uncommitted", async () => {
    const { folder } = await demoRepository();
    await replace(join(folder, "fares.yaml"), "about: How long", "about: For how long");
    const { as } = await startDesk({ folder, record: "commit" });
    const review = await draftOf(as("Ylva"), { ...raised });
    const { status, body } = await as("Ylva").post("api/draft/write", { ...review, note: "x" });
    expect([status, body.title]).toEqual([409, expect.stringContaining("not committed")]);
    expect((await as("Ylva").get("api/draft")).body.changes).toHaveLength(1);
  });
});

it("tells open pages of every change within half a second, and ends their streams when it is closed", async () => {
  const desk = await startDesk();
  const { address, folder } = desk;
  const answer = await fetch(`${address}api/events`, { headers: { "x-crew": "Runa" } });
  const events: string[] = [];
  const reading = (async () => {
    for await (const chunk of answer.body!.pipeThrough(new TextDecoderStream())) events.push(chunk);
  })().catch(() => {});
  await expect.poll(() => events.length).toBe(1);
  await replace(join(folder, "fares.yaml"), "share: 10%", "share: 20%");
  await expect.poll(() => events.length).toBe(2);
  expect(events[1]).not.toBe(events[0]);
  await desk.kill();
  await reading;
});
