import { loadFolder, ToolError } from "../files/index.ts";
import { EditSession, type FileChange } from "./edit-session.ts";
import { type Plan, planOf } from "./plan.ts";
import { writeUnlessChanged } from "./write-files.ts";

/** How a change is made. */
export interface ChangeRequest {
  readonly folder: string;
  /** Works the change out; called again if the folder changes before it is written. */
  change(work: EditSession): readonly FileChange[] | Promise<readonly FileChange[]>;
  /** Sees the plan before it is written; false leaves everything as it is. `again` tells that it was seen before. */
  confirm(plan: Plan, again: boolean): Promise<boolean>;
  /** Epoch milliseconds, for the checks. */
  readonly at: number;
}

/** What nobody has to change is said so, and is no error. */
export class NothingToChange extends Error {}

const maxAttempts = 20;

/**
 * Changes files of a definition folder: works the change out, refuses what `check` would refuse, asks, and writes aside
 * and renames. Several at once take turns, and what was worked out on files that have changed since is worked out anew,
 * so that nothing is lost.
 *
 * @returns the plan that was written, or that was refused or declined
 * @throws {NothingToChange} where the files say so already
 */
export async function changeFolder({
  folder,
  change,
  confirm,
  at,
}: ChangeRequest): Promise<{ readonly plan: Plan; readonly written: boolean }> {
  for (let attempt = 0; attempt < maxAttempts; attempt++) {
    const loaded = await loadFolder(folder);
    const { root } = loaded.content.source;
    if (root === undefined) throw new ToolError(`There is no folder “${folder}”.`, "make one with iudex new");
    const work = EditSession.of(loaded);
    const plan = await planOf(loaded, await work.with(await change(work)), at);
    if (plan.files.length === 0) throw new NothingToChange("The files say so already.");
    if (plan.refused.length > 0) return { plan, written: false };
    if (!(await confirm(plan, attempt > 0))) return { plan, written: false };
    if (await writeUnlessChanged(root, folder, loaded, plan.files)) return { plan, written: true };
  }
  throw new ToolError("The folder never holds still, so nothing was written.", "try again in a moment");
}
