// Takes the pictures of the desk for docs/screenshots, in Debian's Chromium. Usage:
// node scripts/desk-screenshots.mjs [FOLDER]
import { spawnSync } from "node:child_process";
import { cp, mkdtemp, rm } from "node:fs/promises";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "playwright-core";
import { findChromium } from "./chromium.mjs";
import { ensureBuilt, ensureInstalled, root } from "./setup.mjs";

ensureInstalled();
await ensureBuilt();
const { deskHandler } = await import("iudex/desk");
const target = process.argv[2] ?? join(root, "docs/screenshots");
const home = await mkdtemp(join(tmpdir(), "desk-"));
const folder = join(home, "flags");
await cp(join(root, "examples/ternhaven/flags"), folder, { recursive: true });
for (const words of [
  ["init", "--quiet"],
  ["add", "--all"],
  [
    "-c",
    "user.name=Ylva",
    "-c",
    "user.email=ylva@ternhaven.example",
    "commit",
    "--quiet",
    "-m",
    "The flags of the line",
  ],
])
  spawnSync("git", words, { cwd: folder });

const desk = deskHandler({
  folder,
  drafts: join(home, "drafts"),
  environment: "production",
  clock: () => Date.parse("2026-12-02T12:00:00Z"),
  people: [join(root, "examples/ternhaven/people/passengers.csv")],
  who: () => ({ name: "Ylva", may: ["look", "suspend", "change"] }),
});
const server = createServer(desk);
await new Promise((done) => server.listen(0, "127.0.0.1", done));
const address = `http://127.0.0.1:${server.address().port}/`;
const browser = await chromium.launch({ executablePath: findChromium(), args: ["--no-sandbox", "--disable-gpu"] });

async function open(question, options) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, ...options });
  const page = await context.newPage();
  await page.goto(address + question);
  await page.locator("main section, main article").first().waitFor();
  return page;
}

/** What came of a flag of the made-up season. */
async function weighed() {
  const season = join(home, "season");
  spawnSync(process.execPath, [join(root, "examples/ternhaven/season/make.mjs"), season]);
  const scales = deskHandler({
    folder: join(root, "examples/ternhaven/season/flags"),
    at: "/season",
    drafts: join(home, "drafts"),
    clock: () => Date.parse("2026-12-02T12:00:00Z"),
    weighing: {
      verdicts: join(season, "verdicts.ndjson"),
      outcomes: join(season, "outcomes.ndjson"),
      measures: ["booked"],
      better: { booked: "more" },
      guards: { cancelled: { bad: "more", margin: { by: 1, isRelative: false } } },
    },
    who: () => ({ name: "Ylva", may: ["look"] }),
  });
  const place = createServer(scales);
  await new Promise((done) => place.listen(0, "127.0.0.1", done));
  const page = await browser.newPage({ viewport: { width: 1280, height: 1000 } });
  await page.goto(`http://127.0.0.1:${place.address().port}/season/#/flags/early-boarding?in=production`);
  const part = page.getByRole("region", { name: "What came of it" });
  await part.getByRole("button", { name: /^Weigh/ }).click();
  await part.locator("svg").waitFor();
  await part.evaluate((element) => element.scrollIntoView());
  await shot(page, "desk-weigh");
  place.closeAllConnections();
  place.close();
  await scales.close();
}

async function shot(page, name) {
  await page.waitForTimeout(900);
  await page.screenshot({ path: join(target, `${name}.png`) });
  console.log(join(target, `${name}.png`));
}

try {
  const at = "at=2026-12-02T12:00Z";
  await shot(await open(`#/flags?in=every&${at}`), "desk");
  const person = "for=account.id%3D%22A-17%22&for=account.plan%3D%22vehicle%22&for=trips%3D104";
  const why = await open(`#/flags/zone-fares?${person}&in=production&${at}`, {
    viewport: { width: 1280, height: 1000 },
  });
  await shot(why, "desk-why");
  const draft = await open(`#/flags/zone-fares?in=production&${at}`);
  await draft.getByRole("button", { name: "10%, share, rule 2" }).click();
  await draft.getByRole("slider", { name: "Share, by sliding" }).fill("40");
  await draft
    .getByText(/\d+ more/)
    .first()
    .waitFor();
  await draft.getByRole("button", { name: "Keep 40%" }).click();
  await draft.getByRole("button", { name: "Look it through" }).click();
  await draft.getByText(/of 240 people/).waitFor();
  await draft.getByLabel("Why is it changed?").fill("They have waited long enough");
  await shot(draft, "desk-draft");
  await fetch(`${address}api/session`)
    .then((answer) => answer.json())
    .then(({ token }) =>
      fetch(`${address}api/suspend`, {
        method: "POST",
        headers: { "content-type": "application/json", "desk-token": token, origin: address.slice(0, -1) },
        body: JSON.stringify({ flag: "seat-map", note: "passengers see the wrong deck" }),
      }),
    );
  await shot(await open(`#/flags?people=passengers.csv&in=production&${at}`, { colorScheme: "dark" }), "desk-dark");
  await shot(await open(`#/windows?in=production&${at}`, { viewport: { width: 390, height: 844 } }), "desk-small");
  await weighed();
} finally {
  await browser.close();
  await desk.close();
  server.closeAllConnections();
  server.close();
  await rm(home, { recursive: true, force: true });
}
