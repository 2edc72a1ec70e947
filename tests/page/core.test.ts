// The core in a real page: what is loaded with it, what is loaded when a set needs it, and the same verdicts as in Node.
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { build } from "vite";
import { afterAll, beforeAll, describe, expect, it, onTestFinished } from "vitest";
import { filesLoadedFor } from "../../scripts/page-size.mjs";
import { browser, closeBrowser, hasChromium, watchFor } from "../support/browser.ts";
import { projectRoot } from "../support/folders.ts";
import { scratch } from "../support/scratch.ts";
import { serve } from "../support/serve.ts";
import { verdicts } from "./site/core.ts";

afterAll(closeBrowser);

const html = '<!doctype html><title>core</title><link rel=icon href=data:,><script type=module src="core.js"></script>';

const core = join(projectRoot, "dist/core.js");
const exported = `export { FlagSet, openDefinitions, readDefinitions } from ${JSON.stringify(core)};`;

const plain = {
  iudex: 1,
  defaults: { by: "id" },
  flags: {
    fares: {
      safe: 0,
      rules: [
        { when: "trips > 10", give: 1 },
        { share: "50%", give: 2 },
      ],
    },
  },
};
const withPattern = { ...plain, flags: { harbour: { safe: 0, rules: [{ when: "port matches /^Tern/", give: 1 }] } } };
const withWindow = {
  ...plain,
  windows: { duty: { hours: "Mo-Fr 08:00-17:00", zone: "Atlantic/Faroe" } },
  flags: { desk: { safe: 0, rules: [{ when: "window:duty", give: 1 }] } },
};
const withDate = {
  iudex: 1,
  defaults: { by: "id", zone: "Atlantic/Faroe" },
  flags: {
    rising: { safe: 0, rules: [{ share: { rising: ["20% from 2026-01-01", "100% from 2026-12-01T09:00"] }, give: 1 }] },
  },
};
const people = Array.from({ length: 20 }, (_, i) => ({
  id: `P-${i}`,
  trips: i,
  port: i % 2 ? "Ternhaven" : "Kelpmoor",
}));
const instants = ["2026-12-02T10:00Z", "2026-12-02T23:00Z", "2026-11-30T23:59:59Z"].map((text) => Date.parse(text));

declare const judging: typeof import("./site/core.ts");

it("weighs 45 kilobytes at most before a set needs more", async () => {
  const [first] = await filesLoadedFor(exported);
  expect(first!.bytes).toBeLessThanOrEqual(45_000);
});

describe.skipIf(!hasChromium)("in Chromium", () => {
  let built: string;
  beforeAll(async () => {
    built = await scratch();
    await build({
      configFile: false,
      logLevel: "error",
      resolve: { alias: { "iudex/core": core } },
      build: {
        outDir: built,
        target: "es2022",
        modulePreload: false,
        rollupOptions: {
          input: join(import.meta.dirname, "site/core.ts"),
          output: { entryFileNames: "[name].js", chunkFileNames: "[name].js" },
        },
      },
    });
  });

  /** A page with the core, and the files that it asks for. */
  async function open(expected: RegExp) {
    const asked: string[] = [];
    const address = await serve((request, response) => {
      const name = request.url!.slice(1);
      if (name !== "") asked.push(name);
      response.setHeader("content-type", name === "" ? "text/html" : "text/javascript");
      response.end(name === "" ? html : readFileSync(join(built, name)));
    });
    const page = await (await browser()).newPage();
    onTestFinished(() => page.close());
    onTestFinished(watchFor(page, expected));
    await page.goto(address);
    return { page, asked };
  }

  it.each([
    ["no pattern and no date", plain, []],
    ["a pattern", withPattern, ["build.js"]],
    ["a window", withWindow, ["temporal-polyfill.js"]],
    ["a date", withDate, ["temporal-polyfill.js"]],
  ])("judges a set with %s as Node does, and loads what it needs", async (_, data, loaded) => {
    const { page, asked } = await open(/^$/);
    const question = { data, people, instants };
    const inPage = await page.evaluate((given) => judging.verdicts(given), question);
    expect(inPage).toEqual(await verdicts(question));
    expect(new Set(inPage.map((each) => JSON.parse(each).value)).size).toBeGreaterThan(1);
    expect(asked).toEqual(["core.js", ...loaded]);
  });

  it("says what to write where a set is read before what it needs is there, and takes it once it is", async () => {
    const { page } = await open(/^$/);
    const told = await page.evaluate(
      async (data) => [judging.read(data), await judging.opened(data), judging.read(data)],
      withPattern,
    );
    expect(told).toEqual([
      "Error: This set has patterns (“matches”), and what reads them is not loaded: await openDefinitions(…) instead of calling readDefinitions(…).",
      "a set",
      "a set",
    ]);
  });

  it("refuses what goes round in a circle as it does in Node", async () => {
    const { page } = await open(/^$/);
    const told = await page.evaluate(async () => {
      const value: Record<string, unknown> = {};
      value["again"] = value;
      return judging.opened({ iudex: 1, flags: { a: { safe: value } } });
    });
    expect(told).toBe("no set");
  });

  it("tries again where a part could not be loaded", async () => {
    const { page } = await open(/ERR_FAILED|failed$/);
    await page.route("**/temporal-polyfill.js", (route) => route.abort(), { times: 1 });
    const told = await page.evaluate(
      async (data) => [await judging.opened(data), await judging.opened(data)],
      withWindow,
    );
    expect(told).toEqual([expect.stringMatching(/^TypeError: Failed to fetch/), "a set"]);
  });
});
