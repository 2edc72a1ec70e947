import { ToolError } from "../files/index.ts";
import { NothingToChange } from "./change-folder.ts";
import type { EditSession, FileChange } from "./edit-session.ts";
import { type ExampleRequest, setExample } from "./examples.ts";
import { copyFlag, type RemoveRequest, type RenameRequest, removeFlag, renameFlag } from "./flag-life.ts";
import { type NewFlagRequest, newFlag } from "./new-flag.ts";
import { type OwnRulesRequest, ownRules } from "./own-rules.ts";
import { type RestoreRequest, restoreFlag } from "./restore-flag.ts";
import { type SetCohortRequest, setCohort } from "./set-cohort.ts";
import { type SetRequest, setFlag } from "./set-flag.ts";
import { type SetIdsRequest, setIds } from "./set-ids.ts";
import { setVariant, type VariantRequest } from "./set-variant.ts";

/** One change of the definitions, as plain data: it can be kept, sent, and worked out again on other files. */
export type Change =
  | ({ readonly change: "flag" } & SetRequest)
  | ({ readonly change: "new-flag" } & NewFlagRequest)
  | ({ readonly change: "example" } & ExampleRequest)
  | ({ readonly change: "cohort" } & SetCohortRequest)
  | ({ readonly change: "ids" } & SetIdsRequest)
  | ({ readonly change: "restore" } & RestoreRequest)
  | ({ readonly change: "rename" } & RenameRequest)
  | ({ readonly change: "copy" } & RenameRequest)
  | ({ readonly change: "remove-flag" } & RemoveRequest)
  | ({ readonly change: "own-rules" } & OwnRulesRequest)
  | ({ readonly change: "variant" } & VariantRequest);

/**
 * The files that a change makes anew.
 *
 * @throws {ToolError} for a change that does not fit the definitions
 * @throws {NothingToChange} where everything is so already
 */
export async function makeChange(change: Change, work: EditSession): Promise<readonly FileChange[]> {
  const files = await filesOf(change, work);
  for (const { file, text } of files) if (text !== (await work.textOf(file))) return files;
  throw new NothingToChange("The files say so already.");
}

async function filesOf(change: Change, work: EditSession): Promise<readonly FileChange[]> {
  switch (change.change) {
    case "flag":
      return [setFlag(change, work.loaded)];
    case "new-flag":
      return [newFlag(change, work.loaded)];
    case "example":
      return [setExample(change, work.loaded)];
    case "cohort":
      return setCohort(change, work.loaded);
    case "ids":
      return [await setIds(change, work)];
    case "restore":
      return [await restoreFlag(change, work)];
    case "rename":
      return renameFlag(change, work.loaded);
    case "copy":
      return copyFlag(change, work.loaded);
    case "remove-flag":
      return removeFlag(change, work.loaded);
    case "own-rules":
      return [ownRules(change, work.loaded)];
    case "variant":
      return [setVariant(change, work.loaded)];
  }
}

/** A change of several, and why it does not fit where it does not. */
export interface WorkedChange {
  readonly change: Change;
  readonly fault?: { readonly message: string; readonly help: string | undefined } | undefined;
}

/**
 * Works changes out one after the other. What does not fit is left out and said; what comes after it is worked out all
 * the same.
 */
export async function workOut(
  changes: readonly Change[],
  start: EditSession,
): Promise<{ readonly work: EditSession; readonly worked: readonly WorkedChange[] }> {
  let work = start;
  const worked: WorkedChange[] = [];
  for (const change of changes) {
    try {
      const next = await work.with(await makeChange(change, work));
      const fault = next.loaded.definitions ? undefined : faultIn(next);
      if (!fault) work = next;
      worked.push({ change, ...(fault ? { fault } : {}) });
    } catch (error) {
      if (error instanceof NothingToChange) worked.push({ change, fault: { message: error.message, help: undefined } });
      else if (error instanceof ToolError) worked.push({ change, fault: { message: error.message, help: error.help } });
      else throw error;
    }
  }
  return { work, worked };
}

function faultIn({ loaded: { problems } }: EditSession): WorkedChange["fault"] {
  const problem = problems.find(({ severity }) => severity === "error");
  return { message: problem?.message ?? "The definitions could not be used with it.", help: problem?.help };
}
