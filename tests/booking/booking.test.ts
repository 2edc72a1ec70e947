import { existsSync } from "node:fs";
import { readFile, writeFile } from "node:fs/promises";
import { request } from "node:http";
import { join } from "node:path";
import { signPass } from "iudex";
import type { Page } from "playwright-core";
import { afterAll, describe, expect, it } from "vitest";
import { passKey, startBooking } from "../support/booking.ts";
import { accessibilityFaults, closeBrowser, hasChromium } from "../support/browser.ts";
import { storyTime } from "../support/story.ts";

afterAll(closeBrowser);

async function signIn(page: Page, id: string): Promise<void> {
  await page.getByLabel("Customer number").fill(id);
  await page.getByRole("button", { name: "Sign in" }).click();
  await page.getByText(new RegExp(`, ${id}$`)).waitFor();
}

async function openDrawer(page: Page): Promise<void> {
  await page.getByRole("button", { name: "Developer drawer" }).click();
  await page.getByRole("heading", { name: "Who am I?" }).waitFor();
}

/** What can be done with a flag stands behind its line. */
async function unfold(page: Page, name: string) {
  const item = flagItem(page, name);
  await item.locator("summary").click();
  return item;
}

function flagItem(page: Page, name: string) {
  return page.locator(".flag", { has: page.getByText(name, { exact: true }) });
}

const december = "2026-12-02T10:00:00Z";

async function moveClock(address: string, at: string): Promise<void> {
  const init = { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify({ at }) };
  expect((await fetch(`${address}/api/developer/clock`, init)).status).toBe(200);
}

describe.skipIf(!hasChromium)("the booking page", () => {
  it.each([
    ["in the story's winter", storyTime, "08:00"],
    ["on a summer day of 2031", Date.parse("2031-07-04T09:00:00Z"), "07:00"],
  ])("lets a passenger book %s: search, seat, hold, pay, check in", async (_, startsAt, departs) => {
    const { open, folder } = await startBooking("production", startsAt);
    const { page } = await open();
    await signIn(page, "A-2040");
    await page.getByLabel("To", { exact: true }).selectOption("Osprey Point");
    await page.getByLabel("Passengers").fill("2");
    await page.locator(".crossing", { hasText: departs }).click();
    await page.locator(".seat", { hasText: "Q3" }).click();
    // Freight plans ahead: two hours.
    await page.getByRole("button", { name: "Hold seat Q3 for 120 minutes" }).click();
    await expect.poll(() => page.getByText("Held for you").isVisible()).toBe(true);
    expect(await page.locator(".countdown").textContent()).toMatch(/^1(?:20:00|19:\d\d) minutes left/);
    await page.getByRole("button", { name: /^Pay \d+ crowns$/ }).click();
    await page.getByRole("button", { name: "Check in" }).click();
    await page.getByText(/Checked in, lane [12]/).waitFor();
    await page.getByRole("button", { name: "Book another" }).click();
    await page.locator(".crossing", { hasText: departs }).click();
    await expect.poll(() => page.locator(".seat.taken").allTextContents()).toEqual(["Q3 (taken)"]);
    // What came of it is written down beside who got what, under the same id.
    const noted = async (file: string) =>
      (await readFile(join(folder, "..", "records", file), "utf8"))
        .trim()
        .split("\n")
        .map((line) => JSON.parse(line));
    await expect
      .poll(async () => (await noted("outcomes.ndjson")).map(({ subject, measure }) => [subject, measure]))
      .toEqual([
        ["A-2040", "booked"],
        ["A-2040", "crowns"],
        ["A-2040", "minutes"],
      ]);
    expect(
      (await noted("verdicts.ndjson")).some(({ subject, flag }) => subject === "A-2040" && flag === "hold-minutes"),
    ).toBe(true);
  });

  it("changes while it is open when a definition file is saved: no reload, and nothing flickers", async () => {
    const { open, edit } = await startBooking("production");
    const { page } = await open();
    await page.locator(".crossing").first().click();
    const prices = () => page.locator(".price").allTextContents();
    await expect.poll(async () => (await prices())[0]).toBe("182 crowns");
    await page.evaluate(() => {
      const seen = { gone: 0, shift: 0 };
      Object.assign(globalThis, { seen });
      new MutationObserver((records) => {
        for (const record of records) {
          for (const node of record.removedNodes)
            if (node instanceof Element && node.matches(".crossing, .crossings, .seats, main")) seen.gone++;
        }
      }).observe(document.body, { childList: true, subtree: true });
      new PerformanceObserver((list) => {
        for (const entry of list.getEntries()) seen.shift += (entry as PerformanceEntry & { value: number }).value;
      }).observe({ type: "layout-shift" });
    });
    await edit("fares.yaml", "    safe: false\n    rules:", "    safe: false\n    otherwise: true\n    rules:");
    await expect.poll(async () => (await prices())[0]).toBe("180 crowns");
    expect(await page.locator(".crossing").first().locator("input").isChecked()).toBe(true);
    await edit("fares.yaml", "    otherwise: true\n", "");
    await expect.poll(async () => (await prices())[0]).toBe("182 crowns");
    // What was noted at the beginning is still there, so the page was never loaded anew.
    expect(await page.evaluate(() => (globalThis as unknown as { seen: object }).seen)).toEqual({ gone: 0, shift: 0 });
  });

  it("keeps what is shown while a broken file is refused", async () => {
    const { open, edit, address } = await startBooking("production");
    const { page } = await open();
    const { revision } = (await (await fetch(`${address}/api/flags`)).json()) as { revision: string };
    await edit("fares.yaml", "safe: 15", "safe: [");
    await page.waitForTimeout(1_500);
    expect(((await (await fetch(`${address}/api/flags`)).json()) as { revision: string }).revision).toBe(revision);
    expect(await page.locator(".crossing").count()).toBeGreaterThan(0);
  });

  it("closes booking in a storm: the button, and the address itself", async () => {
    const { open, edit, address } = await startBooking("production");
    const { page } = await open();
    await page.locator(".crossing").first().click();
    await page.locator(".seat").first().click();
    const crossing = await page.locator(".crossing input").first().inputValue();
    const hold = () =>
      fetch(`${address}/api/holds`, {
        method: "POST",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({ crossing, seat: "S8", passengers: 1, vehicle: false }),
      });
    expect((await hold()).status).toBe(200);
    await edit("operations.yaml", "    safe: false\n\n  duty-desk", "    safe: true\n\n  duty-desk");
    await page.getByText("The boats stay in harbour").waitFor();
    expect(await page.getByRole("button", { name: /^Hold/ }).isDisabled()).toBe(true);
    const closed = await hold();
    expect([closed.status, closed.headers.get("retry-after")]).toEqual([503, "3600"]);
    expect(await closed.json()).toEqual({ message: expect.stringContaining("booking is closed") });
    expect(await page.getByText("Nobody is there while the storm lasts.").isVisible()).toBe(true);
    expect(await page.getByText("Booking is closed until the storm has passed.").isVisible()).toBe(true);
  });

  it("opens one person's preview with a pass, and nobody else's", async () => {
    const { open, address } = await startBooking("production");
    const pass = await signPass(
      { flags: { "berth-view": true }, environment: "production", expires: storyTime + 600_000 },
      passKey,
    );
    const { page, context } = await open();
    expect(await page.getByRole("heading", { name: "Berths" }).count()).toBe(0);
    expect((await fetch(`${address}/api/berths`)).status).toBe(404);
    await context.addCookies([{ name: "iudex-pass", value: pass, url: address }]);
    await page.reload();
    await page.getByRole("cell", { name: "MV Kittiwake" }).waitFor();
    const answer = await fetch(`${address}/api/berths`, { headers: { "iudex-pass": pass } });
    expect([answer.status, answer.headers.get("cache-control")]).toEqual([200, "no-store"]);
    const other = await open();
    expect(await other.page.getByRole("heading", { name: "Berths" }).count()).toBe(0);
  });

  it("shows the berths to pilot captains", async () => {
    const { open } = await startBooking("production");
    const { page } = await open();
    await signIn(page, "C-204");
    await page.getByRole("cell", { name: "Middle quay" }).waitFor();
  });

  it("has no drawer in production, no address behind it, and takes no tried attributes", async () => {
    const { open, address } = await startBooking("production");
    const { page } = await open();
    expect(await page.getByRole("button", { name: "Developer drawer" }).count()).toBe(0);
    for (const path of ["", "/why/zone-fares"])
      expect((await fetch(`${address}/api/developer${path}`)).status).toBe(404);
    for (const path of ["/me", "/clock", "/overrides"]) {
      const init = { method: "POST", headers: { "content-type": "application/json" }, body: "{}" };
      expect((await fetch(`${address}/api/developer${path}`, init)).status).toBe(404);
    }
    const tried = encodeURIComponent(JSON.stringify({ account: { id: "C-204" } }));
    expect((await fetch(`${address}/api/berths`, { headers: { cookie: `tried-attributes=${tried}` } })).status).toBe(
      404,
    );
    expect((await fetch(`${address}/api/flags`)).headers.get("iudex-verdicts")).toBeNull();
  });
});

describe.skipIf(!hasChromium)("what goes wrong is told where it happens", () => {
  it("a wrong customer number moves nothing on the page, and the focus goes where the page does", async () => {
    const { open } = await startBooking("production");
    const { page } = await open({ expected: /status of 404/ });
    const top = async () => (await page.getByRole("heading", { name: "Book a crossing" }).boundingBox())!.y;
    const before = await top();
    await page.getByLabel("Customer number").fill("A-0");
    await page.keyboard.press("Enter");
    await page.getByText("We know nobody by that number.").waitFor();
    expect(await top()).toBe(before);
    const focused = () => page.evaluate(() => document.activeElement?.textContent || document.activeElement?.tagName);
    await page.getByLabel("Customer number").fill("A-17");
    await page.keyboard.press("Enter");
    await expect.poll(focused).toBe("Sign out");
    await page.keyboard.press("Enter");
    await expect.poll(focused).toBe("INPUT");
    await page.locator(".crossing").last().click();
    await page.locator(".seat").first().click();
    await page.getByRole("button", { name: /^Hold/ }).click();
    await expect.poll(focused).toBe("Ternhaven to Lower Gannet");
    await page.getByRole("button", { name: /^Pay/ }).click();
    await expect.poll(focused).toBe("Ternhaven to Lower Gannet");
    await page.getByRole("button", { name: "Book another" }).click();
    await expect.poll(() => page.evaluate(() => document.activeElement?.tagName)).toBe("SELECT");
  });

  it("too many passengers, a day that is over, a timetable that cannot be had", async () => {
    const { open } = await startBooking("production");
    const { page } = await open({ expected: /status of 500/ });
    await page.locator(".crossing").last().click();
    await page.locator(".seat").first().click();
    await page.getByLabel("Passengers").fill("12");
    await page.getByText("We hold seats for one to 9 at once.").waitFor();
    expect(await page.getByRole("button", { name: /^Hold/ }).isDisabled()).toBe(true);
    await page.getByLabel("Passengers").fill("2");
    const today = await page.getByLabel("Day").inputValue();
    await page.getByLabel("Day").fill("2020-01-01");
    await page.getByText("That day is over.").first().waitFor();
    expect(await page.locator(".crossing").count()).toBe(0);
    await page.route("**/api/crossings*", (route) => route.fulfill({ status: 500, body: "{}" }));
    await page.getByLabel("Day").fill(today);
    await page.getByText("The timetable cannot be had just now.").waitFor();
    await page.unroute("**/api/crossings*");
    await page.getByRole("button", { name: "Ask again" }).click();
    await page.locator(".crossing").first().waitFor();
  });

  it("what is held stays whatever turns, is not paid in a storm, and is told when its time is over", async () => {
    const { open, edit, address } = await startBooking("production");
    const { page } = await open();
    await page.clock.install();
    await page.locator(".crossing").last().click();
    await page.locator(".seat").first().click();
    await page.getByRole("button", { name: /^Hold/ }).click();
    await page.getByText("Held for you").waitFor();
    // The port is no longer called at, so the sailing is in no timetable.
    await edit("crossing.yaml", "Lower Gannet, ", "");
    const ports = async () => ((await (await fetch(`${address}/api/check-in`)).json()) as { ports: string[] }).ports;
    await expect.poll(ports).not.toContain("Lower Gannet");
    await edit("operations.yaml", "    safe: false\n\n  duty-desk", "    safe: true\n\n  duty-desk");
    await page.getByText("Nothing is paid while the storm lasts.").waitFor();
    await page.getByText("We call at Ternhaven, Osprey Point, Kelpmoor.").waitFor();
    expect(await page.getByText("Held for you").isVisible()).toBe(true);
    expect(await page.getByRole("button", { name: /^Pay/ }).isDisabled()).toBe(true);
    await page.clock.fastForward(16 * 60_000);
    await page.getByText("No longer held").waitFor();
    expect(await page.getByRole("button", { name: /^Pay/ }).count()).toBe(0);
  });

  it("the address for paying is closed in a storm too", async () => {
    const { address, edit } = await startBooking("production");
    const ask = (path: string, body: object) =>
      fetch(`${address}${path}`, {
        method: "POST",
        headers: { "content-type": "application/json" },
        body: JSON.stringify(body),
      });
    const crossing = "2030-12-02_08:00_Ternhaven_Osprey-Point";
    const held = await ask("/api/holds", { crossing, seat: "F1", passengers: 1, vehicle: false });
    const { id } = (await held.json()) as { id: string };
    await edit("operations.yaml", "    safe: false\n\n  duty-desk", "    safe: true\n\n  duty-desk");
    await expect.poll(async () => (await ask(`/api/holds/${id}/pay`, {})).status).toBe(503);
  });

  it("eight tabs are open at once, and each sees a change", async () => {
    const { open, edit } = await startBooking("production");
    const { context, page } = await open();
    const pages = [page];
    for (let i = 0; i < 7; i++) {
      const tab = await context.newPage();
      await tab.goto(page.url());
      await tab.locator(".crossing").first().waitFor();
      pages.push(tab);
    }
    await edit("operations.yaml", "    safe: false\n\n  duty-desk", "    safe: true\n\n  duty-desk");
    for (const tab of pages) await tab.getByText("The boats stay in harbour").waitFor();
    // The one that listened for all goes; another takes its place.
    await page.close();
    await edit("operations.yaml", "    safe: true\n\n  duty-desk", "    safe: false\n\n  duty-desk");
    for (const tab of pages.slice(1)) await tab.getByText("The boats stay in harbour").waitFor({ state: "hidden" });
  });
});

describe.skipIf(!hasChromium)("the developer's drawer", () => {
  it("shows all flags at once, covers no price and no button, and goes with Escape", async () => {
    const { open } = await startBooking("local");
    for (const width of [1280, 1024, 390]) {
      const { page, context } = await open({ viewport: { width, height: 800 } });
      await page.locator(".crossing").first().click();
      await page.locator(".seat").first().click();
      const hold = page.getByRole("button", { name: /^Hold/ });
      await hold.scrollIntoViewIfNeeded();
      await hold.click({ trial: true });
      await openDrawer(page);
      if (width > 1_000) {
        for (const name of ["seat-map", "zone-fares", "berth-view", "winter-timetable"])
          expect(await flagItem(page, name).isVisible()).toBe(true);
        await page.locator(".price").first().click({ trial: true });
      }
      await page.keyboard.press("Escape");
      await page.getByRole("heading", { name: "Who am I?" }).waitFor({ state: "hidden" });
      expect(await page.evaluate(() => document.activeElement?.textContent)).toBe("Developer drawer");
      await context.close();
    }
  });

  it("tells of a file that was refused", async () => {
    const { open, edit } = await startBooking("local");
    const { page } = await open();
    await openDrawer(page);
    await edit("fares.yaml", "safe: 15", "safe: [");
    await expect
      .poll(async () => {
        // The drawer looks again whenever something is done in it.
        await page.getByRole("button", { name: "Move the clock" }).click();
        return page.getByRole("alert").allTextContents();
      })
      .toEqual([expect.stringMatching(/A change was refused\. definitions [0-9a-f]+ stay in force: .*fares\.yaml/)]);
  });

  it("says who I am and lets me be somebody else, made up or edited", async () => {
    const { open, address } = await startBooking("local");
    await moveClock(address, december);
    const { page } = await open();
    await openDrawer(page);
    await page.getByLabel("Person").selectOption("C-204");
    await expect.poll(() => flagItem(page, "berth-view").locator(".value").textContent()).toBe("true");
    await expect.poll(() => page.getByText("Kari, C-204", { exact: true }).count()).toBe(1);
    await page.getByLabel("Attributes").fill('{ "account": { "id": "Z-1", "plan": "freight" } }');
    await page.getByRole("button", { name: "Be this one" }).click();
    await expect.poll(() => flagItem(page, "hold-minutes").locator(".value").textContent()).toBe("120");
    expect(await flagItem(page, "berth-view").locator(".value").textContent()).toBe("false");
  });

  it("moves the clock, and the page goes by it", async () => {
    const { open, address } = await startBooking("local");
    await moveClock(address, december);
    const { page } = await open();
    await page.getByText("Somebody is there.").waitFor();
    await openDrawer(page);
    await page.getByLabel("Clock of the service (UTC)").fill("2026-12-06T23:00");
    await page.getByRole("button", { name: "Move the clock" }).click();
    await page.getByText("Nobody is there now.").waitFor();
    await page.getByLabel("Clock of the service (UTC)").fill("2026-07-01T10:00");
    await page.getByRole("button", { name: "Move the clock" }).click();
    await page.getByText("The summer timetable is in force.").waitFor();
    await page.getByRole("button", { name: "Set it back" }).click();
    await expect.poll(() => page.getByRole("button", { name: "Set it back" }).count()).toBe(0);
  });

  it("keeps what is being written while an answer arrives", async () => {
    const { open, edit } = await startBooking("local");
    const { page } = await open();
    await openDrawer(page);
    const clock = page.getByLabel("Clock of the service (UTC)");
    const attributes = page.getByLabel("Attributes");
    await clock.fill("2026-07-01T10:00");
    await attributes.fill("{ begun");
    await page.route("**/api/developer", async (route) => {
      const answer = await route.fetch();
      const told = await answer.json();
      await route.fulfill({ json: { ...told, clock: { now: "2027-01-01T00:00:00.000Z", moved: true }, context: {} } });
    });
    await edit("fares.yaml", "safe: 15", "safe: 16");
    await page.getByRole("button", { name: "Set it back" }).waitFor();
    expect(await clock.inputValue()).toBe("2026-07-01T10:00");
    expect(await attributes.inputValue()).toBe("{ begun");
  });

  it("turns a flag here, shows it on the open page, and turns it back", async () => {
    const { open } = await startBooking("local");
    const { page } = await open();
    await page.locator(".crossing").first().click();
    await openDrawer(page);
    const item = await unfold(page, "seat-map");
    await item.getByLabel("Turn seat-map here").selectOption("deck");
    await page.getByText("Your seat on the deck plan").waitFor();
    await expect.poll(() => item.locator(".cause").textContent()).toBe("turned here");
    await item.getByLabel("Turn seat-map here").selectOption("as defined");
    await page.getByText("Your seat", { exact: true }).waitFor();
    await expect.poll(() => item.locator(".cause").textContent()).not.toBe("turned here");
  });

  it("explains each flag in a sentence, and the whole way on request", async () => {
    const { open, address } = await startBooking("local");
    await moveClock(address, december);
    const { page } = await open();
    await signIn(page, "A-17");
    await openDrawer(page);
    expect(await page.locator(".flag").count()).toBe(8);
    const item = await unfold(page, "zone-fares");
    expect(await item.locator(".sentence").textContent()).toContain("10% of people whose trips is more than 100");
    await item.getByRole("button", { name: "why?" }).click();
    await expect.poll(() => item.locator(".why").textContent()).toContain("share 10% by account.id: A-17 is at 20.22%");
    expect(await item.locator(".why").textContent()).toContain("^^^^^^^^^^^ true: trips is 104");
  });
});

describe.skipIf(!hasChromium)("anybody can use it", () => {
  it("has no fault that axe-core finds, in light and in dark colours", async () => {
    const { open, address, edit } = await startBooking("local");
    await moveClock(address, december);
    const { page } = await open();
    expect(await accessibilityFaults(page)).toEqual([]);
    await signIn(page, "C-204");
    await page.locator(".crossing").first().click();
    for (const look of ["classic", "deck", "tour"]) {
      const init = {
        method: "POST",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({ flag: "seat-map", value: look }),
      };
      await fetch(`${address}/api/developer/overrides`, init);
      await page.locator({ classic: ".seat-list", deck: ".deck-plan", tour: ".walk-through" }[look]!).waitFor();
      await page.locator(".seat").nth(2).click();
      expect(await accessibilityFaults(page)).toEqual([]);
    }
    await openDrawer(page);
    await unfold(page, "zone-fares");
    expect(await accessibilityFaults(page)).toEqual([]);
    await page.getByRole("button", { name: "why? (zone-fares)" }).click();
    await expect.poll(() => page.locator(".why").textContent()).toContain("zone-fares is true");
    expect(await accessibilityFaults(page)).toEqual([]);
    await page.getByRole("button", { name: "Close", exact: true }).click();
    await page.getByRole("button", { name: "Close the drawer" }).click();
    await page.getByRole("button", { name: /^Hold seat/ }).click();
    await page.getByText("Held for you").waitFor();
    expect(await accessibilityFaults(page)).toEqual([]);
    await edit("operations.yaml", "    safe: false\n\n  duty-desk", "    safe: true\n\n  duty-desk");
    await page.getByText("The boats stay in harbour").waitFor();
    expect(await accessibilityFaults(page)).toEqual([]);
  });

  it("is booked by keyboard alone", async () => {
    const { open } = await startBooking("production");
    const { page } = await open();
    const tabTo = async (wanted: string) => {
      for (let i = 0; i < 60; i++) {
        await page.keyboard.press("Tab");
        const here = await page.evaluate(() => {
          const { activeElement: element } = document;
          return `${element?.tagName} ${element?.getAttribute("name") ?? ""} ${element?.textContent ?? ""}`;
        });
        if (here.startsWith(wanted)) return;
      }
      throw new Error(`the keyboard never came to ${wanted}`);
    };
    await tabTo("INPUT crossing");
    await page.keyboard.press("Space");
    await page.locator(".seats").waitFor();
    await tabTo("INPUT seat");
    await page.keyboard.press("Space");
    await page.keyboard.press("ArrowRight");
    await tabTo("BUTTON  Hold seat F2");
    await page.keyboard.press("Enter");
    await page.getByText("Held for you").waitFor();
  });

  it.each([390, 1280])("needs no sideways scrolling at %d pixels", async (width) => {
    const { open, address } = await startBooking("local");
    await moveClock(address, december);
    const { page } = await open({ viewport: { width, height: 844 } });
    const overflow = () =>
      page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
    await signIn(page, "C-204");
    await page.locator(".crossing").first().click();
    await page.locator(".seats").waitFor();
    expect(await overflow()).toBe(0);
    await openDrawer(page);
    await unfold(page, "zone-fares");
    expect(await overflow()).toBe(0);
    await page.getByRole("button", { name: "why? (zone-fares)" }).click();
    expect(await overflow()).toBe(0);
  });
});

describe("the desk of the crew", () => {
  it("is for whoever signed in with an address of the house, and nobody else is to know of it", async () => {
    const { address } = await startBooking("production");
    const as = (id: string) => fetch(`${address}/crew/flags/api/session`, { headers: { cookie: `traveller=${id}` } });
    expect([(await as("A-17")).status, (await as("nobody")).status]).toEqual([404, 404]);
    expect(await (await as("C-204")).json()).toMatchObject({ name: "Kari", environment: "production" });
  });

  it.skipIf(!hasChromium)("is a click away, and what is stopped there is stopped on the page", async () => {
    const { open } = await startBooking("production");
    const { page } = await open();
    await signIn(page, "C-204");
    await page.getByRole("link", { name: "Flags" }).click();
    await page.getByRole("link", { name: "berth-view" }).click();
    await page.getByRole("button", { name: "Stop berth-view" }).click();
    await page.keyboard.type("not today");
    await page.keyboard.press("Enter");
    await page.locator(".stopped").getByText("not today").waitFor();
  });
});

describe("the developer's routes", () => {
  const post = (url: string, body: unknown, headers: Record<string, string> = {}) =>
    new Promise<number>((resolve, reject) => {
      const asked = request(
        url,
        { method: "POST", headers: { "content-type": "application/json", ...headers } },
        (answer) => resolve(answer.resume().statusCode!),
      );
      asked.on("error", reject).end(JSON.stringify(body));
    });

  it("are for this machine only, under its own name", async () => {
    const { address } = await startBooking("local");
    const url = `${address}/api/developer/overrides`;
    const turned = { flag: "storm-mode", value: true };
    expect(await post(url, turned, { host: "evil.example" })).toBe(403);
    expect(await post(url, turned, { origin: "https://evil.example" })).toBe(403);
    expect(await post(url, turned, { host: "localhost:4410", origin: "http://localhost:4410" })).toBe(200);
  });

  it("are for this machine only, however their address is written", async () => {
    const { address, folder } = await startBooking("local");
    const turned = { flag: "storm-mode", value: true };
    const { port } = new URL(address);
    const paths = [
      "/api/%64eveloper/overrides",
      "/%61pi/developer/overrides",
      "/api/developer/%6fverrides",
      "//api/developer/overrides",
      "/api//developer/overrides",
      "/api/./developer/overrides",
      "/api/x/../developer/overrides",
      "/API/DEVELOPER/OVERRIDES",
      `http://127.0.0.1:${port}/api/developer/overrides`,
      "/api/developer/overrides?x=1",
      "/api/developer/overrides;x",
    ];
    const answers = await Promise.all(
      paths.map(
        (path) =>
          new Promise<number>((resolve, reject) => {
            const headers = { "content-type": "application/json", host: "evil.example" };
            const asked = request({ host: "127.0.0.1", port, path, method: "POST", headers }, (answer) =>
              resolve(answer.resume().statusCode!),
            );
            asked.on("error", reject).end(JSON.stringify(turned));
          }),
      ),
    );
    for (const [i, status] of answers.entries())
      expect([paths[i], [403, 404].includes(status)]).toEqual([paths[i], true]);
    expect(existsSync(join(folder, "overrides.local.yaml"))).toBe(false);
  });

  it("refuse bodies that are none with a sentence", async () => {
    const { address } = await startBooking("local");
    for (const path of ["me", "clock", "overrides"])
      for (const body of [null, [], "x", { flag: 3, at: 3, id: 3 }])
        expect([path, body, await post(`${address}/api/developer/${path}`, body)]).toEqual([path, body, 400]);
  });

  it("keep what somebody wrote into the overrides by hand, and write over nothing that they cannot read", async () => {
    const { address, folder } = await startBooking("local");
    const file = join(folder, "overrides.local.yaml");
    const byHand = "# mine, for this week\niudex: 1\noverrides:\n  hold-minutes: 5 # short\n";
    await writeFile(file, byHand);
    const url = `${address}/api/developer/overrides`;
    expect(await post(url, { flag: "storm-mode", value: true })).toBe(200);
    expect(await readFile(file, "utf8")).toBe(`${byHand}  storm-mode: true\n`);
    expect(await post(url, { flag: "storm-mode", value: null })).toBe(200);
    expect(await readFile(file, "utf8")).toBe(byHand);
    await writeFile(file, "overrides: [");
    expect(await post(url, { flag: "storm-mode", value: true })).toBe(409);
    expect(await readFile(file, "utf8")).toBe("overrides: [");
  });
});

it("answers a bad hold with what is wrong", async () => {
  const { address } = await startBooking("production");
  const hold = async (body: unknown) => {
    const init = { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(body) };
    const answer = await fetch(`${address}/api/holds`, init);
    return [answer.status, ((await answer.json()) as { message: string }).message];
  };
  const good = { crossing: "2026-12-02_08:00_Ternhaven_Osprey-Point", seat: "F1", passengers: 1, vehicle: false };
  expect(await hold({ ...good, passengers: "many" })).toEqual([400, expect.stringContaining("passengers")]);
  expect(await hold({})).toEqual([400, expect.stringContaining("crossing")]);
  expect(await hold({ ...good, crossing: "2026-12-02_08:00_Ternhaven_Atlantis" })).toEqual([
    404,
    "There is no such crossing or seat.",
  ]);
  expect(await hold({ ...good, passengers: 12 })).toEqual([400, expect.stringMatching(/one to nine/)]);
  expect(await hold(null)).toEqual([400, expect.stringContaining("what was sent")]);
  expect(await hold({ ...good, crossing: "2020-12-02_08:00_Ternhaven_Osprey-Point" })).toEqual([
    410,
    "That day is over.",
  ]);
  const search = "from=Ternhaven&to=Kelpmoor&date=2026-12-02";
  expect((await fetch(`${address}/api/crossings?${search}&from=Kelpmoor`)).status).toBe(400);
  expect((await fetch(`${address}/api/quote?crossing=a&crossing=b`)).status).toBe(400);
  expect((await hold(good))[0]).toBe(200);
  expect(await hold(good)).toEqual([409, "Somebody else has just taken that seat."]);
  const quote = async (person: string) => {
    const query = new URLSearchParams({ crossing: good.crossing, passengers: "2" });
    return (await fetch(`${address}/api/quote?${query}`, { headers: { cookie: `traveller=${person}` } })).json();
  };
  expect([await quote("C-204"), await quote("A-4")]).toEqual([
    { crowns: 135, engine: "zone" },
    { crowns: 248, engine: "port pair" },
  ]);
});

it("starts, prints its address and stops cleanly", async () => {
  const { spawn } = await import("node:child_process");
  const { projectRoot } = await import("../support/folders.ts");
  const env = { ...process.env, PORT: "0", BOOKING_DATABASE: ":memory:" };
  const child = spawn(process.execPath, [join(projectRoot, "examples/booking/dist/server/main.js")], { env });
  let out = "";
  const address = await new Promise<string>((resolve) => {
    child.stdout.on("data", (chunk: Buffer) => {
      out += chunk;
      const found = /at (http:\S+) \(local\)/.exec(out)?.[1];
      if (found) resolve(found);
    });
  });
  expect((await fetch(`${address}/api/session`)).status).toBe(200);
  const ended = new Promise((resolve) => child.on("close", resolve));
  child.kill("SIGINT");
  expect(await ended).toBe(0);
  expect(out).toContain("The desk is closed.");
});
