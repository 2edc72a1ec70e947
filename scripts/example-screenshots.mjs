// Takes the pictures of the booking example for docs/screenshots, in Debian's Chromium. Usage:
// node scripts/example-screenshots.mjs [FOLDER]
import { cp, mkdtemp, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "playwright-core";
import { buildBooking } from "./booking-build.mjs";
import { findChromium } from "./chromium.mjs";
import { ensureBuilt, ensureInstalled, root } from "./setup.mjs";

ensureInstalled();
await ensureBuilt();
buildBooking();
const { bookingService } = await import("../examples/booking/dist/server/app.js");
const target = process.argv[2] ?? join(root, "docs/screenshots");
const home = await mkdtemp(join(tmpdir(), "booking-"));
await cp(join(root, "examples/ternhaven/flags"), join(home, "flags"), { recursive: true });
const app = await bookingService({
  flags: join(home, "flags"),
  environment: "local",
  page: join(root, "examples/booking/dist/page"),
  database: ":memory:",
  startsAt: Date.parse("2026-12-02T12:00:00Z"),
});
const address = await app.listen({ port: 0, host: "127.0.0.1" });
const browser = await chromium.launch({ executablePath: findChromium(), args: ["--no-sandbox", "--disable-gpu"] });

async function open(options) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, ...options });
  const page = await context.newPage();
  await page.goto(address);
  await page.getByRole("heading", { name: "Book a crossing" }).waitFor();
  return page;
}

async function signIn(page, id) {
  await page.getByLabel("Customer number").fill(id);
  await page.getByRole("button", { name: "Sign in" }).click();
  await page.getByText(new RegExp(`, ${id}$`)).waitFor();
}

async function choose(page, index) {
  await page.locator(".crossing").nth(index).click();
  await page.locator(".seats").waitFor();
}

async function shot(page, name) {
  await page.waitForTimeout(400);
  await page.screenshot({ path: join(target, `${name}.png`) });
  console.log(join(target, `${name}.png`));
}

const post = (body) => ({
  method: "POST",
  headers: { "content-type": "application/json" },
  body: JSON.stringify(body),
});

try {
  const page = await open({});
  await signIn(page, "A-17");
  await choose(page, 1);
  await page.locator(".seat:not(.taken)").nth(2).click();
  await page.getByRole("button", { name: "Developer drawer" }).click();
  await page.getByRole("heading", { name: "Who am I?" }).waitFor();
  await shot(page, "booking-drawer");
  const item = page.locator(".flag", { hasText: "zone-fares" });
  await item.locator("summary").click();
  await item.getByRole("button", { name: /^why/ }).click();
  await item.locator(".why").waitFor();
  await shot(page, "booking-why");
  const small = await open({ viewport: { width: 390, height: 844 } });
  await signIn(small, "A-17");
  await choose(small, 0);
  if (process.argv[2]) {
    await small.locator(".seats").evaluate((element) => element.scrollIntoView());
    await shot(small, "small-seats");
    await small.getByRole("button", { name: "Developer drawer" }).click();
    await small.getByRole("heading", { name: "Who am I?" }).waitFor();
    await shot(small, "small-drawer");
    await fetch(`${address}/api/developer/overrides`, post({ flag: "seat-map", value: "tour" }));
    await fetch(`${address}/api/developer/overrides`, post({ flag: "storm-mode", value: true }));
    const tour = await open({});
    await tour.getByText("The boats stay in harbour").waitFor();
    await choose(tour, 0);
    await shot(tour, "tour");
    await fetch(`${address}/api/developer/overrides`, post({ flag: "storm-mode", value: null }));
    await fetch(`${address}/api/developer/overrides`, post({ flag: "seat-map", value: "deck" }));
    await fetch(`${address}/api/developer/overrides`, post({ flag: "berth-view", value: true }));
    const deck = await open({});
    await deck.waitForTimeout(600);
    await choose(deck, 0);
    await deck.locator(".seat:not(.taken)").nth(3).click();
    await shot(deck, "deck");
    await deck.getByRole("button", { name: /^Hold seat/ }).click();
    await deck.getByRole("button", { name: /^Pay/ }).click();
    await deck.getByRole("button", { name: "Check in" }).click();
    await shot(deck, "held");
  }
} finally {
  await browser.close();
  await app.close();
  await rm(home, { recursive: true });
}
