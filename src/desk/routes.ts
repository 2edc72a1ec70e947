import { type Context, Hono } from "hono";
import { bodyLimit } from "hono/body-limit";
import { streamSSE } from "hono/streaming";
import { whereListed } from "../folder/index.ts";
import { type Definitions, isListed } from "../model/index.ts";
import { type DeskEnv, type DeskParts, mayOf, problemOf, refused } from "./answering.ts";
import { addChanging } from "./changing.ts";
import { census, positions } from "./counting.ts";
import { DeskFault } from "./desk-fault.ts";
import { pageFile } from "./page-files.ts";
import { fieldsOf } from "./requests.ts";
import { setAnswer } from "./set-answer.ts";
import { addStopping } from "./stopping.ts";
import type { ListedAnswer, PeopleAnswer, ProblemsAnswer, SessionAnswer, SetAnswer, Visitor } from "./talk.ts";

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

function addLooking(app: Hono<DeskEnv>, parts: DeskParts): void {
  const { desk } = parts;
  app.get("/api/session", async (c) => c.json<SessionAnswer>(await sessionOf(c.get("visitor"), parts)));
  app.get("/api/set", async (c) => {
    const version = await desk.version(c.req.query("by") ?? "files", c.get("visitor"));
    return c.json<SetAnswer>(setAnswer(version));
  });
  app.get("/api/problems", async (c) => {
    const { loaded } = await desk.version(c.req.query("by") ?? "files", c.get("visitor"));
    return c.json<ProblemsAnswer>({ problems: await desk.problems(loaded) });
  });
  app.get("/api/events", async (c) => {
    await desk.standing();
    if (desk.streams.isFull) throw new DeskFault(503, "Too many pages are open.", "close some of them");
    c.header("x-accel-buffering", "no");
    return streamSSE(c, (stream) =>
      desk.streams.tell(
        stream,
        () => desk.event(c.get("visitor")),
        (told) => desk.listen(told),
      ),
    );
  });
  app.post("/api/listed", async (c) => {
    const asked = fieldsOf(await c.req.json().catch(() => undefined));
    const by = asked.text("by");
    const where = asked.flag("where");
    const ids = asked.each("asked", (each) => ({ cohort: each.text("cohort"), id: each.text("id") }));
    const loaded = await desk.usable(by, c.get("visitor"));
    const place = where ? whereListed(loaded) : undefined;
    const answers = ids.map(({ cohort, id }) => {
      const listed = holds(loaded.definitions, cohort, id);
      const found = listed ? place?.(cohort, id) : undefined;
      return { cohort, id, listed, ...(found === undefined ? {} : { where: found }) };
    });
    return c.json<ListedAnswer>({ answers });
  });
  app.post("/api/people", async (c) => {
    const asked = fieldsOf(await c.req.json().catch(() => undefined));
    const request = { file: asked.text("file"), find: asked.text("find"), most: 12 };
    const { definitions } = await desk.usable("files", c.get("visitor"));
    return c.json<PeopleAnswer>(await desk.people.find(request, definitions));
  });
  app.post("/api/census", (c) => census(c, desk));
  app.post("/api/positions", (c) => positions(c, desk));
}

async function sessionOf(visitor: Visitor, parts: DeskParts): Promise<SessionAnswer> {
  const { desk, access, environment } = parts;
  return {
    name: visitor.name,
    may: mayOf(visitor, parts),
    token: access.tokenOf(visitor),
    folder: desk.called,
    environment,
    people: desk.people.names,
    hasHistory: await desk.hasHistory(),
  };
}

function holds(definitions: Definitions, name: string, id: string): boolean {
  const cohort = definitions.cohorts.get(name);
  return cohort?.kind === "list" && isListed(cohort, id);
}

async function page(c: Asked, name: string): Promise<Response> {
  const file = await pageFile(name, c.req.header("accept-encoding"));
  return file ? c.body(file.body, 200, { ...file.headers }) : c.notFound();
}

function askingOf(c: Asked) {
  return { method: c.req.method, header: (name: string) => c.req.header(name) };
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
