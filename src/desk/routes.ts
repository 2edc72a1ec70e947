import { type Context, Hono } from "hono";
import { bodyLimit } from "hono/body-limit";
import { mayBeAuthor } from "../edit/index.ts";
import { type DeskEnv, type DeskParts, guards, nothingHere, problemOf, refused } from "./answering.ts";
import { addChanging } from "./changing.ts";
import { addLooking } from "./looking.ts";
import { pageFile } from "./page-files.ts";
import { addStopping } from "./stopping.ts";

type Asked = Context<DeskEnv>;

const largestBody = 8 * 2 ** 20;

/** The routes of a desk, under the path where it is mounted. */
export function deskRoutes(parts: DeskParts): Hono<DeskEnv> {
  const app = new Hono<DeskEnv>();
  app.onError((error) => failed(error, parts));
  app.notFound(nothingHere);
  app.use(async (c, next) => {
    await next();
    for (const [name, value] of Object.entries(guards)) c.res.headers.set(name, value);
  });
  app.use(async (c, next) => {
    const { visitor } = c.env;
    if (!mayBeAuthor(visitor.name)) return refused(nameless(visitor.name));
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
  if (refusal) return refused(refusal);
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

/** What somebody writes is committed under their name: before anything is written, it must be one. */
function nameless(name: string) {
  return {
    status: 403,
    title: `“${name}” cannot be the author of a change.`,
    detail: "The program that serves the desk names its visitors: a name holds a letter or a digit.",
  };
}

function tooLarge(): Response {
  return refused({ status: 413, title: "That is too much at once.", detail: "at most 8 MB in one request" });
}

function failed(error: unknown, parts: DeskParts): Response {
  const problem = problemOf(error);
  if (problem) return refused(problem);
  parts.failed(error);
  return refused({ status: 500, title: "The desk failed at this.", detail: "The service that runs it knows why." });
}
