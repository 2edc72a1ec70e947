import { readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { folderShelf } from "iudex/fleet";
import type { Page } from "playwright-core";
import { afterAll, describe, expect, it } from "vitest";
import { accessibilityFaults, closeBrowser, hasChromium } from "../support/browser.ts";
import { startDesk } from "../support/desk.ts";
import { folderWith, replace } from "../support/folders.ts";
import { keyPair } from "../support/shelves.ts";

afterAll(closeBrowser);

const december = "at=2026-12-05T12:00Z";

const row = (page: Page, flag: string) => page.locator(`article[aria-label="${flag}"]`);
const answer = (page: Page, flag: string) => row(page, flag).locator(".answer").first().textContent();
const word = (page: Page, name: string) => page.locator(`#word-asked-${name}`);

describe.skipIf(!hasChromium)("the question", () => {
  it("is answered by every flag: for everyone, for one person, for a file of people", async () => {
    const { open } = await startDesk();
    const { page } = await open("Runa", { at: `#/flags?in=production&${december}` });
    await row(page, "zone-fares").waitFor();
    expect(await answer(page, "berth-view")).toBe("Pilot captains get true, everybody else false.");
    await word(page, "for").click();
    await page.getByLabel("one person").check();
    await page.getByLabel("Look in passengers.csv").fill("A-17");
    await page.getByRole("button", { name: "A-17", exact: true }).click();
    await page.getByRole("button", { name: "Done" }).click();
    await expect.poll(() => answer(page, "zone-fares")).toBe("true – rule 3 “everyone, step by step” matches");
    await word(page, "for").click();
    await page.getByLabel("the people in passengers.csv").check();
    await row(page, "hold-minutes").locator(".number").first().waitFor();
    expect(await row(page, "hold-minutes").locator("th").allTextContents()).toEqual(["15", "45", "120"]);
  });

  it("stands in the address, without what is private, and the address asks it again", async () => {
    const { open } = await startDesk();
    const { page, context } = await open("Runa", { at: "#/flags/zone-fares" });
    await word(page, "for").click();
    await page.getByLabel("one person").check();
    await page.getByLabel("account.id").fill("C-204");
    await page.getByLabel("email").fill("kari@ternhaven.example");
    await page.getByLabel("email").blur();
    await expect.poll(() => page.locator(".one .answer").first().textContent()).toContain("our own people first");
    const address = page.url();
    expect(address).not.toContain("kari");
    expect(address).not.toContain("ternhaven.example");
    const other = await context.newPage();
    await other.goto(address);
    await expect.poll(() => other.locator(".sentence").textContent()).toContain("C-204");
    await expect.poll(() => other.locator(".one .answer").first().textContent()).toContain("no rule matches");
    await word(other, "for").click();
    await other.getByText("The address leaves out what is private: email.").waitFor();
    await page.goBack();
    await page.goForward();
    await expect.poll(() => page.locator(".one .answer").first().textContent()).toContain("our own people first");
  });

  it("says of a person on a long list only what is known, and asks again", async () => {
    const lists = ["a", "b", "c", "d", "e"];
    const ids = `id\n${Array.from({ length: 5_000 }, (_, i) => `X-${i}\n`).join("")}`;
    const { open } = await startDesk({
      files: {
        "a.yaml": `iudex: 1
environments: { production: {} }
attributes: { account.id: { type: text } }
defaults: { by: account.id }
cohorts:
  early: { of: account.id, file: early.csv, column: id }
  ${lists.map((name) => `${name}: { of: account.id, file: ${name}.csv, column: id }`).join("\n  ")}
flags:
  deck-plan: { safe: false, rules: [{ when: cohort:early, give: true }], for-instance: [{ as: { account: { id: X-4998 } }, gives: true }] }
  quiet-hours: { safe: 1, rules: [{ when: "not cohort:early", give: 2 }, { when: "account.id is present", give: 2 }] }
  storm-mode: { safe: off-duty, rules: [{ when: 'account.id == "X-1"', give: on-duty }, { when: cohort:early, give: half }] }
  any-list: { safe: false, rules: [{ when: "${lists.map((name) => `cohort:${name}`).join(" or ")}", give: true }] }
`,
        "early.csv": ids,
        ...Object.fromEntries(lists.map((name) => [`${name}.csv`, ids.replaceAll("X-", `${name}-`)])),
      },
    });
    const { page } = await open("Runa", { expected: /listed failed|ERR_FAILED/ });
    await row(page, "deck-plan").waitFor();
    let isAway = true;
    await page.route("**/api/listed", (route) => (isAway ? route.abort() : route.continue()));
    await page.evaluate(() => {
      location.hash = `#/flags?for=account.id=X-4999&${location.hash.split("?")[1] ?? ""}`;
    });
    await expect.poll(() => answer(page, "deck-plan")).toContain("true if X-4999 is in early, else false.");
    expect(await answer(page, "deck-plan")).toContain("That could not be found out");
    // The answer is the same either way.
    expect(await answer(page, "quiet-hours")).toBe("2 – whether X-4999 is in early or not");
    expect(await answer(page, "storm-mode")).toContain("half if X-4999 is in early, else off-duty.");
    expect(await answer(page, "any-list")).toContain("true if X-4999 is in d, else what depends on e and other lists.");
    isAway = false;
    await row(page, "deck-plan").getByRole("button", { name: "Try again" }).click();
    await expect.poll(() => answer(page, "deck-plan")).toMatch(/^true – rule 1/);
    expect(await answer(page, "any-list")).toMatch(/^false – no rule matches/);
    await page.getByRole("link", { name: "deck-plan", exact: true }).click();
    await expect.poll(() => page.locator(".examples").textContent()).toContain("it holds");
  });

  it("moves along the days from change to change, by keyboard", async () => {
    const { open } = await startDesk();
    const { page } = await open("Runa", { at: "#/flags/winter-timetable?in=production" });
    const line = page.getByRole("slider", { name: /The instant/ });
    await line.focus();
    for (let i = 0; i < 12; i++) {
      await page.keyboard.press("ArrowRight");
      if ((await line.getAttribute("aria-valuetext"))?.includes("winter shuts")) break;
    }
    await expect.poll(() => page.locator(".here").textContent()).toContain("winter shuts");
    expect(page.url()).toContain("at=2027-03-01T00%3A00Z");
    await page.keyboard.press("Home");
    await expect.poll(() => page.url()).not.toContain("at=");
  });

  it("can be put beside a second one: what differs comes first", async () => {
    const { open } = await startDesk();
    const { page } = await open("Runa", { at: `#/flags?in=production&${december}` });
    await page.getByRole("button", { name: "Compare with another question" }).click();
    await page.locator("#word-against-in").click();
    await page.getByLabel("staging").check();
    await page.getByRole("button", { name: "Done" }).click();
    await expect
      .poll(() =>
        page
          .locator(".rows article")
          .evaluateAll((rows) => rows.map((each) => each.getAttribute("aria-label")).slice(0, 2)),
      )
      .toEqual(["winter-timetable", "zone-fares"]);
    expect(await row(page, "zone-fares").locator(".other").textContent()).toContain("Everybody gets true.");
    await page.getByLabel("among").selectOption("differing");
    await expect.poll(() => page.locator(".rows article").count()).toBe(2);
  });
});

describe.skipIf(!hasChromium)("the list", () => {
  it("finds as one types, and is gone through by keyboard alone", async () => {
    const { open } = await startDesk();
    const { page } = await open("Runa", { at: "#/flags?in=production" });
    await row(page, "zone-fares").waitFor();
    await page.keyboard.press("/");
    await page.keyboard.type("fares-team");
    await expect.poll(() => page.locator(".rows article").count()).toBe(2);
    await page.keyboard.press("ArrowDown");
    await page.keyboard.press("ArrowDown");
    await expect.poll(() => page.evaluate(() => document.activeElement?.textContent)).toBe("zone-fares");
    await page.keyboard.press("Enter");
    await page.getByRole("heading", { name: "zone-fares", level: 2 }).waitFor();
    expect(page.url()).toContain("#/flags/zone-fares");
    await page.goBack();
    await expect.poll(() => page.getByLabel("Find").inputValue()).toBe("fares-team");
  });

  it("draws only what is in view of 10,000 flags, and finds among them", async () => {
    const { open } = await startDesk({ folder: await manyFlags(10_000) });
    const { page } = await open("Runa", { at: "#/flags" });
    await page.getByText("10,000 flags").waitFor();
    expect(await page.locator(".rows article").count()).toBeLessThan(60);
    await page.getByLabel("Find").fill("flag-9876");
    await expect.poll(() => page.locator(".rows article").count()).toBe(1);
    await page.getByLabel("Find").fill("");
    await page.mouse.wheel(0, 400_000);
    await expect.poll(() => page.locator(".rows article").first().getAttribute("aria-label")).toMatch(/flag-[3-9]/);
  });
});

describe.skipIf(!hasChromium)("changing", () => {
  it("gathers a draft, answers by it, looks it through and writes it", async () => {
    const { open, folder } = await startDesk();
    const { page } = await open("Ylva", { at: `#/flags/zone-fares?in=production&${december}` });
    await page.getByRole("button", { name: "10%, share, rule 2" }).click();
    await page.getByRole("slider", { name: "Share, by sliding" }).fill("40");
    await page.getByText(/It takes, of \d+ people in passengers.csv/).waitFor();
    await page
      .getByText(/\d+ more/)
      .first()
      .waitFor();
    await page.getByRole("button", { name: "Keep 40%" }).click();
    await expect.poll(() => page.locator(".sentence").textContent()).toContain("my draft");
    await expect.poll(() => page.evaluate(() => document.activeElement?.textContent)).toBe("40%");
    await page.getByRole("button", { name: "Look it through" }).click();
    await page.getByText("share raised from 10% to 40%").waitFor();
    await page.getByText(/of 240 people/).waitFor();
    await page.getByLabel("Why is it changed?").fill("They have waited long enough");
    await page.getByRole("button", { name: "Write it" }).click();
    await page.getByRole("heading", { name: "It is written." }).waitFor();
    expect(await readFile(join(folder, "fares.yaml"), "utf8")).toMatch(/adjust:(.|\n)*one in ten(.|\n)*share: 40%/);
  });

  it("counts a rule as it is being written, now and at each date to come", async () => {
    const { open } = await startDesk();
    const { page } = await open("Ylva", { at: `#/flags/zone-fares?in=production&at=2026-12-02T12:00Z` });
    await page.getByRole("button", { name: "trips is more than 100, test 1, rule 2" }).click();
    const asked = async () =>
      Number(/of (\d+) people/.exec((await page.locator(".reach").textContent()) ?? "")?.[1] ?? Number.NaN);
    await page.getByLabel("Against what").fill("200");
    await page.getByText(/\d+ fewer/).waitFor();
    await page.getByLabel("It holds").selectOption("");
    await page.getByRole("button", { name: "Keep it" }).click();
    await page.getByRole("button", { name: "trips is more than 200, test 1, rule 2" }).waitFor();
    // The steps of a rising share are words, and so are their beginnings.
    await page.getByRole("button", { name: /^25%, share from Fri/ }).click();
    await page.getByLabel("Share in percent").fill("40");
    await expect.poll(() => page.locator(".reach .taken").count()).toBe(3);
    await expect.poll(asked).toBeGreaterThan(100);
    await expect.poll(() => page.locator(".reach .taken").nth(1).textContent()).toMatch(/Fri.*\d+ more/);
    expect(await page.locator(".reach .taken").nth(0).textContent()).toContain("as before");
    await page.getByLabel("Share in percent").fill("120");
    await page.keyboard.press("Enter");
    await page.getByText("“120” is not a share.").waitFor();
    // A share that falls is kept, and warned of.
    await page.getByLabel("Share in percent").fill("0.5");
    await page.getByText("It falls:").waitFor();
    await page.keyboard.press("Escape");
    await expect.poll(() => page.evaluate(() => document.activeElement?.textContent)).toBe("25%");
  });

  it("completes conditions and says what is wrong with them, and keeps a word that is left", async () => {
    const { open, as } = await startDesk();
    const { page } = await open("Ylva", { at: "#/flags/hold-minutes?in=every", expected: /409|503/ });
    await page
      .getByRole("button", { name: /test 1, rule 1/ })
      .first()
      .click();
    await page.getByRole("button", { name: "All as text" }).click();
    const field = page.getByRole("textbox", { name: "The condition" });
    await field.fill("");
    await field.pressSequentially("account.p");
    await page.keyboard.press("Enter");
    await field.pressSequentially(" == ");
    const act = page.getByRole("button", { name: "Keep it" });
    const before = await act.boundingBox();
    await page.getByRole("option", { name: '"vehicle"' }).waitFor();
    expect(await act.boundingBox()).toEqual(before);
    await page.keyboard.press("ArrowDown");
    await page.keyboard.press("Enter");
    expect(await field.inputValue()).toBe('account.plan == "vehicle"');
    await field.fill("acount.plan == 3");
    await field.blur();
    await page.getByText("did you mean account.plan?").waitFor();
    await act.click();
    await page.getByRole("alert").waitFor();
    await field.fill('account.plan == "vehicle" and trips > 3');
    // A press elsewhere keeps it.
    await page.getByRole("heading", { name: "What must stay true" }).click();
    await expect
      .poll(async () => (await as("Ylva").get("api/draft")).body.changes[0]?.change.when)
      .toBe('account.plan == "vehicle" and trips > 3');
  });

  it("asks where a condition is to hold, and gives an environment rules of its own", async () => {
    const { open, as } = await startDesk();
    const { page } = await open("Ylva", { at: "#/flags/hold-minutes?in=production" });
    await page.getByRole("button", { name: /test 2, rule 2/ }).click();
    await page.getByLabel("Against what").fill("60");
    await page.getByRole("button", { name: "Keep it" }).click();
    await page.getByText("Where is it to hold?").waitFor();
    await page.getByLabel("It holds").selectOption("production");
    await page.getByRole("button", { name: "Keep it" }).click();
    await expect.poll(async () => (await as("Ylva").get("api/draft")).body.changes.length).toBe(2);
    const review = (await as("Ylva").get("api/draft/review")).body;
    expect(JSON.stringify(review.changes)).toContain("production");
    expect(JSON.stringify(review.changes)).not.toContain("staging");
  });

  it("says by words what else a flag can be: split, variant, name, a flag less, an example", async () => {
    const { open, as } = await startDesk();
    const { page } = await open("Ylva", { at: "#/flags/seat-map?in=every", expected: /409/ });
    const changes = async () =>
      (await as("Ylva").get("api/draft")).body.changes.map(({ words }: { words: string }) => words);
    await page.getByRole("button", { name: /parts, rule 1/ }).click();
    await page.getByRole("dialog").getByLabel("classic").fill("1");
    await page.getByText("33.3%").first().waitFor();
    await page.getByRole("button", { name: "Keep it" }).click();
    await expect.poll(changes).toEqual([expect.stringContaining("split: 1 classic")]);
    await page.getByRole("button", { name: "seat-map, name of the flag" }).click();
    await page.getByRole("dialog").getByLabel("Name").fill("deck-map");
    await page.getByRole("button", { name: "Copy it under this name" }).click();
    await page.getByRole("heading", { name: "deck-map", level: 2 }).waitFor();
    await page.getByRole("button", { name: "deck-map, name of the flag" }).click();
    await page.getByRole("button", { name: "Take the flag out" }).click();
    await expect.poll(() => page.url()).toMatch(/#\/flags\?/);
    await page.goto(page.url().replace("#/flags?", "#/flags/seat-map?"));
    await page.getByRole("button", { name: "seat-map, name of the flag" }).click();
    await page.getByRole("dialog").getByLabel("Name").fill("deck-plan");
    await page.keyboard.press("Enter");
    await page.getByRole("heading", { name: "deck-plan", level: 2 }).waitFor();
    await page.goto(page.url().replace("flags/deck-plan", "flags/zone-fares"));
    // What was only looked at is not written.
    const before = await changes();
    for (const name of [/^a share …|^then …/, /share, rule 2/, /value, rule 1/]) {
      await page.getByRole("button", { name }).first().click();
      await page.getByRole("dialog").waitFor();
      await page.getByRole("heading", { name: "What must stay true" }).click();
      await page.getByRole("dialog").waitFor({ state: "detached" });
    }
    expect(await changes()).toEqual(before);
    await page.getByRole("button", { name: /, example 1$/ }).click();
    await page.getByRole("button", { name: "Take it out" }).click();
    await expect.poll(async () => (await changes()).at(-1)).toBe("example 1 taken out");
  });

  it("moves rules by hand and by key, copies settings, and keeps an example from the person", async () => {
    const { open, as } = await startDesk();
    const { page } = await open("Ylva", {
      at: `#/flags/zone-fares?in=production&for=account.id=%22A-17%22&for=trips=3&at=2026-12-09T12:00Z`,
    });
    await page.getByRole("button", { name: "frequent travellers, one in ten, name of rule 2" }).focus();
    await page.keyboard.press("Alt+ArrowUp");
    await expect.poll(() => page.locator(".rule-words").first().textContent()).toContain("frequent travellers");
    // The focus goes with the rule, so that the next press moves it on.
    await expect.poll(() => page.evaluate(() => document.activeElement?.ariaLabel)).toContain("name of rule 1");
    await page.keyboard.press("Alt+ArrowDown");
    await expect.poll(() => page.evaluate(() => document.activeElement?.ariaLabel)).toContain("name of rule 2");
    await page
      .locator(".rule")
      .nth(2)
      .dragTo(page.locator(".rule").nth(0), { targetPosition: { x: 10, y: 8 } });
    await expect.poll(() => page.locator(".rule-words").first().textContent()).toContain("everyone, step by step");
    await page.getByRole("button", { name: "This must stay true: true for this person" }).click();
    await page.getByRole("button", { name: "Keep it" }).click();
    await expect.poll(() => page.locator(".examples li").count()).toBe(4);
    await page.getByRole("button", { name: "Copy the settings of an environment" }).click();
    await page.locator("select[name=like]").selectOption("staging");
    await page.locator("select[name=to]").selectOption("local");
    await page.getByRole("button", { name: "Copy them" }).click();
    await expect.poll(async () => (await as("Ylva").get("api/draft")).body.changes.length).toBe(5);
    await page.getByRole("button", { name: "Look it through" }).click();
    await page.getByRole("button", { name: /^Take back: zone-fares, settings/ }).click();
    await expect.poll(async () => (await as("Ylva").get("api/draft")).body.changes.length).toBe(4);
  });

  it("adds pasted ids, and says how many are new, doubled and unreadable", async () => {
    const { open, as } = await startDesk();
    const { page } = await open("Ylva", { at: "#/cohorts" });
    await page.getByRole("button", { name: "Add or take out ids of testers" }).click();
    await page.locator("textarea[name=ids]").fill("name,id\nOda,A-17\nBo,A-1001\nBo,A-1001\nAnn,\n");
    await page.getByText("a heading, not an id").waitFor();
    expect(await page.locator("label:has(select)", { hasText: "Column" }).locator("select").inputValue()).toBe("id");
    await page.getByText("2 ids, 1 of them not in the list, 1 written twice, 1 lines without an id").waitFor();
    await page.getByRole("button", { name: "Into my draft" }).click();
    await expect
      .poll(async () => (await as("Ylva").get("api/draft")).body.changes[0]?.change)
      .toMatchObject({ add: ["A-17", "A-1001"] });
    await page.getByLabel("An id, to look for in testers").fill("A-17");
    await page.keyboard.press("Enter");
    await page.getByText("A-17 is in, by people.yaml:17.").waitFor();
  });

  it("is not offered to those who may not", async () => {
    const { open } = await startDesk();
    const { page } = await open("Runa", { at: "#/flags/zone-fares" });
    await page.getByRole("heading", { name: "zone-fares", level: 2 }).waitFor();
    expect(await page.getByRole("button", { name: /rule \d|^(Stop|Add|Take)/ }).count()).toBe(0);
  });
});

describe.skipIf(!hasChromium)("the stop", () => {
  it("is two steps from a flag, seen by everybody at once, and ended by whoever may", async () => {
    const { open, folder } = await startDesk();
    const { page } = await open("Nils", { at: "#/flags/seat-map" });
    const { page: theirs } = await open("Runa", { at: "#/windows" });
    await theirs.getByRole("heading", { name: "winter", exact: true }).waitFor();
    await page.getByRole("button", { name: "Stop seat-map" }).click();
    await page.keyboard.type("the wrong deck");
    await page.keyboard.press("Enter");
    for (const each of [page, theirs]) await each.locator(".stopped").getByText("the wrong deck").waitFor();
    expect(await theirs.getByRole("button", { name: "Start it again" }).count()).toBe(0);
    expect(await readFile(join(folder, "suspended.yaml"), "utf8")).toContain("who: Nils");
    await page.getByRole("button", { name: "Start it again" }).click();
    await page.getByRole("button", { name: /^Yes, judge seat-map/ }).click();
    for (const each of [page, theirs]) await expect.poll(() => each.locator(".stopped").count()).toBe(0);
  });

  it("that the shelf does not take is an error on the page, and stops nobody", async () => {
    const shelf = folderShelf(join(await folderWith({}), "shelf"));
    const { open } = await startDesk({ record: { shelf, key: (await keyPair()).key } });
    const { page } = await open("Nils", { at: "#/flags/seat-map", expected: /409|503/ });
    await page.getByRole("button", { name: "Stop seat-map" }).click();
    await page.keyboard.type("the wrong deck");
    await page.keyboard.press("Enter");
    await page.getByText(/It was not stopped: .*(holds no edition|cannot be read)/).waitFor();
    expect(await page.locator(".stopped").count()).toBe(0);
  });

  it("works while the files are broken, and the page says that they are", async () => {
    const { open, folder } = await startDesk();
    const { page } = await open("Nils", { at: "#/flags/zone-fares" });
    await page.getByRole("heading", { name: "zone-fares", level: 2 }).waitFor();
    await writeFile(join(folder, "fares.yaml"), "flags: [");
    await page.getByText("The files cannot be used as they stand").waitFor();
    expect(await accessibilityFaults(page)).toEqual([]);
    await page.getByRole("button", { name: "Stop zone-fares" }).click();
    await page.keyboard.type("better safe");
    await page.keyboard.press("Enter");
    await page.locator(".stopped").getByText("better safe").waitFor();
    await page.getByRole("link", { name: "See what is wrong" }).click();
    await page.getByText("fares.yaml:1").first().waitFor();
  });
});

describe.skipIf(!hasChromium)("what happens meanwhile", () => {
  it("is seen at once: a saved file, and what another person writes", async () => {
    const { open, folder, as } = await startDesk();
    const { page } = await open("Runa", { at: "#/flags/zone-fares?in=production" });
    await page.getByText("10% of people").first().waitFor();
    await replace(join(folder, "fares.yaml"), "share: 10%", "share: 33%");
    await page.getByText("33% of people").first().waitFor();
    const tarn = as("Tarn");
    await tarn.post("api/draft/add", { change: { change: "flag", flag: "zone-fares", rule: "2", share: "44%" } });
    await tarn.post("api/draft/write", { ...(await tarn.get("api/draft/review")).body, note: "x" });
    await page.getByText("44% of people").first().waitFor();
  });

  it("a desk that is gone is said, what one changes waits, and goes on when it is back", async () => {
    const { open, kill, restart, as } = await startDesk();
    const { page } = await open("Ylva", {
      at: "#/flags/hold-minutes?in=production",
      expected: /ERR_|Failed to load|failed$|503|404|403/,
    });
    await page.getByRole("heading", { name: "hold-minutes", level: 2 }).waitFor();
    const fetchedLeaves = () =>
      page.evaluate(() => performance.getEntriesByType("resource").some(({ name }) => name.includes("/leaves-")));
    await expect.poll(fetchedLeaves).toBe(true);
    await kill();
    await page.getByText("The desk is out of reach.").waitFor();
    expect(await accessibilityFaults(page)).toEqual([]);
    await page.getByRole("button", { name: /, example 3$/ }).click();
    await page.getByRole("button", { name: "Take it out" }).click();
    await page.getByText("1 more wait for the desk to be in reach.").waitFor();
    expect(await page.evaluate(() => JSON.stringify({ ...localStorage }))).toContain("dropExample");
    await restart();
    await expect.poll(async () => (await as("Ylva").get("api/draft")).body.changes.length).toBe(1);
    await expect.poll(() => page.getByText("The desk is out of reach.").count()).toBe(0);
    await page.getByRole("button", { name: "Stop hold-minutes" }).click();
    await page.keyboard.type("after the restart");
    await page.keyboard.press("Enter");
    await page.locator(".stopped").getByText("after the restart").waitFor();
  });

  it("a folder that could never be used is said, and a flag can be stopped by its name", async () => {
    const folder = await folderWith({
      "good.yaml": "iudex: 1\nflags:\n  f: { safe: 1 }\n",
      "broken.yaml": "flags: [",
    });
    const { open } = await startDesk({ folder });
    const { page } = await open("Nils", { at: "#/flags" });
    await page.getByRole("heading", { name: "The definitions cannot be used." }).waitFor();
    expect(await accessibilityFaults(page)).toEqual([]);
    await page.getByPlaceholder("its name").fill("f");
    await page.getByRole("button", { name: "Stop f" }).click();
    await page.keyboard.type("at once");
    await page.keyboard.press("Enter");
    await expect
      .poll(() => readFile(join(folder, "suspended.yaml"), "utf8").catch(() => ""))
      .toContain("note: at once");
  });

  it("an empty folder and a version that is none are drawn, not left", async () => {
    const { open } = await startDesk({ folder: await folderWith({}) });
    const { page } = await open("Ylva", { at: "#/flags", expected: /404/ });
    await page.getByRole("heading", { name: /No flag is defined|cannot be used/ }).waitFor();
    await page.goto(page.url().replace(/#.*/, "#/flags?by=commit:nothing"));
    await page.getByText("There is no such version to answer by.").waitFor();
    expect(await accessibilityFaults(page)).toEqual([]);
  });
});

describe.skipIf(!hasChromium)("anybody can use it", () => {
  const sheets = [
    `#/flags?in=every&${december}`,
    `#/flags?in=production&people=passengers.csv&${december}`,
    `#/flags/zone-fares?in=production&for=account.id=%22A-17%22&for=trips=104&${december}`,
    `#/flags/seat-map?in=every&against=yes&other-in=staging`,
    "#/cohorts?for=account.id=%22A-17%22",
    "#/windows",
    "#/attributes",
    "#/coming",
    "#/problems",
    "#/review",
  ];

  it("has no fault that axe-core finds on any page, in light and in dark colours", async () => {
    const { open, as } = await startDesk();
    await as("Ylva").post("api/suspend", { flag: "storm-mode", note: "false alarm" });
    await as("Ylva").post("api/draft/add", {
      change: { change: "flag", flag: "zone-fares", rule: "2", share: "44%" },
    });
    const { page } = await open("Ylva", { at: sheets[0]! });
    for (const sheet of sheets) {
      await page.goto(page.url().replace(/#.*/, sheet));
      await page.locator("main section, main article, main .whole").first().waitFor();
      expect([sheet, await accessibilityFaults(page)]).toEqual([sheet, []]);
    }
    for (const name of ["for", "in", "at", "by", "show"]) {
      await word(page, name).click();
      expect([name, await accessibilityFaults(page)]).toEqual([name, []]);
    }
    await page.keyboard.press("Escape");
    await page.goto(page.url().replace(/#.*/, "#/flags/zone-fares?by=draft&in=production"));
    await page.getByRole("button", { name: "Stop zone-fares" }).click();
    expect(await accessibilityFaults(page)).toEqual([]);
    for (const name of [/share, rule 2/, /test 1, rule 2/, /name of rule 2/, /name of the flag/]) {
      await page.getByRole("button", { name }).first().click();
      await page.getByRole("dialog").waitFor();
      expect([name, await accessibilityFaults(page)]).toEqual([name, []]);
      await page.keyboard.press("Escape");
    }
    await page.getByRole("button", { name: /test 1, rule 2/ }).click();
    await page.getByRole("button", { name: "All as text" }).click();
    await page.getByRole("textbox", { name: "The condition" }).pressSequentially(" and ");
    expect(await accessibilityFaults(page)).toEqual([]);
  });

  it("needs no sideways scrolling, on narrow screens and on wide ones", async () => {
    const { open, as } = await startDesk();
    await as("Ylva").post("api/draft/add", { change: { change: "flag", flag: "zone-fares", rule: "2", share: "44%" } });
    const { page } = await open("Ylva", { at: sheets[0]! });
    for (const sheet of sheets) {
      await page.goto(page.url().replace(/#.*/, sheet));
      await page.locator("main section, main article, main .whole").first().waitFor();
      for (const width of [390, 768, 1280, 1920]) {
        await page.setViewportSize({ width, height: 844 });
        const overflow = await page.evaluate(
          () => document.documentElement.scrollWidth - document.documentElement.clientWidth,
        );
        expect([sheet, width, overflow]).toEqual([sheet, width, 0]);
      }
    }
  });

  it("takes the focus into what opens before another key can be pressed, each time, and back when it is shut", async () => {
    const { open } = await startDesk();
    const { page } = await open("Ylva", { at: "#/flags/zone-fares?in=production" });
    await page.getByRole("heading", { name: "zone-fares", level: 2 }).waitFor();
    /** Where the focus is once a click is over, in the same turn. */
    const focusAfter = (name: string) =>
      page.getByRole("button", { name, exact: true }).evaluate(async (button: HTMLElement) => {
        button.focus();
        button.click();
        for (let i = 0; i < 10; i++) await Promise.resolve();
        return document.activeElement?.tagName;
      });
    // What a leaf needs is fetched with the first of them.
    await page.getByRole("button", { name: "10%, share, rule 2" }).click();
    await page.getByLabel("Share in percent").waitFor();
    await page.keyboard.press("Escape");
    const fields = { "Stop zone-fares": "INPUT", "10%, share, rule 2": "INPUT" };
    for (const [opener, field] of Object.entries(fields))
      for (const time of ["first", "second"]) {
        expect([opener, time, await focusAfter(opener)]).toEqual([opener, time, field]);
        await page.keyboard.press("Escape");
        const back = await page.evaluate(() => document.activeElement?.tagName);
        expect([opener, time, back]).toEqual([opener, time, "BUTTON"]);
      }
  });

  it("changes and writes a share by keyboard alone", async () => {
    const { open, folder } = await startDesk();
    const { page } = await open("Ylva", { at: "#/flags/zone-fares?in=production" });
    await page.getByRole("heading", { name: "zone-fares", level: 2 }).waitFor();
    const tabTo = async (wanted: string) => {
      for (let i = 0; i < 90; i++) {
        await page.keyboard.press("Tab");
        const here = await page.evaluate(() => {
          const { activeElement: element } = document;
          return element?.getAttribute("aria-label") ?? element?.getAttribute("name") ?? element?.textContent ?? "";
        });
        if (here.startsWith(wanted)) return;
      }
      throw new Error(`the keyboard never came to ${wanted}`);
    };
    // A rule is one stop of the Tab key; arrows go among its words.
    await tabTo("frequent travellers");
    await page.keyboard.press("ArrowRight");
    await page.keyboard.press("Enter");
    await page.getByLabel("Share in percent").waitFor();
    await page.keyboard.press("Control+A");
    await page.keyboard.type("15");
    await page.keyboard.press("Enter");
    await page.getByText("My draft holds 1 change.").waitFor();
    await tabTo("Look it through");
    await page.keyboard.press("Enter");
    await page.getByText("share raised from 10% to 15%").waitFor();
    await tabTo("note");
    await page.keyboard.type("by keyboard");
    await tabTo("Write it");
    await page.keyboard.press("Enter");
    await page.getByRole("heading", { name: "It is written." }).waitFor();
    expect(await readFile(join(folder, "fares.yaml"), "utf8")).toContain("share: 15%");
  });
});

/** Flags of several kinds, so that rows are of several heights. */
async function manyFlags(count: number): Promise<string> {
  const flags = Array.from({ length: count }, (_, i) => [
    `flag-${i}`,
    {
      about:
        i % 3 === 0
          ? `What number ${i} is for, in a sentence that may take more than a line of the page`
          : `Number ${i}`,
      safe: false,
      rules: [{ name: "some", when: `trips > ${i % 300}`, share: `${i % 100}%`, by: "account.id", give: true }],
    },
  ]);
  return folderWith({
    "flags.json": JSON.stringify({
      iudex: 1,
      attributes: { trips: "number", "account.id": "text" },
      flags: Object.fromEntries(flags),
    }),
  });
}
