import type { Context, Hono } from "hono";
import {
  type Change,
  changeFolder,
  changeWords,
  newWarnings,
  type Plan,
  planOf,
  subjectOfChange,
  type WorkedChange,
  workOut,
} from "../edit/index.ts";
import { versionOf } from "../files/index.ts";
import { parsePath } from "../language/index.ts";
import type { Definitions } from "../model/index.ts";
import { isObject } from "../values/index.ts";
import { type DeskEnv, type DeskParts, requireMay } from "./answering.ts";
import { reach } from "./counting.ts";
import { DeskFault } from "./desk-fault.ts";
import type { DeskFolder } from "./desk-folder.ts";
import type { DraftStep } from "./drafts.ts";
import { messageOf } from "./message.ts";
import type { ChangedAnswer, DraftAnswer, DraftedChange, ReviewAnswer } from "./protocol.ts";
import { readChange } from "./read-change.ts";
import type { Recorded } from "./record.ts";
import { fieldsIn } from "./requests.ts";
import type { WorkedDraft } from "./worked-draft.ts";

type Asked = Context<DeskEnv>;

/** Drafts: gathered, looked through, written. Each visitor has one, and sees no other. */
export function addChanging(app: Hono<DeskEnv>, parts: DeskParts): void {
  const { desk } = parts;
  app.use("/api/draft/*", (c, next) => {
    requireMay(c, parts, "change");
    return desk.turns.ask(nameOf(c)).run(c.req.raw.signal, next);
  });
  app.get("/api/draft", async (c) => {
    requireMay(c, parts, "change");
    return c.json<DraftAnswer>(answerOf(await workedFor(c, desk)));
  });
  app.post("/api/draft/add", (c) => add(c, desk));
  app.post("/api/draft/drop", async (c) => {
    const id = (await fieldsIn(c)).number("id");
    await desk.drafts.change(nameOf(c), (steps) => steps.filter((step) => step.id !== id));
    return c.json<DraftAnswer>(answerOf(await workedFor(c, desk)));
  });
  app.post("/api/draft/clear", async (c) => {
    await desk.drafts.change(nameOf(c), () => []);
    return c.json<DraftAnswer>(answerOf(await workedFor(c, desk)));
  });
  app.get("/api/draft/review", async (c) => c.json<ReviewAnswer>(await review(await workedFor(c, desk), parts)));
  app.post("/api/draft/reach", async (c) => reach(c, desk, await workedFor(c, desk)));
  app.post("/api/draft/write", (c) => write(c, parts));
}

function nameOf(c: Asked): string {
  return c.get("visitor").name;
}

async function workedFor(c: Asked, desk: DeskFolder): Promise<WorkedDraft> {
  return desk.worked(nameOf(c));
}

function answerOf({ draft, worked }: WorkedDraft): DraftAnswer {
  return { number: draft.number, changes: draft.steps.map(({ id }, i) => drafted(id, worked[i]!)) };
}

function drafted(id: number, { change, fault }: WorkedChange): DraftedChange {
  return { id, change, about: subjectOfChange(change), words: changeWords(change), ...(fault ? { fault } : {}) };
}

/** A change is worked out on top of the draft before it is taken, so that what cannot be is said at once. */
async function add(c: Asked, desk: DeskFolder): Promise<Response> {
  const asked = readChange((await fieldsIn(c)).data("change"));
  const { base, work } = await workedFor(c, desk);
  const { change, leftOut } = withoutPrivate(asked, base.definitions);
  const { worked } = await workOut([change], work);
  const fault = worked[0]?.fault;
  if (fault) throw new DeskFault(409, fault.message, fault.help);
  await desk.drafts.change(nameOf(c), (steps, id) => [...steps, { id, change }]);
  return c.json<DraftAnswer>({ ...answerOf(await workedFor(c, desk)), ...(leftOut.length > 0 ? { leftOut } : {}) });
}

/** Drafts are kept on disk, where private attributes have no place. */
function withoutPrivate(
  change: Change,
  definitions: Definitions | undefined,
): { readonly change: Change; readonly leftOut: readonly string[] } {
  if (change.change !== "example" || !change.as || change.isMadeUp) return { change, leftOut: [] };
  const as = structuredClone(change.as) as Record<string, unknown>;
  const leftOut: string[] = [];
  for (const { name, private: isPrivate } of definitions?.attributes.values() ?? []) {
    if (isPrivate && takeOut(as, parsePath(name).path ?? [])) leftOut.push(name);
  }
  return { change: { ...change, as }, leftOut };
}

function takeOut(context: Record<string, unknown>, path: readonly string[]): boolean {
  let here = context;
  for (const key of path.slice(0, -1)) {
    if (!Object.hasOwn(here, key) || !isObject(here[key])) return false;
    here = here[key] as Record<string, unknown>;
  }
  const last = path.at(-1)!;
  const wasThere = Object.hasOwn(here, last);
  delete here[last];
  return wasThere;
}

async function review(
  { draft, version, base, work, worked }: WorkedDraft,
  { desk, clock }: DeskParts,
): Promise<ReviewAnswer> {
  const at = clock();
  const { files, changes, refused } = await planOf(base, work, at);
  return {
    number: draft.number,
    version,
    files: files.map(({ file }) => file),
    changes,
    refused,
    warnings: await newWarnings(base, work, at),
    left: draft.steps.flatMap(({ id }, i) => (worked[i]!.fault ? [drafted(id, worked[i]!)] : [])),
    record: desk.recorder.words,
  };
}

/** Writes what was reviewed. What does not fit stays in the draft; so does everything where the writing fails. */
async function write(c: Asked, parts: DeskParts): Promise<Response> {
  const { desk } = parts;
  const asked = await fieldsIn(c);
  const [number, version, note] = [asked.number("number"), asked.text("version"), asked.text("note").trim()];
  const by = nameOf(c);
  const { draft, version: standing } = await workedFor(c, desk);
  if (draft.number !== number || standing !== version) throw outdated();
  const { recorder } = desk;
  const { folder } = await desk.standing();
  let left: readonly DraftStep[] = [];
  const saying = (plan: Plan) => ({ by, note, message: messageOf(plan.changes, note) });
  let aside: Recorded | undefined;
  const { plan, written } = await changeFolder({
    folder,
    at: parts.clock(),
    change: async (work) => {
      // What is read now may be newer than what the desk has heard of.
      if (versionOf(work.loaded.content) !== version) throw outdated();
      const { work: done, worked } = await workOut(
        draft.steps.map(({ change }) => change),
        work,
      );
      left = draft.steps.filter((_, i) => worked[i]!.fault);
      if (done.texts.size === 0)
        throw new DeskFault(409, "Nothing of the draft fits the files as they stand.", "look at it again");
      return [...done.texts].map(([file, text]) => ({ file, text }));
    },
    confirm: async (plan, again) => {
      // Somebody else wrote between the review and now: what would be written is not what was looked at.
      if (again) throw outdated();
      await recorder.check(plan);
      aside = await recorder.aside(plan, saying(plan));
      return aside === undefined;
    },
  });
  const [fault] = plan.refused;
  if (fault) throw new DeskFault(409, `It would not be sound: ${fault.message}`, fault.help);
  const isDone = ({ id }: DraftStep) =>
    draft.steps.some((step) => step.id === id) && !left.some((each) => each.id === id);
  // It is written: what fails from here on takes nothing of that back, and what was written is no draft any more.
  const recorded = aside ?? (await recorder.draft(plan, saying(plan)));
  await desk.drafts.change(by, (steps) => steps.filter((step) => !isDone(step))).catch(parts.failed);
  await desk.refresh();
  return c.json<ChangedAnswer>({ written: written || aside !== undefined, changes: plan.changes, ...recorded });
}

function outdated(): DeskFault {
  return new DeskFault(
    409,
    "The draft or the files have changed since they were looked at.",
    "look at the draft again",
  );
}
