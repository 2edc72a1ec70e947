import { type Context, Hono } from "hono";
import { bodyLimit } from "hono/body-limit";
import { type DeskEnv, type DeskParts, problemOf, refused } from "./answering.ts";
import { addChanging } from "./changing.ts";
import { addLooking } from "./looking.ts";
import { pageFile } from "./page-files.ts";
import { addStopping } from "./stopping.ts";

type Asked = Context<DeskEnv>;

const largestBody = 8 * 2 ** 20;

const policy = [
  "default-src 'none'",
  "script-src 'self'",
  "style-src 'self'",
  "connect-src 'self'",
  "img-src 'self'",
  "base-uri 'none'",
  "form-action 'none'",
  "frame-ancestors 'none'",
].join("; ");

/** Every answer says so, whatever it holds. */
const guards: Readonly<Record<string, string>> = {
  "content-security-policy": policy,
  "x-content-type-options": "nosniff",
  "x-frame-options": "DENY",
  "referrer-policy": "no-referrer",
  "cross-origin-opener-policy": "same-origin",
  "cross-origin-resource-policy": "same-origin",
};

/** The routes of a desk, under the path where it is mounted. */
export function deskRoutes(parts: DeskParts): Hono<DeskEnv> {
  const app = new Hono<DeskEnv>();
  app.onError((error, c) => failed(error, c, parts));
  app.notFound((c) => refused(c, { status: 404, title: "There is nothing here." }));
  app.use(async (c, next) => {
    await next();
    for (const [name, value] of Object.entries(guards)) c.res.headers.set(name, value);
  });
  app.use(async (c, next) => {
    const refusal = parts.access.refuseHost(askingOf(c));
    if (refusal) return refused(c, refusal);
    const visitor = c.env.visitor;
    // Whoever may not look is not to know that there is a desk.
    if (!visitor?.may.includes("look")) return c.notFound();
    c.set("visitor", visitor);
    return next();
  });
  app.use("/api/*", (c, next) => guardApi(c, next, parts), bodyLimit({ maxSize: largestBody, onError: tooLarge }));
  addLooking(app, parts);
  addStopping(app, parts);
  addChanging(app, parts);
  app.get("/:file", (c) => page(c, c.req.param("file")));
  app.get("/assets/:file", (c) => page(c, `assets/${c.req.param("file")}`));
  app.get("/", (c) => page(c, "index.html"));
  return app;
}

async function guardApi(c: Asked, next: () => Promise<void>, { access }: DeskParts): Promise<Response | undefined> {
  const asking = askingOf(c);
  const refusal =
    access.refuseOrigin(asking) ?? (asking.method === "GET" ? undefined : access.refuseToken(asking, c.get("visitor")));
  if (refusal) return refused(c, refusal);
  await next();
  c.res.headers.set("cache-control", "no-store");
  return undefined;
}

async function page(c: Asked, name: string): Promise<Response> {
  const file = await pageFile(name, c.req.header("accept-encoding"));
  return file ? c.body(file.body, 200, { ...file.headers }) : c.notFound();
}

function askingOf(c: Asked) {
  // A request of the Fetch standard says its host in the address.
  const host = c.req.header("host") ?? new URL(c.req.url).host;
  return { method: c.req.method, header: (name: string) => (name === "host" ? host : c.req.header(name)) };
}

function tooLarge(c: Asked): Response {
  return refused(c, { status: 413, title: "That is too much at once.", detail: "at most 8 MB in one request" });
}

function failed(error: unknown, c: Asked, parts: DeskParts): Response {
  const problem = problemOf(error);
  if (problem) return refused(c, problem);
  parts.failed(error);
  return refused(c, { status: 500, title: "The desk failed at this.", detail: "The service that runs it knows why." });
}
