import type { Context, Hono } from "hono";
import type { Loaded } from "../folder/index.ts";
import { changeFolder, type FileChange, NothingToChange, reinstate, suspend } from "../tools/index.ts";
import { type DeskEnv, type DeskParts, requireMay } from "./answering.ts";
import { DeskFault } from "./desk-fault.ts";
import { messageOf } from "./message.ts";
import { fieldsOf } from "./requests.ts";
import type { ChangedAnswer } from "./talk.ts";

/** The emergency stop and its end: written at once, without a draft, and while the other files are broken. */
export function addStopping(app: Hono<DeskEnv>, parts: DeskParts): void {
  app.post("/api/suspend", (c) =>
    stopped(c, parts, (loaded, request) => suspend(loaded, { ...request, who: c.get("visitor").name })),
  );
  app.post("/api/reinstate", (c) => stopped(c, parts, reinstate));
}

interface Stop {
  readonly flag: string;
  readonly environment: string | undefined;
  readonly note: string | undefined;
  readonly at: number;
}

async function stopped(
  c: Context<DeskEnv>,
  parts: DeskParts,
  change: (loaded: Loaded, request: Stop) => FileChange,
): Promise<Response> {
  requireMay(c, parts, "suspend");
  const asked = fieldsOf(await c.req.json().catch(() => undefined));
  const at = Date.now();
  const request = {
    flag: asked.text("flag"),
    environment: asked.optional("environment"),
    note: asked.optional("note")?.trim() || undefined,
    at,
  };
  const standing = await parts.desk.standing();
  try {
    const { plan, written } = await changeFolder({
      folder: standing.folder,
      at,
      change: ({ loaded }) => [change(loaded, request)],
      confirm: async () => true,
    });
    const [fault] = plan.refused;
    if (fault) throw new DeskFault(409, fault.message, fault.help);
    await standing.refresh();
    const { name: by } = c.get("visitor");
    const note = request.note ?? "";
    const { recorder } = parts.desk;
    const recorded = recorder.isAside
      ? {}
      : await recorder.record(plan, { by, note, message: messageOf(plan.changes, note) });
    return c.json<ChangedAnswer>({ written, changes: plan.changes, ...recorded });
  } catch (error) {
    if (!(error instanceof NothingToChange)) throw error;
    return c.json<ChangedAnswer>({ written: false, changes: [], message: error.message });
  }
}
