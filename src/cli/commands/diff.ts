import type { Command } from "commander";
import { compareSets } from "../../insight/index.ts";
import { shortRevision } from "../../model/index.ts";
import { loadSource, type PeopleReach, reachOfChange, type Source } from "../../study/index.ts";
import { renderChanges, renderReach } from "../changes.ts";
import { atOption, type Cli, envOption, peopleOption } from "../cli.ts";
import { type FolderOptions, renderFolderProblems, setFor } from "../folder.ts";
import { instantOf } from "../instant.ts";
import { count, type ExitCode, explanationPaint, json, type Output } from "../output.ts";
import { progressLine } from "../progress.ts";

export interface DiffCommand extends FolderOptions {
  readonly people?: string;
  readonly at?: string;
  readonly json?: boolean;
}

export function addDiff(command: Command, cli: Cli): void {
  command
    .option(...envOption)
    .option(...atOption)
    .option(...peopleOption)
    .action(async (old: string | undefined, now: string | undefined, options) =>
      cli.finish(await diff(old, now, options, cli.output)),
    );
}

/** What a change means, flag by flag, and whom it reaches. */
async function diff(
  old: string | undefined,
  now: string | undefined,
  options: DiffCommand,
  output: Output,
): Promise<ExitCode> {
  const [oldText, newText] = ends(old, now, options.flags);
  const [before, after] = await Promise.all([loadSource(oldText, options.flags), loadSource(newText, options.flags)]);
  const unusable = [before, after].filter(({ loaded }) => !loaded.definitions);
  for (const source of unusable) tellOfErrors(source, output);
  if (unusable.length > 0) return 1;
  const changes = compareSets(before.loaded.definitions!, after.loaded.definitions!);
  const reach = options.people === undefined ? undefined : await reachOf(before, after, changes, options, output);
  const revisions = { from: before.loaded.definitions!.revision, to: after.loaded.definitions!.revision };
  if (options.json) output.out(json({ ...revisions, changes, ...(reach ? { reach } : {}) }));
  else output.out(rendered(before, after, changes, reach, options, output));
  return 0;
}

/** `OLD..NEW` is also taken, as in git. */
function ends(old: string | undefined, now: string | undefined, folder: string): [string, string] {
  const range = now === undefined ? /^([^/]+?)\.\.([^./].*)?$/.exec(old ?? "") : null;
  if (range) return [range[1]!, range[2] ?? folder];
  return [old ?? "HEAD", now ?? folder];
}

async function reachOf(
  before: Source,
  after: Source,
  changes: ReturnType<typeof compareSets>,
  options: DiffCommand,
  output: Output,
): Promise<PeopleReach> {
  const { environment } = setFor(after.loaded.definitions!, options.env);
  const progress = progressLine(output);
  const request = { people: options.people!, environment, at: instantOf(options.at), progress: progress.see };
  return reachOfChange(before.loaded.definitions!, after.loaded.definitions!, changes, request).finally(progress.done);
}

function tellOfErrors({ called, loaded }: Source, output: Output): void {
  const errors = loaded.problems.filter(({ severity }) => severity === "error");
  output.err(`${renderFolderProblems(called, loaded, errors, output.colour)}\n\n`);
  output.err(`The definitions of ${called} cannot be used: ${count(errors.length, "error")}.\n`);
}

function rendered(
  before: Source,
  after: Source,
  changes: ReturnType<typeof compareSets>,
  reach: PeopleReach | undefined,
  options: DiffCommand,
  output: Output,
): string {
  const paint = explanationPaint(output.colour);
  const from = `${before.called} (${shortRevision(before.loaded.definitions!.revision)})`;
  const to = `${after.called} (${shortRevision(after.loaded.definitions!.revision)})`;
  if (changes.length === 0) return `From ${from} to ${to} nothing changes in what the definitions mean.\n`;
  const parts = [paint.faint(`${from} → ${to}`), renderChanges(changes, output)];
  if (reach) parts.push(renderReach(reach, { file: options.people! }, output));
  return `${parts.join("\n\n")}\n`;
}
