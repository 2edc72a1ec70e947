import { appendFile, cp } from "node:fs/promises";
import { join } from "node:path";
import { afterAll, expect, it } from "vitest";
import { accessibilityFaults, closeBrowser, hasChromium } from "../support/browser.ts";
import { type OpenDesk, startDesk } from "../support/desk.ts";
import { scratch } from "../support/scratch.ts";
import { season, seasonFlags } from "../support/weighing.ts";

afterAll(closeBrowser);

interface Scales extends OpenDesk {
  readonly files: { readonly verdicts: string; readonly outcomes: string };
}

async function deskWithScales(): Promise<Scales> {
  const place = await scratch();
  await cp(await season(), place, { recursive: true });
  await cp(seasonFlags, join(place, "flags"), { recursive: true });
  const files = { verdicts: join(place, "verdicts.ndjson"), outcomes: join(place, "outcomes.ndjson") };
  const weighing = { ...files, measures: ["booked"], better: { booked: "more" } } as const;
  return { ...(await startDesk({ folder: join(place, "flags"), weighing })), files };
}

it("tells a looker what came of a flag, and tells anew when the files have grown", async () => {
  const { as, files } = await deskWithScales();
  const runa = as("Runa");
  expect((await runa.get("api/session")).body.canWeigh).toBe(true);
  const asked = { flag: "early-boarding", environment: "production" };
  const { body } = await runa.post("api/weigh", asked);
  expect(body.measures).toMatchObject([
    { name: "booked", isGuard: false, says: [expect.stringMatching(/^people let in do better: /)] },
  ]);
  expect(body.facts[0]).toMatch(/^The scales are sound: /);
  expect(body.picture).toMatch(/^<svg [^>]*>\n<g>/);
  expect(body.picture).not.toContain("<style>");
  const again = await Promise.all([runa, as("Nils")].map((each) => each.post("api/weigh", asked)));
  expect(again.map((each) => each.body)).toEqual([body, body]);
  await appendFile(files.outcomes, "{ not a row\n");
  const grown = (await runa.post("api/weigh", asked)).body;
  expect(grown.facts.join()).toContain("lines that cannot be read");
  const off = (await runa.post("api/weigh", { flag: "quay-map", environment: "production" })).body;
  expect(off.measures[0].says[0]).toContain("no comparison");
  expect(off).not.toHaveProperty("picture");
});

it("says why nothing can be told: no files, no such flag, no rule that divides people", async () => {
  const { as } = await deskWithScales();
  const ask = async (body: object) => (await as("Runa").post("api/weigh", body)).body;
  expect(await ask({ flag: "early-bordering" })).toMatchObject({
    status: 409,
    title: "There is no flag “early-bordering”.",
  });
  const plain = await startDesk();
  expect((await plain.as("Runa").get("api/session")).body.canWeigh).toBe(false);
  expect((await plain.as("Runa").post("api/weigh", { flag: "zone-fares" })).status).toBe(404);
});

it.skipIf(!hasChromium)("stands on the page of a flag, the words first, at any width", async () => {
  const { open } = await deskWithScales();
  for (const viewport of [
    { width: 1280, height: 800 },
    { width: 390, height: 800 },
  ]) {
    const { page } = await open("Runa", { at: "#/flags/early-boarding?in=production", viewport, colorScheme: "dark" });
    const part = page.getByRole("region", { name: "What came of it" });
    await part.getByRole("button", { name: "Weigh the groups of rule 1 “half of them”" }).click();
    await part.getByText(/^people let in do better: [0-9.]+ to [0-9.]+ points more$/).waitFor();
    const box = async (selector: string) => (await part.locator(selector).first().boundingBox())!;
    const [says, drawing] = [await box(".says"), await box("svg")];
    expect(says.y).toBeLessThan(drawing.y);
    expect(drawing.x + drawing.width).toBeLessThanOrEqual(viewport.width);
    expect(await accessibilityFaults(page)).toEqual([]);
  }
});
