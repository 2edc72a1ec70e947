import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { type Browser, chromium, type Page } from "playwright-core";
import { expect } from "vitest";
import { findChromium } from "../../scripts/chromium.mjs";
import { shiftClock } from "../../scripts/day/shift-clock.mjs";

export const hasChromium = findChromium() !== undefined;

let shared: Promise<Browser> | undefined;

export function browser(): Promise<Browser> {
  shared ??= launch();
  return shared;
}

async function launch(): Promise<Browser> {
  const launched = await chromium.launch({
    executablePath: findChromium()!,
    args: ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking"],
  });
  const shift = Number(process.env["IUDEX_CLOCK_SHIFT"] ?? 0);
  if (shift === 0) return launched;
  // Its pages are held on the same day as the tests.
  const newContext = launched.newContext.bind(launched);
  launched.newContext = async (options) => {
    const context = await newContext(options);
    await context.addInitScript(shiftClock, shift);
    return context;
  };
  return launched;
}

export async function closeBrowser(): Promise<void> {
  await (await shared)?.close();
  shared = undefined;
}

/**
 * Every page must stay free of errors in the console and of failed requests; the end of the test looks.
 *
 * @param expected the faults that the test provokes
 */
export function watchFor(page: Page, expected: RegExp): () => void {
  // On a busy machine too.
  page.setDefaultTimeout(60_000);
  const faults: string[] = [];
  page.on("console", (message) => {
    if (message.type() === "error" || message.type() === "warning") faults.push(message.text());
  });
  page.on("pageerror", (error) => faults.push(String(error)));
  page.on("requestfailed", (request) => {
    // The page itself ends its stream when somebody else looks at it, and what it asked for at that moment.
    if (request.failure()?.errorText !== "net::ERR_ABORTED") faults.push(`${request.url()} failed`);
  });
  page.on("response", (response) => {
    if (response.status() >= 400) faults.push(`${response.url()} has a status of ${response.status()}`);
  });
  return () => expect(faults.filter((fault) => !expected.test(fault))).toEqual([]);
}

const axeSource = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");

interface Axe {
  run(options: object): Promise<{ violations: { id: string; nodes: { target: unknown; failureSummary: string }[] }[] }>;
}

/**
 * What axe-core finds against WCAG 2.2 A and AA and its best practices, in a line each: everything in light colours,
 * and in dark ones what depends on colours.
 */
export async function accessibilityFaults(page: Page): Promise<string[]> {
  if (!(await page.evaluate(() => "axe" in globalThis))) await page.evaluate(axeSource);
  const faults = await axeFaults(page, {});
  await page.emulateMedia({ colorScheme: "dark", reducedMotion: "reduce" });
  const inDark = await axeFaults(page, { runOnly: ["color-contrast"] });
  await page.emulateMedia({ colorScheme: "light", reducedMotion: null });
  return [...faults, ...inDark.map((fault) => `in dark colours: ${fault}`)];
}

function axeFaults(page: Page, options: object): Promise<string[]> {
  return page.evaluate(async (which) => {
    const { axe } = globalThis as unknown as { axe: Axe };
    // A colour that is on its way to another is neither; a transition that is broken off has come to its end too.
    const transitions = document.getAnimations().filter((animation) => animation instanceof CSSTransition);
    await Promise.allSettled(transitions.map(({ finished }) => finished));
    const { violations } = await axe.run({ resultTypes: ["violations"], ...which });
    return violations.flatMap(({ id, nodes }) =>
      nodes.map((node) => `${id}: ${String(node.target)} ${node.failureSummary}`),
    );
  }, options);
}
