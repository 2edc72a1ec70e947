import { readdir, readFile } from "node:fs/promises";
import { type IncomingMessage, request } from "node:http";
import { join } from "node:path";
import type { DeskOptions, Permission } from "iudex/desk";
import { describe, expect, it } from "vitest";
import { hasChromium } from "../support/browser.ts";
import { send, startDesk } from "../support/desk.ts";
import { folderWith } from "../support/folders.ts";
import { sleep } from "../support/waiting.ts";

describe("who may", () => {
  it("is 404 for whoever the program does not know, whatever is asked", async () => {
    const { as, address } = await startDesk();
    for (const path of ["", "api/session", "api/set", "desk.svg", "api/events"])
      expect([path, (await as("Nobody").get(path)).status]).toEqual([path, 404]);
    const stranger = await send(
      "POST",
      `${address}api/suspend`,
      { "content-type": "application/json" },
      '{"flag":"storm-mode"}',
    );
    expect(stranger.status).toBe(404);
    const known = await as("Runa").get("nothing-here");
    // Not told apart from what is not there.
    expect((await as("Nobody").get("api/session")).text).toBe(known.text);
  });

  it("answers strangers in the same bytes, at every address and in every way of asking", async () => {
    const who: DeskOptions<IncomingMessage>["who"] = ({ headers }) => {
      switch (headers["x-crew"]) {
        case "Ylva":
          return { name: "Ylva", may: ["look"] };
        case "Vidar":
          return { name: "Vidar", may: ["suspend"] };
        case "throws":
          throw new Error("the directory is away");
        case "rejects":
          return Promise.reject(new Error("the directory is away"));
        case "waits":
          return new Promise(() => {});
        default:
          return undefined;
      }
    };
    const { address } = await startDesk({ who });
    const known = { "x-crew": "Ylva" };
    const asked: [string, string, Record<string, string>][] = [
      ["GET", "", {}],
      ["GET", "/", {}],
      ["GET", "/api/session", {}],
      ["GET", "/api/events", {}],
      ["GET", "/nothing", known],
      ["GET", "/../", known],
      ["GET", "/", { ...known, host: "harbour.example" }],
      ["GET", "", { ...known, host: "harbour.example" }],
      ["GET", "/api/set", { "x-crew": "Vidar" }],
      ["GET", "/", { "x-crew": "throws" }],
      ["GET", "/api/set", { "x-crew": "rejects" }],
      ["GET", "/", { "x-crew": "waits" }],
      ["POST", "/api/suspend", {}],
    ];
    const answers = await Promise.all(
      asked.map(async ([method, path, headers]) => {
        const { status, text, headers: found } = await send(method, `${address.slice(0, -1)}${path}`, headers);
        const { date: _, ...others } = found;
        return JSON.stringify([status, text, others]);
      }),
    );
    expect([...new Set(answers)]).toHaveLength(1);
    expect(JSON.parse(answers[0]!)).toMatchObject([404, expect.any(String), { "cache-control": "no-store" }]);
  });

  it("ends a stream with the right to look, before anything more is told", async () => {
    const rights = new Map<string, readonly Permission[]>([
      ["Ylva", ["look"]],
      ["Tarn", ["look", "suspend"]],
    ]);
    const who: DeskOptions<IncomingMessage>["who"] = ({ headers }) => {
      const name = String(headers["x-crew"]);
      return { name, may: rights.get(name) ?? [] };
    };
    const { as } = await startDesk({ who });
    const stream = as("Ylva").get("api/events");
    const tarn = as("Tarn");
    await tarn.get("api/session");
    await sleep(200);
    rights.set("Ylva", []);
    await tarn.post("api/suspend", { flag: "storm-mode", note: "false alarm" });
    expect((await stream).text.match(/event: standing/g)).toHaveLength(1);
  });

  it("keeps twenty pages of one person, and room for others", async () => {
    const { address, as } = await startDesk();
    const open = (name: string) =>
      new Promise<number>((resolve, reject) => {
        const asked = request(`${address}api/events`, { headers: { "x-crew": name }, agent: false }, (answer) => {
          answer.resume();
          resolve(answer.statusCode!);
        });
        asked.on("error", reject).end();
      });
    const statuses = await Promise.all(Array.from({ length: 20 }, () => open("Runa")));
    expect(new Set(statuses)).toEqual(new Set([200]));
    const refused = await as("Runa").get("api/events");
    expect([refused.status, refused.body.title]).toEqual([429, "You have 20 pages of this desk open."]);
    expect(await open("Nils")).toBe(200);
  });

  it("serves nobody under a name that no commit can bear", async () => {
    for (const name of ["<>", " . ", "\n", "'\"", "<a@ternhaven.example>"]) {
      const { as, folder } = await startDesk({ who: () => ({ name, may: ["look", "suspend", "change"] }) });
      const answer = await as("x").post("api/suspend", { flag: "storm-mode" });
      expect([name, answer.status]).toEqual([name, 403]);
      expect(answer.body.title).toMatch(/cannot be the author of a change/);
      expect(await readdir(folder)).not.toContain("suspended.yaml");
    }
  });

  it("lets those look who may look, and no more", async () => {
    const { as, folder } = await startDesk();
    const runa = as("Runa");
    expect((await runa.get("api/session")).body).toMatchObject({ name: "Runa", may: ["look"] });
    expect((await runa.get("api/set")).status).toBe(200);
    const attempts = [
      ["api/suspend", { flag: "storm-mode", note: "x" }],
      ["api/reinstate", { flag: "storm-mode" }],
      ["api/draft/add", { change: { change: "flag", flag: "storm-mode", safe: "true" } }],
      ["api/draft/write", { number: 0, version: "", note: "" }],
      ["api/draft/clear", {}],
    ] as const;
    for (const [path, body] of attempts) expect([path, (await runa.post(path, body)).status]).toEqual([path, 403]);
    expect((await runa.get("api/draft")).status).toBe(403);
    expect(await readdir(folder)).not.toContain("suspended.yaml");
  });

  it("lets those stop who may stop, and not change", async () => {
    const { as, folder } = await startDesk();
    const nils = as("Nils");
    expect((await nils.post("api/suspend", { flag: "storm-mode", note: "false alarm" })).status).toBe(200);
    expect(await readFile(join(folder, "suspended.yaml"), "utf8")).toMatch(/who: Nils, note: false alarm/);
    const draft = await nils.post("api/draft/add", { change: { change: "flag", flag: "storm-mode", safe: "true" } });
    expect([draft.status, draft.body.title]).toEqual([403, "You may not change definitions here."]);
  });

  it("lets nobody write at a desk for looking only, whatever they may", async () => {
    const { as } = await startDesk({ readOnly: true });
    const ylva = as("Ylva");
    expect((await ylva.get("api/session")).body.may).toEqual(["look"]);
    const stop = await ylva.post("api/suspend", { flag: "storm-mode" });
    expect([stop.status, stop.body.title]).toEqual([403, "This desk is for looking only."]);
  });

  it("shows nobody another person's draft", async () => {
    const { as } = await startDesk();
    const [ylva, tarn] = [as("Ylva"), as("Tarn")];
    await ylva.post("api/draft/add", { change: { change: "flag", flag: "storm-mode", otherwise: "true" } });
    expect((await ylva.get("api/draft")).body.changes).toHaveLength(1);
    expect((await tarn.get("api/draft")).body.changes).toEqual([]);
    const id = (await ylva.get("api/draft")).body.changes[0].id as number;
    await tarn.post("api/draft/drop", { id });
    await tarn.post("api/draft/clear", {});
    expect((await ylva.get("api/draft")).body.changes).toHaveLength(1);
    // Of the same number, and with another change.
    await tarn.post("api/draft/add", { change: { change: "flag", flag: "duty-desk", about: "For Tarn" } });
    await ylva.post("api/draft/add", { change: { change: "flag", flag: "duty-desk", about: "For Ylva" } });
    for (const [asker, own, other] of [
      [ylva, "For Ylva", "For Tarn"],
      [tarn, "For Tarn", "For Ylva"],
    ] as const) {
      const { text } = await asker.get("api/set?by=draft");
      expect([text.includes(own), text.includes(other)]).toEqual([true, false]);
    }
  });
});

describe("requests of others", () => {
  it("find nothing under a foreign name, and the program is told which", async () => {
    const failed: unknown[] = [];
    const { as } = await startDesk({ failed: (error) => failed.push((error as Error).message) });
    const answer = await as("Ylva").get("api/set", { host: "harbour.example" });
    expect([answer.status, answer.body.title]).toEqual([404, "There is nothing here."]);
    expect(failed).toEqual([
      "The desk was asked for under the name harbour.example. Where it is its own, add it to `hosts`.",
    ]);
    expect((await as("Ylva").get("", { host: "harbour.example:80" })).status).toBe(404);
    const { as: asToo } = await startDesk({ hosts: ["harbour.example"] });
    expect((await asToo("Ylva").get("api/session", { host: "harbour.example" })).status).toBe(200);
  });

  it("are refused from pages elsewhere, for reading too", async () => {
    const { as } = await startDesk();
    const ylva = as("Ylva");
    const body = { flag: "storm-mode", note: "forged" };
    for (const headers of [
      { origin: "https://harbour.example" },
      { origin: "null" },
      { origin: "http://127.0.0.1:1" },
      { "sec-fetch-site": "cross-site" },
      { "sec-fetch-site": "same-site" },
    ] as Record<string, string>[]) {
      expect([headers, (await ylva.post("api/suspend", body, headers)).status]).toEqual([headers, 403]);
      expect([headers, (await ylva.get("api/set", headers)).status]).toEqual([headers, 403]);
    }
  });

  it("need the token of the session: none, another's and one of an earlier run are refused", async () => {
    const { as, restart } = await startDesk();
    const ylva = as("Ylva");
    const body = { flag: "storm-mode", note: "forged" };
    expect((await ylva.post("api/suspend", body, { "desk-token": undefined })).status).toBe(403);
    const theirs = (await as("Tarn").get("api/session")).body.token as string;
    expect((await ylva.post("api/suspend", body, { "desk-token": theirs })).status).toBe(403);
    const earlier = (await ylva.get("api/session")).body.token as string;
    await restart();
    expect((await ylva.post("api/suspend", body, { "desk-token": earlier })).status).toBe(403);
    const now = (await ylva.get("api/session")).body.token as string;
    expect((await ylva.post("api/suspend", body, { "desk-token": now })).status).toBe(200);
  });

  it("keep the token where several processes serve one desk", async () => {
    const { as, restart } = await startDesk({ secret: "made up for this test" });
    const before = (await as("Ylva").get("api/session")).body.token as string;
    await restart();
    expect((await as("Ylva").get("api/session")).body.token).toBe(before);
  });
});

it("sets no cookie, frames nowhere, loads nothing from elsewhere, and says so on every answer", async () => {
  const { as } = await startDesk();
  for (const path of ["", "api/session", "nothing-here", "api/set?by=commit:nothing"]) {
    const { headers } = await as("Runa").get(path);
    expect(headers["set-cookie"]).toBeUndefined();
    expect(headers["content-security-policy"]).toMatch(/^default-src 'none';.*frame-ancestors 'none'$/);
    expect(headers["content-security-policy"]).not.toContain("unsafe");
    expect(headers).toMatchObject({
      "x-frame-options": "DENY",
      "referrer-policy": "no-referrer",
      "x-content-type-options": "nosniff",
    });
  }
  const page = (await as("Runa").get("")).text;
  expect(page).not.toMatch(/(?:src|href)="(?!\.\/)/);
  expect(page).not.toMatch(/<script(?![^>]*src=)/);
});

it("reads no file of people but those that were named", async () => {
  const { as } = await startDesk();
  const ylva = as("Ylva");
  for (const file of ["../passengers.csv", "/etc/passwd", "jonas.yaml", "constructor", "./passengers.csv"]) {
    const found = await ylva.post("api/people", { file, find: "" });
    expect([file, found.status]).toEqual([file, 404]);
    const counted = await ylva.post("api/census", {
      by: "files",
      file,
      at: 0,
      flags: ["storm-mode"],
      environments: [],
    });
    expect([file, counted.status]).toEqual([file, 404]);
  }
  expect(
    (await ylva.post("api/people", { file: "passengers.csv", find: "A-17" })).body.people[0].context.account.id,
  ).toBe("A-17");
});

it("serves nothing but its own page's files", async () => {
  const { as } = await startDesk();
  for (const path of [
    "..%2fpackage.json",
    "assets/..%2f..%2fcore.js",
    "%2e%2e/core.js",
    "assets/",
    "index.html.br",
    "desk.js",
  ])
    expect([path, (await as("Runa").get(path)).status]).toEqual([path, 404]);
});

it("keeps private attributes out of drafts on disk, and says which", async () => {
  const { as, drafts } = await startDesk();
  const example = {
    change: "example",
    flag: "zone-fares",
    as: { account: { id: "A-17" }, email: "oda@post.example", trips: 3 },
    at: "2026-12-09T12:00Z",
    environment: "production",
    gives: "true",
  };
  const added = await as("Ylva").post("api/draft/add", { change: example });
  expect(added.body.leftOut).toEqual(["email"]);
  const [file] = await readdir(drafts);
  const kept = await readFile(join(drafts, file!), "utf8");
  expect(kept).toContain("A-17");
  expect(kept).not.toContain("oda@");
});

it("answers bodies that are none with what is wrong", async () => {
  const { as } = await startDesk();
  const ylva = as("Ylva");
  for (const path of [
    "suspend",
    "reinstate",
    "listed",
    "people",
    "census",
    "positions",
    "ids",
    "draft/add",
    "draft/drop",
    "draft/write",
    "draft/reach",
  ])
    for (const body of [null, [], "x", {}, { flag: 3, change: { change: "nothing" }, asked: 4 }]) {
      const { status, body: answer } = await ylva.post(`api/${path}`, body);
      expect([path, body, status, typeof answer.title]).toEqual([path, body, 400, "string"]);
    }
  const huge = await ylva.post("api/ids", { by: "files", cohort: "testers", text: "x".repeat(9 * 2 ** 20) });
  expect(huge.status).toBe(413);
});

it("shows names, notes and values as text, whatever they are", { skip: !hasChromium }, async () => {
  const script = "<img src=x onerror=alert(1)>";
  const folder = await folderWith({
    "flags.yaml": `iudex: 1\nflags:\n  f:\n    about: "${script}"\n    owner: "${script}"\n    safe: "${script}"\n    rules:\n      - { name: "${script}", when: plan == "${script}", give: "${script}" }\n`,
    "suspended.yaml": `suspended:\n  f: { who: "${script}", note: "${script}" }\n`,
  });
  const { open } = await startDesk({ folder });
  const { page } = await open("Ylva", { at: "#/flags/f" });
  await page.getByText("is stopped").first().waitFor();
  expect(await page.locator("img").count()).toBe(0);
  expect(await page.locator(".stop i").textContent()).toContain(script);
});
