import type { Context, Hono } from "hono";
import { changeFolder, NothingToChange, reinstate, suspend } from "../edit/index.ts";
import { type DeskEnv, type DeskParts, requireMay } from "./answering.ts";
import { DeskFault } from "./desk-fault.ts";
import { messageOf } from "./message.ts";
import type { ChangedAnswer } from "./protocol.ts";
import type { Stopping } from "./record.ts";
import { fieldsIn } from "./requests.ts";

/** The emergency stop and its end: written at once, without a draft, and while the other files are broken. */
export function addStopping(app: Hono<DeskEnv>, parts: DeskParts): void {
  app.post("/api/suspend", (c) => stopped(c, parts, "suspend"));
  app.post("/api/reinstate", (c) => stopped(c, parts, "reinstate"));
}

const changes = { suspend, reinstate };

async function stopped(c: Context<DeskEnv>, parts: DeskParts, does: Stopping["does"]): Promise<Response> {
  requireMay(c, parts, "suspend");
  const { name: who } = c.get("visitor");
  const asked = await fieldsIn(c);
  const standing = await parts.desk.standing();
  const at = parts.clock();
  const request = {
    flag: asked.text("flag"),
    environment: asked.optional("environment"),
    note: asked.optional("note")?.trim() || undefined,
    who,
    at,
    known: standing.suspensions,
  };
  try {
    const { plan, written } = await changeFolder({
      folder: standing.folder,
      at,
      change: ({ loaded }) => [changes[does](loaded, request)],
      confirm: async () => true,
    });
    const [fault] = plan.refused;
    if (fault) throw new DeskFault(409, fault.message, fault.help);
    await standing.refresh();
    const { flag, environment, note = "" } = request;
    const writing = { by: who, note, message: messageOf(plan.changes, note) };
    const recorded = await parts.desk.recorder.stop(plan, { does, flag, environment }, writing);
    return c.json<ChangedAnswer>({ written, changes: plan.changes, ...recorded });
  } catch (error) {
    if (!(error instanceof NothingToChange)) throw error;
    return c.json<ChangedAnswer>({ written: false, changes: [], message: error.message });
  }
}
