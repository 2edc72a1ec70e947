// The client and the hooks in a real browser, against real services, with React and with Preact.
import type { Page } from "playwright-core";
import { afterAll, beforeAll, describe, expect, it, onTestFinished } from "vitest";
import { browser, closeBrowser, hasChromium, watchFor } from "../support/browser.ts";
import { folderWith, put } from "../support/folders.ts";
import { scratch } from "../support/scratch.ts";
import { next, sleep } from "../support/waiting.ts";
import { buildSite, type Kind } from "./site/build.ts";
import { Site } from "./site/service.ts";

interface Choice {
  readonly storm?: boolean;
  readonly seats?: string;
  readonly minutes?: number;
  readonly lanes?: number;
  /** The seats of one person. */
  readonly forNils?: string;
}

const definitions = ({ storm = false, seats = "list", minutes = 15, lanes = 2, forNils }: Choice = {}) => `iudex: 1
defaults: { by: account.id }
flags:
  storm-mode: { safe: ${storm} }
  seat-map: { safe: list, otherwise: ${seats}${forNils ? `, rules: [{ when: 'account.id == "Nils"', give: ${forNils} }]` : ""} }
  hold-minutes: { safe: ${minutes} }
  check-in: { safe: { lanes: ${lanes} } }
`;

/** What a page shows of its flags in each frame, from the first one on. */
const recordFrames = `{
  const frames = (globalThis.frames_ = []);
  const look = () => {
    const text = document.getElementById("app")?.innerText;
    if (text && frames.at(-1) !== text) frames.push(text);
    requestAnimationFrame(look);
  };
  look();
}`;

/** What a browser says of requests that nobody answers to the end. */
const noAnswer = /failed$|ERR_(?:INCOMPLETE_CHUNKED_ENCODING|EMPTY_RESPONSE|CONNECTION_REFUSED|INTERNET_DISCONNECTED)/;

interface Window {
  readonly frames_: readonly string[];
  readonly renders: Record<string, number>;
  readonly flags: { snapshot(): { readonly revision: string } };
}

afterAll(closeBrowser);

describe.skipIf(!hasChromium).each([
  ["React", "Express"],
  ["Preact", "Fastify"],
] as const)("%s, served by %s", (kind: Kind, server) => {
  let built: string;
  beforeAll(async () => {
    built = await scratch();
    await buildSite(kind, built);
  });

  async function start(choice?: Choice) {
    const folder = await folderWith({ "a.yaml": definitions(choice) });
    const site = new Site(server, folder, built);
    await site.start();
    onTestFinished(() => site.kill());
    /** Saves other definitions; they are in force afterwards. */
    const save = async (other: Choice) => {
      const changed = next(site.flags, "change");
      await put(folder, "a.yaml", definitions(other));
      await changed;
    };
    return { site, save };
  }

  async function open(site: Site, path = "", { expected = /^$/, width = 1280 } = {}) {
    const context = await (await browser()).newContext({ viewport: { width, height: 800 } });
    onTestFinished(() => context.close());
    const visit = async () => {
      const page = await context.newPage();
      await page.addInitScript(recordFrames);
      onTestFinished(watchFor(page, expected));
      await page.goto(`${site.address}/${path}`);
      await page.locator("body[data-ready]").waitFor();
      return page;
    };
    return { context, page: await visit(), visit };
  }

  const shows = (page: Page, words: string) => page.getByText(words, { exact: true }).waitFor();
  const inPage = <T>(page: Page, what: (window: Window) => T): Promise<T> =>
    page.evaluate(`(${String(what)})(globalThis)`);

  it("shows the same from the first paint to hydration and on, under a strict policy, on a narrow screen", async () => {
    const { site } = await start({ seats: "deck-plan" });
    const { page } = await open(site, "", { width: 390 });
    await expect.poll(() => site.streams).toBe(1);
    await sleep(300);
    const frames = await inPage(page, (window) => window.frames_);
    expect(frames).toHaveLength(1);
    expect(frames[0]).toContain("Seats: deck-plan");
    expect(await inPage(page, ({ renders }) => renders["seats"])).toBe(1);
    expect(await page.evaluate("document.documentElement.scrollWidth <= innerWidth")).toBe(true);
  });

  it("shows a saved definition without a reload, and renders only what it concerns", async () => {
    const { site, save } = await start();
    const { page } = await open(site);
    await expect.poll(() => site.streams).toBe(1);
    await save({ storm: true });
    await shows(page, "The boats stay in harbour.");
    expect(await inPage(page, ({ renders }) => renders)).toEqual({ storm: 2, seats: 1, lanes: 1, all: 2 });
  });

  it("takes over what the server rendered although something has changed since", async () => {
    const { site, save } = await start();
    const { page } = await open(site);
    // The script is held back until other definitions are in force.
    await page.route("**/client.js", async (route) => {
      await save({ seats: "walk-through" });
      await route.continue();
    });
    await page.reload();
    await shows(page, "Seats: walk-through");
  });

  it("counts as seen what the page has asked for: once at each revision, also by components that come later", async () => {
    const { site, save } = await start();
    const { page } = await open(site);
    const seen = () => site.seen.map(({ verdict, subject }) => `${verdict.flag} ${subject}`).sort();
    await expect.poll(seen).toEqual(["check-in A-1", "seat-map A-1", "storm-mode A-1"]);
    site.seen.length = 0;
    await page.getByRole("button").click();
    await expect.poll(seen).toEqual(["hold-minutes A-1"]);
    site.seen.length = 0;
    await save({ storm: true });
    await shows(page, "The boats stay in harbour.");
    // The page goes before a report is due.
    await page.goto("about:blank");
    await expect.poll(seen).toEqual(["check-in A-1", "hold-minutes A-1", "seat-map A-1", "storm-mode A-1"]);
  });

  it("keeps the last values while the service is down, and has the new ones when it is back", async () => {
    const { site, save } = await start({ seats: "deck-plan" });
    const { page } = await open(site, "", { expected: noAnswer });
    await expect.poll(() => site.streams).toBe(1);
    await site.kill();
    await page.locator("body[data-changes]").waitFor();
    await shows(page, "Seats: deck-plan");
    await site.start();
    await expect.poll(() => site.streams).toBe(2);
    await save({ seats: "walk-through" });
    await shows(page, "Seats: walk-through");
  });

  it("asks for the values where streams are cut", async () => {
    const { site, save } = await start();
    site.cutsStreams = true;
    const { page } = await open(site, "", { expected: noAnswer });
    await expect.poll(() => site.streams).toBeGreaterThan(1);
    await save({ seats: "deck-plan" });
    await shows(page, "Seats: deck-plan");
  });

  it("works on a slow and narrow way", async () => {
    const { site, save } = await start();
    const { context, page } = await open(site);
    const session = await context.newCDPSession(page);
    await session.send("Network.enable");
    const slow = { offline: false, latency: 400, downloadThroughput: 6_000, uploadThroughput: 6_000 };
    await session.send("Network.emulateNetworkConditions", slow);
    await page.reload();
    await page.locator("body[data-ready]").waitFor();
    await save({ seats: "deck-plan" });
    await shows(page, "Seats: deck-plan");
  });

  it("catches up after it slept, and after it was offline", async () => {
    const { site, save } = await start();
    const { context, page } = await open(site, "", { expected: noAnswer });
    await expect.poll(() => site.streams).toBe(1);
    const session = await context.newCDPSession(page);
    await session.send("Page.setWebLifecycleState", { state: "frozen" });
    await save({ seats: "deck-plan" });
    await session.send("Page.setWebLifecycleState", { state: "active" });
    await shows(page, "Seats: deck-plan");
    await context.setOffline(true);
    await save({ seats: "walk-through" });
    await context.setOffline(false);
    await shows(page, "Seats: walk-through");
  });

  it("shares one stream among the tabs of a person, and goes on when the first one closes", async () => {
    const { site, save } = await start();
    const { page, visit } = await open(site, "?shared=A-1");
    await expect.poll(() => site.streams).toBe(1);
    const other = await visit();
    await save({ seats: "deck-plan" });
    await Promise.all([page, other].map((each) => shows(each, "Seats: deck-plan")));
    expect(site.streams).toBe(1);
    await page.close();
    await expect.poll(() => site.streams).toBe(2);
    await save({ seats: "walk-through" });
    await shows(other, "Seats: walk-through");
    // A tab that comes later is told what the others know.
    const third = await visit();
    await shows(third, "Seats: walk-through");
    expect(site.streams).toBe(2);
  });

  it.each([
    ["Nils", "Oda"],
    ["Oda", "Nils"],
    ["", "Nils"],
    ["Nils", ""],
  ])("never shows in one person's tab what is another's: first “%s”, then “%s”", async (first, second) => {
    const { site, save } = await start({ seats: "list", forNils: "deck-plan" });
    const { context, page, visit } = await open(site, "?shared=all-of-us");
    const signIn = (who: string) =>
      who === "" ? context.clearCookies() : context.addCookies([{ name: "who", value: who, url: site.address }]);
    const ofWhom = (who: string) => (who === "Nils" ? "Seats: deck-plan" : "Seats: list");
    await page.close();
    await signIn(first);
    const one = await visit();
    await shows(one, ofWhom(first));
    await signIn(second);
    const other = await visit();
    await shows(other, ofWhom(second));
    const third = await visit();
    await shows(third, ofWhom(second));
    await save({ seats: "walk-through", forNils: "deck-plan" });
    const tabs = [one, other, third];
    const whose = [first, second, second];
    for (const [i, tab] of tabs.entries())
      await shows(tab, whose[i] === "Nils" ? "Seats: deck-plan" : "Seats: walk-through");
    await one.close();
    await save({ seats: "list", forNils: "walk-through" });
    for (const tab of [other, third]) await shows(tab, second === "Nils" ? "Seats: walk-through" : "Seats: list");
    const frames = await inPage(other, ({ frames_ }) => frames_);
    const foreign = second === "Nils" ? "Seats: list" : "Seats: deck-plan";
    expect(frames.filter((frame) => frame.includes(foreign))).toEqual([]);
  });

  it("follows for itself where a browser gives no locks, or refuses them", async () => {
    const { site, save } = await start();
    const { context, page } = await open(site);
    for (const refusing of [
      "Object.defineProperty(navigator, 'locks', { value: undefined })",
      "LockManager.prototype.request = () => Promise.reject(new DOMException('no', 'SecurityError'))",
    ]) {
      const tab = await context.newPage();
      onTestFinished(watchFor(tab, /^$/));
      await tab.addInitScript(refusing);
      await tab.goto(`${site.address}/?shared=A-1`);
      await tab.locator("body[data-ready]").waitFor();
    }
    await expect.poll(() => site.streams).toBe(3);
    await save({ seats: "deck-plan" });
    await Promise.all(context.pages().map((each) => shows(each, "Seats: deck-plan")));
    expect(context.pages()).toContain(page);
  });

  it("needs no framework", async () => {
    const { site, save } = await start();
    const { page } = await open(site, "plain");
    await shows(page, "Seats: list");
    const seen = () => site.seen.map(({ verdict }) => verdict.value);
    await expect.poll(seen).toEqual(["list"]);
    await save({ seats: "deck-plan" });
    await shows(page, "Seats: deck-plan");
    await expect.poll(seen).toEqual(["list", "deck-plan"]);
  });

  it("runs in a worker", async () => {
    const { site, save } = await start();
    const { page } = await open(site, "plain");
    await page.evaluate(`
      globalThis.told = [];
      new Worker("/worker.js", { type: "module" }).onmessage = ({ data }) => told.push(data);
    `);
    await expect.poll(() => site.streams).toBe(2);
    await save({ seats: "deck-plan" });
    await expect.poll(() => page.evaluate("told")).toEqual(["list", "list", "deck-plan"]);
  });
});
