import type { Context, Hono } from "hono";
import {
  changeFolder,
  NothingToChange,
  reinstate,
  reinstateAtShelf,
  type StopRequest,
  suspend,
  suspendAtShelf,
} from "../edit/index.ts";
import { ToolError } from "../files/index.ts";
import { EditionFault, ShelfFault } from "../shelf/index.ts";
import { type DeskEnv, type DeskParts, requireMay } from "./answering.ts";
import { DeskFault } from "./desk-fault.ts";
import { messageOf } from "./message.ts";
import type { DeskShelf } from "./options.ts";
import type { ChangedAnswer } from "./protocol.ts";
import { fieldsIn } from "./requests.ts";

type Does = "suspend" | "reinstate";

/** The emergency stop and its end: done at once, without a draft, and while the other files are broken. */
export function addStopping(app: Hono<DeskEnv>, parts: DeskParts): void {
  app.post("/api/suspend", (c) => stopped(c, parts, "suspend"));
  app.post("/api/reinstate", (c) => stopped(c, parts, "reinstate"));
}

/** Where there is a shelf, at the shelf alone; else in the files. */
async function stopped(c: Context<DeskEnv>, parts: DeskParts, does: Does): Promise<Response> {
  requireMay(c, parts, "suspend");
  const { name: who } = c.get("visitor");
  const asked = await fieldsIn(c);
  const stop = {
    flag: asked.text("flag"),
    environment: asked.optional("environment"),
    note: asked.optional("note")?.trim() || undefined,
    who,
  };
  const shelf = parts.desk.recorder.stopsAt;
  try {
    return c.json(shelf ? await stopAtShelf(shelf, stop, parts, does) : await stopInFiles(stop, parts, does));
  } catch (error) {
    if (!(error instanceof NothingToChange)) throw error;
    return c.json<ChangedAnswer>({ written: false, changes: [], message: error.message });
  }
}

/** What the shelf does not take has stopped nobody: that is an error. */
async function stopAtShelf(
  { shelf, key, stopKey = key }: DeskShelf,
  stop: StopRequest,
  { desk, clock }: DeskParts,
  does: Does,
): Promise<ChangedAnswer> {
  const request = { key: stopKey, keys: desk.keys, at: clock() };
  try {
    const put = does === "suspend" ? suspendAtShelf : reinstateAtShelf;
    const { plan } = await put(shelf, stop, request);
    await desk.refreshStops();
    return { written: true, changes: plan.changes };
  } catch (error) {
    if (error instanceof NothingToChange) throw error;
    if (error instanceof ToolError) throw new DeskFault(409, error.message, error.help);
    if (error instanceof ShelfFault) throw new DeskFault(503, `The shelf does not answer: ${error.message}`);
    if (error instanceof EditionFault)
      throw new DeskFault(409, `What stands there is not to be trusted: ${error.message}.`);
    throw error;
  }
}

const changes = { suspend, reinstate };

async function stopInFiles(stop: StopRequest, { desk, clock }: DeskParts, does: Does): Promise<ChangedAnswer> {
  const standing = await desk.standing();
  const at = clock();
  const request = { ...stop, at, known: standing.suspensions };
  const { plan, written } = await changeFolder({
    folder: standing.folder,
    at,
    change: ({ loaded }) => [changes[does](loaded, request)],
    confirm: async () => true,
  });
  const [fault] = plan.refused;
  if (fault) throw new DeskFault(409, fault.message, fault.help);
  await standing.refresh();
  const { who = "", note = "" } = stop;
  const recorded = await desk.recorder.stop(plan, { by: who, note, message: messageOf(plan.changes, note) });
  return { written, changes: plan.changes, ...recorded };
}
