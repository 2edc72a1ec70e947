import {
  changeFolder,
  commitChange,
  type EditSession,
  type FileChange,
  NothingToChange,
  type Plan,
  refuseUncommitted,
} from "../edit/index.ts";
import { Git, renderProblems, shownPath, suspendedFile } from "../files/index.ts";
import { type PeopleReach, reachOfChange } from "../study/index.ts";
import { renderChanges, renderReach } from "./changes.ts";
import type { FolderOptions } from "./folder.ts";
import { instantOf } from "./instant.ts";
import { count, type ExitCode, json, type Output, problemPaint, UsageError } from "./output.ts";
import { progressLine } from "./progress.ts";

/** Options of the commands that change files. */
export interface EditOptions extends FolderOptions {
  readonly people?: string | undefined;
  readonly at?: string;
  readonly yes?: boolean;
  readonly note?: string;
  readonly commit?: boolean;
  readonly json?: boolean;
}

/** Works a change out, shows what it means and whom it reaches, asks, writes, and commits if asked to. */
export async function carryOut(
  change: (work: EditSession, at: number) => readonly FileChange[] | Promise<readonly FileChange[]>,
  options: EditOptions & { readonly title: string; readonly remarks?: readonly string[] },
  output: Output,
): Promise<ExitCode> {
  const at = instantOf(options.at);
  const { remarks = [] } = options;
  // Better now than after the file has been written.
  if (options.commit) await Git.around(options.flags);
  let reach: readonly EnvironmentReach[] | undefined;
  try {
    const { plan, written } = await changeFolder({
      folder: options.flags,
      at,
      change: (work) => change(work, at),
      confirm: async (plan, again) => {
        if (again && !options.yes) output.err("The folder has changed meanwhile; this is the change now:\n\n");
        if (options.commit) await refuseUncommitted(options.flags, plan.files);
        reach = await reachOf(plan, options, at, output);
        if (!options.json && !(again && options.yes))
          output.out([shown(plan, reach, options, output), ...remarks.map((remark) => `${remark}\n\n`)].join(""));
        return allowed(options, output, "Write this?", "written");
      },
    });
    if (plan.refused.length > 0) return refuse(plan, options, output);
    const commit =
      written && options.commit
        ? await commitChange(options.flags, plan.files, { message: options.note ?? options.title })
        : undefined;
    if (options.json)
      output.out(json({ ...answer(plan, reach, written, commit), ...(remarks.length > 0 ? { remarks } : {}) }));
    else if (written)
      output.out(
        `Written to ${plan.files.map(({ file }) => shownPath(options.flags, file)).join(", ")}${commit ? `, commit ${commit.slice(0, 10)}` : ""}.\n`,
      );
    else output.out("Nothing was written.\n");
    return written ? 0 : 1;
  } catch (error) {
    if (!(error instanceof NothingToChange)) throw error;
    if (options.json) output.out(json({ written: false, changes: [], message: error.message }));
    else output.out(`${error.message}\n`);
    return 0;
  }
}

/** @param done what would be done: “written” */
export async function allowed(
  { yes }: { readonly yes?: boolean | undefined },
  output: Output,
  question: string,
  done: string,
): Promise<boolean> {
  if (yes) return true;
  if (output.confirm) return output.confirm(question);
  throw new UsageError(`Nothing was ${done}: there is nobody at a terminal to ask.`, "add --yes");
}

/** Whom a change reaches in one environment. */
export interface EnvironmentReach extends PeopleReach {
  readonly environment?: string | undefined;
}

/** In the environment that is changed; in every one where the change is for all of them. */
export async function reachOf(
  plan: Pick<Plan, "before" | "after" | "changes">,
  options: Pick<EditOptions, "people" | "env">,
  at: number,
  output: Output,
): Promise<readonly EnvironmentReach[] | undefined> {
  const { before, after, changes } = plan;
  if (options.people === undefined || !before || !after) return undefined;
  const all = options.env === undefined ? [...after.environments.keys()] : [options.env];
  const reach: EnvironmentReach[] = [];
  for (const environment of all.length > 0 ? all : [undefined]) {
    const progress = progressLine(output);
    const request = { people: options.people, environment, at, progress: progress.see };
    reach.push({ environment, ...(await reachOfChange(before, after, changes, request).finally(progress.done)) });
  }
  return reach;
}

function shown(plan: Plan, reach: readonly EnvironmentReach[] = [], options: EditOptions, output: Output): string {
  if (!plan.after) {
    return `The other files cannot be used as they are, so what this means is not shown; ${suspendedFile} takes effect all the same.\n\n`;
  }
  const meaning =
    plan.changes.length === 0 ? "Nothing changes in what the definitions mean." : renderChanges(plan.changes, output);
  const reached = reach.map((each) =>
    renderReach(each, { file: options.people!, environment: each.environment }, output),
  );
  return [meaning, ...reached, ""].join("\n\n");
}

function refuse(plan: Plan, options: EditOptions, output: Output): ExitCode {
  if (options.json) {
    output.out(json({ written: false, changes: plan.changes, refused: plan.refused }));
    return 1;
  }
  const rendered = renderProblems(plan.refused, {
    text: (file) => plan.textOf(file),
    path: (file) => shownPath(options.flags, file),
    paint: problemPaint(output.colour),
  });
  output.err(
    `${rendered}\n\nNothing was written: iudex check would refuse the result, ${count(plan.refused.length, "error")}.\n`,
  );
  return 1;
}

function answer(
  plan: Plan,
  reach: readonly EnvironmentReach[] | undefined,
  written: boolean,
  commit: string | undefined,
): object {
  const { files, changes, before, after } = plan;
  return {
    written,
    files: files.map(({ file }) => file),
    from: before?.revision,
    to: after?.revision,
    changes,
    ...(reach ? { reach } : {}),
    ...(commit ? { commit } : {}),
  };
}
