import { followFlags } from "iudex";
import { publishFolder } from "iudex/fleet";
import { afterAll, describe, expect, it, onTestFinished } from "vitest";
import { closeBrowser, hasChromium } from "../support/browser.ts";
import { startDesk } from "../support/desk.ts";
import { copiedDemo, keyPair, shelfKind } from "../support/shelves.ts";

afterAll(closeBrowser);

describe("a shelf at the desk", () => {
  it("is told edition by edition, each can be asked by, and one that does not answer is said", async () => {
    const { key, keys } = await keyPair();
    const folder = await copiedDemo();
    const { shelf } = await shelfKind("folder").stand();
    const { as } = await startDesk({ folder, record: { shelf, key }, keys });
    await publishFolder(shelf, { folder, key, by: "Nightly build", note: "the first" });
    const ylva = as("Ylva");
    expect((await ylva.get("api/session")).body.shelf).toBe(shelf.called);
    const change = { change: "flag", flag: "zone-fares", rule: "2", share: "40%" };
    await ylva.post("api/draft/add", { change });
    await ylva.post("api/draft/write", { ...(await ylva.get("api/draft/review")).body, note: "more" });
    const { editions, followers } = (await as("Runa").get("api/shelf")).body;
    expect(editions.map(({ number, by, note }: Record<string, unknown>) => [number, by, note])).toEqual([
      [2, "Ylva", "more"],
      [1, "Nightly build", "the first"],
    ]);
    expect([editions[0].changes[0].words, followers]).toEqual([
      [expect.stringContaining("raised from 10% to 40%")],
      undefined,
    ]);
    const shareBy = async (by: string) => {
      const { body } = await ylva.get(`api/set?by=${by}`);
      const fares = body.documents.find(({ file }: { file: string }) => file === "fares.yaml");
      return fares.data.flags["zone-fares"].rules[1].share as string;
    };
    expect([await shareBy("edition:1"), await shareBy("edition:2")]).toEqual(["10%", "40%"]);
    const listed = await ylva.post("api/listed", {
      by: "edition:1",
      asked: [{ cohort: "pilot-captains", id: "C-204" }],
      where: true,
    });
    expect(listed.body.answers[0]).toEqual({ cohort: "pilot-captains", id: "C-204", listed: true });
    const none = await ylva.get("api/set?by=edition:9");
    expect([none.status, none.body.title]).toEqual([409, expect.stringContaining("holds no edition 9")]);
    const { keys: others } = await keyPair("2025-01");
    const { as: strangers } = await startDesk({ folder, shelf, keys: others });
    expect((await strangers("Runa").get("api/shelf")).body.title).toMatch(/not to be trusted/);
    const { as: without } = await startDesk({ folder });
    expect((await without("Runa").get("api/shelf")).status).toBe(404);
  });

  it.skipIf(!hasChromium || !shelfKind("Redis").isHere)("is a page: the editions, and who follows them", async () => {
    const { key, keys } = await keyPair();
    const folder = await copiedDemo();
    const stand = await shelfKind("Redis").stand();
    await publishFolder(stand.shelf, { folder, key, by: "Nightly build", note: "the first" });
    const flags = await followFlags(await stand.following(), { environment: "production", keys, name: "quay-screens" });
    onTestFinished(() => flags.close());
    const { open } = await startDesk({ folder, shelf: stand.shelf, keys });
    const { page } = await open("Runa", { at: "#/shelf?in=production" });
    await page.getByRole("heading", { name: "edition 1" }).waitFor();
    await expect.poll(() => page.getByText("quay-screens").count()).toBe(1);
    await page.getByText("all of them up to date").waitFor();
    await page.getByRole("button", { name: "Answer by this" }).click();
    await expect.poll(() => page.locator(".sentence").textContent()).toContain("edition 1");
    await page.locator("#word-asked-show").click();
    await page.getByRole("link", { name: "all flags" }).click();
    await page.locator('article[aria-label="zone-fares"]').waitFor();
  });
});
