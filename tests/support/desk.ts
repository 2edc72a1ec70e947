import { cp, mkdtemp, rm } from "node:fs/promises";
import { createServer, request as httpRequest, type IncomingMessage, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { type Desk, type DeskOptions, deskHandler, type Permission } from "iudex/desk";
import type { BrowserContext, BrowserContextOptions, Page } from "playwright-core";
import { onTestFinished } from "vitest";
import { browser, watchFor } from "./browser.ts";
import { demoFolder, demoPeople, folderWith } from "./folders.ts";
import { storyClock } from "./story.ts";

/** What each of the crew may do; anybody else is not to know that there is a desk. */
export const crew: Readonly<Record<string, readonly Permission[]>> = {
  Ylva: ["look", "suspend", "change"],
  Tarn: ["look", "suspend", "change"],
  Nils: ["look", "suspend"],
  Runa: ["look"],
};

export interface OpenDesk {
  /** Where the desk is, with a slash at the end. */
  readonly address: string;
  readonly folder: string;
  readonly drafts: string;
  /** Asks as one of the crew. */
  as(name: string): Asker;
  /** Ends the desk and its server, as if it had been killed, and starts another one at the same address. */
  restart(): Promise<void>;
  /** Ends them, and leaves them ended. */
  kill(): Promise<void>;
  open(
    name: string,
    options?: BrowserContextOptions & { readonly expected?: RegExp; readonly at?: string },
  ): Promise<Visit>;
}

export interface Visit {
  readonly page: Page;
  readonly context: BrowserContext;
}

export interface Asker {
  get(path: string, headers?: Readonly<Record<string, string>>): Promise<Answered>;
  post(path: string, body: unknown, headers?: Readonly<Record<string, string | undefined>>): Promise<Answered>;
}

export interface Answered {
  readonly status: number;
  readonly headers: IncomingMessage["headers"];
  readonly text: string;
  // biome-ignore lint/suspicious/noExplicitAny: what is answered is looked at member by member.
  readonly body: any;
}

/** A desk over a copy of the demo's definitions, or over other files, behind a server that knows the crew by a header. */
export async function startDesk(
  options: Partial<DeskOptions<IncomingMessage>> & { readonly files?: Readonly<Record<string, string>> } = {},
): Promise<OpenDesk> {
  const { files, ...rest } = options;
  const folder = rest.folder ?? (await folderWith(files ?? {}));
  if (!files && !rest.folder) await cp(demoFolder, folder, { recursive: true });
  const drafts = await mkdtemp(join(tmpdir(), "iudex-drafts-"));
  onTestFinished(() => rm(drafts, { recursive: true, force: true }));
  const whole: DeskOptions<IncomingMessage> = {
    folder,
    drafts,
    at: "/desk",
    environment: "production",
    clock: storyClock(),
    people: [join(demoPeople, "passengers.csv")],
    who: ({ headers }) => {
      const name = String(headers["x-crew"] ?? "");
      return Object.hasOwn(crew, name) ? { name, may: crew[name]! } : undefined;
    },
    ...rest,
  };
  let running = await serve(whole, 0);
  const { port } = running.server.address() as AddressInfo;
  const end = async () => {
    running.server.closeAllConnections();
    await Promise.all([new Promise((done) => running.server.close(done)), running.desk.close()]);
  };
  onTestFinished(end);
  const address = `http://127.0.0.1:${port}/desk/`;
  return {
    address,
    folder,
    drafts,
    as: (name) => askerAs(name, address),
    kill: end,
    restart: async () => {
      await end();
      running = await serve(whole, port);
    },
    async open(name, { expected = /^$/, at = "", ...context } = {}) {
      const opened = await (await browser()).newContext({
        viewport: { width: 1280, height: 800 },
        extraHTTPHeaders: { "x-crew": name },
        ...context,
      });
      onTestFinished(() => opened.close());
      const page = await opened.newPage();
      // A step that does not come says which it was, before the test is over.
      page.setDefaultTimeout(25_000);
      onTestFinished(watchFor(page, expected));
      await page.goto(address + at);
      await page.locator(".sentence, .whole").first().waitFor();
      return { page, context: opened };
    },
  };
}

async function serve(options: DeskOptions<IncomingMessage>, port: number): Promise<{ server: Server; desk: Desk }> {
  const desk = deskHandler(options);
  const server = createServer(desk);
  await new Promise<void>((done) => server.listen(port, "127.0.0.1", done));
  return { server, desk };
}

function askerAs(name: string, address: string): Asker {
  let token: string | undefined;
  const asker: Asker = {
    get: (path, headers = {}) => send("GET", `${address}${path}`, { "x-crew": name, ...headers }),
    post: async (path, body, headers = {}) => {
      token ??= ((await asker.get("api/session")).body as { token?: string } | undefined)?.token;
      const { origin } = new URL(address);
      const sent = { "x-crew": name, "desk-token": token, origin, "content-type": "application/json", ...headers };
      return send("POST", `${address}${path}`, sent, JSON.stringify(body));
    },
  };
  return asker;
}

/** By `node:http`, which lets a request say any host and origin. */
export function send(
  method: string,
  url: string,
  headers: Readonly<Record<string, string | undefined>>,
  body?: string,
): Promise<Answered> {
  const given = Object.fromEntries(Object.entries(headers).filter(([, value]) => value !== undefined));
  return new Promise((resolve, reject) => {
    const asked = httpRequest(url, { method, headers: given as Record<string, string>, agent: false }, (answer) => {
      let text = "";
      answer.setEncoding("utf8");
      answer.on("data", (chunk: string) => {
        text += chunk;
      });
      answer.on("end", () => {
        resolve({ status: answer.statusCode!, headers: answer.headers, text, body: parsed(text) });
      });
    });
    asked.on("error", reject);
    asked.end(body);
  });
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text.split("\n").flatMap((line) => (line.startsWith("{") ? [JSON.parse(line) as unknown] : []));
  }
}
