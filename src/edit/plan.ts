import { checkDefinitions } from "../checks/index.ts";
import { type Loaded, type LocatedProblem, locateProblems, suspendedFile } from "../files/index.ts";
import { compareSets, type PartChange } from "../insight/index.ts";
import type { Definitions } from "../model/index.ts";
import type { EditSession, FileChange } from "./edit-session.ts";

/** A change of files, worked out and not yet written. */
export interface Plan {
  /** Those that do not say so already. */
  readonly files: readonly FileChange[];
  /** The sets before and after; undefined where the folder cannot be used for other reasons. */
  readonly before: Definitions | undefined;
  readonly after: Definitions | undefined;
  readonly changes: readonly PartChange[];
  /** Errors that keep the change from being written. */
  readonly refused: readonly LocatedProblem[];
  /** The text of a file as it would be, for showing problems in it. */
  textOf(file: string): string | undefined;
}

/**
 * What it would mean to write the changes of a session.
 *
 * @param at epoch milliseconds, for the checks
 */
export async function planOf(loaded: Loaded, work: EditSession, at: number): Promise<Plan> {
  const judged = work.loaded;
  const texts = [...work.texts].filter(([file, text]) => loaded.content.files.get(file)?.text !== text);
  const files = texts.map(([file, text]) => ({ file, text }));
  const checked = await checkedProblems(judged, at);
  const errors = checked.filter(({ severity }) => severity === "error");
  // An emergency stop must not wait until other things are mended: only what the change itself breaks keeps it back.
  const isStop = files.every(({ file }) => file === suspendedFile);
  const refused = isStop ? newAmong(errors, loaded.problems).filter(({ file }) => file === suspendedFile) : errors;
  const before = loaded.definitions;
  const after = judged.definitions;
  const changes = before && after ? compareSets(before, after) : [];
  const textOf = (name: string) => judged.content.files.get(name)?.text;
  return { files, before, after, changes, refused, textOf };
}

/** What a check warns of with the changes of a session, and does not without them. */
export async function newWarnings(loaded: Loaded, work: EditSession, at: number): Promise<readonly LocatedProblem[]> {
  const found = await checkedProblems(work.loaded, at);
  const warnings = found.filter(({ severity }) => severity === "warning");
  return warnings.length === 0 ? [] : newAmong(warnings, await checkedProblems(loaded, at));
}

function checkedProblems(loaded: Loaded, at: number): Promise<readonly LocatedProblem[]> {
  if (!loaded.definitions) return Promise.resolve(loaded.problems);
  return locateProblems(loaded, checkDefinitions(loaded.definitions, { at }));
}

function newAmong(found: readonly LocatedProblem[], known: readonly LocatedProblem[]): readonly LocatedProblem[] {
  const names = new Set(known.map(({ code, message }) => `${code} ${message}`));
  return found.filter(({ code, message }) => !names.has(`${code} ${message}`));
}
