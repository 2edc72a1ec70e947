import { readFile } from "node:fs/promises";
import { join } from "node:path";
import { checkDefinitions } from "../../checks/index.ts";
import {
  judgeContent,
  type Loaded,
  type LocatedProblem,
  loadedFile,
  loadFolder,
  locateProblems,
  parseText,
  reasonOf,
  suspendedFile,
} from "../../folder/index.ts";
import { compareSets, type PartChange } from "../../insight/index.ts";
import type { Definitions } from "../../model/index.ts";
import { Git } from "../git/git.ts";
import { ToolError } from "../tool-error.ts";

/** A change of one file, worked out and not yet written. */
export interface Plan {
  /** Relative to the definition folder. */
  readonly file: string;
  readonly text: string;
  /** The sets before and after; undefined where the folder cannot be used for other reasons. */
  readonly before: Definitions | undefined;
  readonly after: Definitions | undefined;
  readonly changes: readonly PartChange[];
  /** Errors that keep the change from being written. */
  readonly refused: readonly LocatedProblem[];
  /** The text of a file as it would be, for showing problems in it. */
  textOf(file: string): string | undefined;
}

/** The new text of one file. */
export interface FileChange {
  readonly file: string;
  readonly text: string;
}

/** How a change is made. */
export interface ChangeRequest {
  readonly folder: string;
  /** Works the change out; called again if the folder changes before it is written. */
  change(loaded: Loaded): FileChange;
  /** Sees the plan before it is written; false leaves everything as it is. `again` tells that it was seen before. */
  confirm(plan: Plan, again: boolean): Promise<boolean>;
  /** Epoch milliseconds, for the checks. */
  readonly at: number;
}

/** What nobody has to change is said so, and is no error. */
export class NothingToChange extends Error {}

const mostAttempts = 20;

/**
 * Changes one file of a definition folder: works the change out, refuses what `check` would refuse, asks, and writes
 * aside and renames. Several at once take turns, and what was worked out on files that have changed since is worked out
 * anew, so that nothing is lost.
 *
 * @returns the plan that was written, or that was refused or declined
 */
export async function changeFolder(
  request: ChangeRequest,
): Promise<{ readonly plan: Plan; readonly written: boolean }> {
  for (let attempt = 0; attempt < mostAttempts; attempt++) {
    const loaded = await loadFolder(request.folder);
    const { root } = loaded.content.scan;
    if (root === undefined) throw new ToolError(`There is no folder “${request.folder}”.`, "make one with iudex new");
    const plan = await planOf(loaded, request.change(loaded), request.at);
    if (plan.refused.length > 0) return { plan, written: false };
    if (!(await request.confirm(plan, attempt > 0))) return { plan, written: false };
    if (await writeUnlessChanged(root, request.folder, loaded, plan)) return { plan, written: true };
  }
  throw new ToolError("The folder never holds still, so nothing was written.", "try again in a moment");
}

async function planOf(loaded: Loaded, { file, text }: FileChange, at: number): Promise<Plan> {
  const { content } = loaded;
  const known = content.files.get(file)?.found;
  const found = known ?? { file, path: join(content.scan.root!, file), stamp: "new", size: text.length, changed: 0 };
  const files = new Map([...content.files, [file, loadedFile(found, text, parseText(file, text))]]);
  const isSuspended = file === suspendedFile;
  const scan = isSuspended ? { ...content.scan, suspended: found, suspendedIsGone: false } : content.scan;
  const judged = await judgeContent({ ...content, scan, files });
  const checked = judged.definitions
    ? await locateProblems(judged, checkDefinitions(judged.definitions, { at }))
    : judged.problems;
  const errors = checked.filter(({ severity }) => severity === "error");
  // An emergency stop must not wait until other things are mended: only what the change itself breaks keeps it back.
  const refused = file === suspendedFile ? newIn(errors, loaded.problems, file) : errors;
  const before = loaded.definitions;
  const after = judged.definitions;
  const changes = before && after ? compareSets(before, after) : [];
  return { file, text, before, after, changes, refused, textOf: (name) => files.get(name)?.text };
}

function newIn(
  errors: readonly LocatedProblem[],
  before: readonly LocatedProblem[],
  file: string,
): readonly LocatedProblem[] {
  const known = new Set(before.map(({ code, message }) => `${code} ${message}`));
  return errors.filter((each) => each.file === file && !known.has(`${each.code} ${each.message}`));
}

/** How long a lock is believed in when its holder has died, in milliseconds. */
const staleAfter = 10_000;

async function writeUnlessChanged(root: string, folder: string, loaded: Loaded, plan: Plan): Promise<boolean> {
  const unlock = await locked(root);
  try {
    const now = await loadFolder(folder, loaded.content);
    if (now.content.signature !== loaded.content.signature) return false;
    const path = loaded.content.files.get(plan.file)?.found.path ?? join(root, plan.file);
    const { default: writeFileAtomic } = await import("write-file-atomic");
    await writeFileAtomic(path, (await hasMark(path)) ? `\ufeff${plan.text}` : plan.text);
    return true;
  } catch (error) {
    if (error instanceof ToolError) throw error;
    throw new ToolError(`${plan.file} cannot be written: ${reasonOf(error)}.`, "nothing was changed");
  } finally {
    await unlock();
  }
}

/** A byte order mark stays where somebody's editor put it. */
async function hasMark(path: string): Promise<boolean> {
  const bytes = await readFile(path).catch(() => undefined);
  return bytes?.subarray(0, 3).equals(Buffer.from([0xef, 0xbb, 0xbf])) ?? false;
}

async function locked(root: string): Promise<() => Promise<void>> {
  try {
    const { default: lockfile } = await import("proper-lockfile");
    return await lockfile.lock(root, {
      lockfilePath: join(root, ".iudex.lock"),
      stale: staleAfter,
      retries: { retries: 200, factor: 1.2, minTimeout: 20, maxTimeout: 250, randomize: true },
    });
  } catch (error) {
    throw new ToolError(`The folder cannot be locked for writing: ${reasonOf(error)}.`);
  }
}

/**
 * A commit takes in the whole file, so one that holds changes of somebody else is not begun.
 *
 * @throws {ToolError} that says so
 */
export async function refuseUncommitted(folder: string, file: string): Promise<void> {
  const git = await Git.around(folder);
  const status = await git.run("status", "--porcelain", "--", `:(top,literal)${git.prefix}${file}`);
  if (status.trim() === "") return;
  throw new ToolError(
    `${file} has changes that are not committed, and --commit would take them in.`,
    "commit them first, or leave --commit out",
  );
}

/**
 * Commits the one file, with the note as the message; what else is staged or changed stays as it is.
 *
 * @throws {ToolError} that says so where the file was written and git would not have it
 */
export async function commitChange(folder: string, { file }: Plan, message: string): Promise<string> {
  try {
    const git = await Git.around(folder);
    const path = `:(top,literal)${git.prefix}${file}`;
    await git.run("add", "--", path);
    await git.run("commit", "--quiet", "--message", message, "--only", "--", path);
    return (await git.run("rev-parse", "HEAD")).trim();
  } catch (error) {
    throw new ToolError(`${file} is written, but not committed: ${reasonOf(error)}`, "commit it by hand");
  }
}
