import { cp, readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import type { PassKey } from "iudex";
import type { BrowserContext, BrowserContextOptions, Page } from "playwright-core";
import { expect, onTestFinished } from "vitest";
import { browser, watchFor } from "./browser.ts";
import { demoFolder, folderWith, projectRoot } from "./folders.ts";
import { storyTime } from "./story.ts";

interface Service {
  listen(options: object): Promise<string>;
  close(): Promise<void>;
}

interface Built {
  bookingService(options: object): Promise<Service>;
}

export const passKey: PassKey = {
  kty: "oct",
  kid: "2026-11",
  alg: "HS256",
  k: Buffer.from("a secret of the booking service, made up").toString("base64url"),
};

export interface Booking {
  readonly address: string;
  /** The definition folder, a copy of the demo's. */
  readonly folder: string;
  /** Saves a definition file with one thing in it replaced. */
  edit(file: string, from: string, to: string): Promise<void>;
  /** @param options `expected`: the faults that the test provokes */
  open(options?: BrowserContextOptions & { readonly expected?: RegExp }): Promise<Visit>;
}

export interface Visit {
  readonly page: Page;
  readonly context: BrowserContext;
}

/** The booking service on a copy of the demo's definitions, as built, with a page to look at. */
export async function startBooking(
  environment: "local" | "staging" | "production",
  startsAt = storyTime,
): Promise<Booking> {
  const folder = await folderWith({});
  await cp(demoFolder, folder, { recursive: true });
  const built = (await import(join(projectRoot, "examples/booking/dist/server/app.js"))) as Built;
  const app = await built.bookingService({
    flags: folder,
    environment,
    page: join(projectRoot, "examples/booking/dist/page"),
    database: ":memory:",
    records: join(folder, "..", "records"),
    startsAt,
    keysForPasses: { keys: [passKey] },
  });
  onTestFinished(() => app.close());
  const address = await app.listen({ port: 0, host: "127.0.0.1" });
  return {
    address,
    folder,
    async edit(file, from, to) {
      const path = join(folder, file);
      const text = await readFile(path, "utf8");
      expect(text).toContain(from);
      await writeFile(path, text.replace(from, to));
    },
    async open({ expected = /^$/, ...options } = {}) {
      const context = await (await browser()).newContext({ viewport: { width: 1280, height: 800 }, ...options });
      onTestFinished(() => context.close());
      const page = await context.newPage();
      onTestFinished(watchFor(page, expected));
      await page.goto(address);
      await page.getByRole("heading", { name: "Book a crossing" }).waitFor();
      return { page, context };
    },
  };
}
