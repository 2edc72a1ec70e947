import type { Hono } from "hono";
import { streamSSE } from "hono/streaming";
import { changeForms, readIdsIn } from "../edit/index.ts";
import { whereListed } from "../files/index.ts";
import { type Definitions, isListed } from "../model/index.ts";
import { type HistoryEntry, historyOf } from "../study/index.ts";
import { type DeskEnv, type DeskParts, mayOf } from "./answering.ts";
import { census, positions } from "./counting.ts";
import { DeskFault } from "./desk-fault.ts";
import type {
  HistoryAnswer,
  IdsAnswer,
  ListedAnswer,
  PeopleAnswer,
  ProblemsAnswer,
  SessionAnswer,
  ShelfAnswer,
  Visitor,
  WeighAnswer,
} from "./protocol.ts";
import { fieldsIn } from "./requests.ts";
import { SetAnswers } from "./set-answer.ts";

/** Everything that is only looked at. */
export function addLooking(app: Hono<DeskEnv>, parts: DeskParts): void {
  addDefinitions(app, parts);
  addEarlier(app, parts);
  addPeople(app, parts);
}

/** The definitions as they stand, and what happens to them. */
function addDefinitions(app: Hono<DeskEnv>, parts: DeskParts): void {
  const { desk } = parts;
  const answers = new SetAnswers();
  app.get("/api/session", async (c) => c.json<SessionAnswer>(await sessionOf(c.get("visitor"), parts)));
  app.get("/api/set", async (c) => {
    const version = await desk.version(c.req.query("by") ?? "files", c.get("visitor"));
    return c.body(answers.of(version), 200, { "content-type": "application/json" });
  });
  app.get("/api/problems", async (c) => {
    const { loaded } = await desk.version(c.req.query("by") ?? "files", c.get("visitor"));
    return c.json<ProblemsAnswer>({ problems: await desk.problems(loaded, parts.clock()) });
  });
  app.get("/api/events", async (c) => {
    await desk.standing();
    const visitor = c.get("visitor");
    desk.streams.mustHaveRoom(visitor.name);
    c.header("x-accel-buffering", "no");
    const listening = {
      person: visitor.name,
      now: () => desk.event(visitor),
      listen: (told: () => void) => desk.listen(told),
      mayLook: async () => {
        const now = await c.env.askAgain();
        return now?.name === visitor.name && now.may.includes("look");
      },
    };
    return streamSSE(c, (stream) => desk.streams.tell(stream, listening));
  });
}

/** What was, and what is elsewhere. */
function addEarlier(app: Hono<DeskEnv>, { desk }: DeskParts): void {
  app.get("/api/history", async (c) => {
    const { folder } = await desk.standing();
    const { signal } = c.req.raw;
    const asked = { flag: c.req.query("flag"), most: 30, signal };
    const entries: HistoryEntry[] = [];
    await desk.turns.ask(c.get("visitor").name).run(signal, async () => {
      for await (const entry of historyOf(folder, asked)) entries.push(entry);
    });
    return c.json<HistoryAnswer>({ entries });
  });
  app.get("/api/shelf", async (c) => {
    if (!desk.shelf) throw new DeskFault(404, "The desk knows of no shelf.");
    return c.json<ShelfAnswer>(await desk.shelf.answer());
  });
}

/** What becomes of people, one by one and all together. */
function addPeople(app: Hono<DeskEnv>, { desk, scales }: DeskParts): void {
  app.post("/api/listed", async (c) => {
    const asked = await fieldsIn(c);
    const by = asked.text("by");
    const where = asked.flag("where");
    const ids = asked.each("asked", (each) => ({ cohort: each.text("cohort"), id: each.text("id") }));
    const loaded = await desk.usable(by, c.get("visitor"));
    const place = where ? whereListed(loaded) : undefined;
    const answers = ids.map(({ cohort, id }) => {
      const listed = holds(loaded.definitions, cohort, id);
      const found = listed ? placeIn(place, cohort, id) : undefined;
      return { cohort, id, listed, ...(found === undefined ? {} : { where: found }) };
    });
    return c.json<ListedAnswer>({ answers });
  });
  app.post("/api/ids", async (c) => {
    const asked = await fieldsIn(c);
    const { definitions } = await desk.usable(asked.text("by"), c.get("visitor"));
    const read = readIdsIn(asked.text("text"), asked.optional("column"));
    const cohort = asked.text("cohort");
    const isHeld = (id: string) => holds(definitions, cohort, id);
    return c.json<IdsAnswer>({
      ...read,
      held: read.ids.filter(isHeld).length,
      read: read.read.map(({ text, is }) => ({ text, is: is === "id" ? (isHeld(text) ? "there" : "new") : is })),
    });
  });
  app.post("/api/people", async (c) => {
    const asked = await fieldsIn(c);
    const request = { file: asked.text("file"), find: asked.text("find"), most: 12 };
    const { definitions } = await desk.usable("files", c.get("visitor"));
    return c.json<PeopleAnswer>(await desk.people.find(request, definitions));
  });
  app.post("/api/census", (c) => census(c, desk));
  app.post("/api/weigh", async (c) => {
    const asked = await fieldsIn(c);
    return c.json<WeighAnswer>(await scales.answer(asked, c.get("visitor"), c.req.raw.signal, desk));
  });
  app.post("/api/positions", (c) => positions(c, desk));
}

async function sessionOf(visitor: Visitor, parts: DeskParts): Promise<SessionAnswer> {
  const { desk, access, environment, clock } = parts;
  return {
    name: visitor.name,
    may: mayOf(visitor, parts),
    token: access.tokenOf(visitor),
    now: clock(),
    folder: desk.called,
    environment,
    people: desk.people.names,
    hasHistory: await desk.hasHistory(),
    canWeigh: parts.scales.canWeigh,
    forms: changeForms,
    ...(desk.shelf ? { shelf: desk.shelf.called } : {}),
  };
}

function holds(definitions: Definitions, name: string, id: string): boolean {
  const cohort = definitions.cohorts.get(name);
  return cohort?.kind === "list" && isListed(cohort, id);
}

/** The lists of a commit or of an edition stand nowhere that they could be looked into. */
function placeIn(place: ReturnType<typeof whereListed> | undefined, cohort: string, id: string): string | undefined {
  try {
    return place?.(cohort, id);
  } catch {
    return undefined;
  }
}
