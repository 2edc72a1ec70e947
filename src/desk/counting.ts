import type { Context } from "hono";
import { stream } from "hono/streaming";
import { takeCensusOfFlags } from "../tools/index.ts";
import { type DeskEnv, problemOf } from "./answering.ts";
import { DeskFault } from "./desk-fault.ts";
import type { DeskFolder } from "./desk-folder.ts";
import { fieldsOf } from "./requests.ts";

import type { CensusLine } from "./talk.ts";

/** How often the progress of a count is told, in milliseconds. */
const toldEvery = 100;

/** Answers `POST api/census`: counts on the server, and tells how far it has come. */
export async function census(c: Context<DeskEnv>, desk: DeskFolder): Promise<Response> {
  const asked = fieldsOf(await c.req.json().catch(() => undefined));
  const { definitions } = await desk.usable(asked.text("by"));
  const flags = asked.texts("flags").filter((name) => definitions.flags.has(name));
  const named = asked.texts("environments");
  const people = desk.people.path(asked.text("file"));
  const at = asked.number("at");
  if (named.some((name) => !definitions.environments.has(name)))
    throw new DeskFault(400, "There is no such environment in these definitions.");
  const environments = named.length > 0 ? named : [undefined];
  c.header("content-type", "application/x-ndjson");
  return stream(c, async (out) => {
    const tell = (line: CensusLine) => out.write(`${JSON.stringify(line)}\n`);
    let told = performance.now();
    const progress = ({ bytes, totalBytes }: { readonly bytes: number; readonly totalBytes: number }) => {
      // Nobody waits any more: the reading ends here.
      if (out.aborted) throw new DeskFault(409, "The page has left.");
      if (performance.now() - told < toldEvery) return;
      told = performance.now();
      void tell({ progress: totalBytes === 0 ? 1 : Math.min(1, bytes / totalBytes) });
    };
    try {
      const { counts, read } = await takeCensusOfFlags(definitions, { flags, environments, people, at, progress });
      await tell({ counts, contexts: read.contexts });
    } catch (error) {
      if (!out.aborted) await tell({ failed: problemOf(error)?.title ?? "The file could not be counted." });
    }
  });
}
