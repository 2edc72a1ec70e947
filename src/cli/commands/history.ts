import type { Command } from "commander";
import { loadFolder } from "../../files/index.ts";
import { type HistoryEntry, historyOf } from "../../study/index.ts";
import { didYouMean, noSuch, printable, sentenceList } from "../../values/index.ts";
import { renderChanges } from "../changes.ts";
import type { Cli } from "../cli.ts";
import type { FolderOptions } from "../folder.ts";
import { type ExitCode, explanationPaint, json, type Output, UsageError } from "../output.ts";

export interface HistoryCommand extends FolderOptions {
  readonly most: string;
  readonly json?: boolean;
}

export function addHistory(command: Command, cli: Cli): void {
  command
    .option("--most <n>", "at most so many changes", "20")
    .action(async (flag: string | undefined, options) => cli.finish(await history(flag, options, cli.output)));
}

async function history(flag: string | undefined, options: HistoryCommand, output: Output): Promise<ExitCode> {
  const most = Number(options.most);
  if (!Number.isInteger(most) || most < 1)
    throw new UsageError(`“${options.most}” is not a number of changes.`, "write --most 20");
  const entries: HistoryEntry[] = [];
  for await (const entry of historyOf(options.flags, { flag, most })) {
    entries.push(entry);
    if (!options.json) output.out(`${rendered(entry, output)}\n\n`);
  }
  if (flag !== undefined && entries.length === 0) await mustBeKnown(flag, options);
  if (options.json) output.out(json({ flag, entries }));
  else if (entries.length === 0) {
    output.out(
      flag === undefined
        ? "The repository's log holds no change of this folder.\n"
        : `The repository's log holds no change of ${printable(flag)}.\n`,
    );
  }
  return 0;
}

/** @throws {UsageError} for a flag that neither the log nor the folder knows */
async function mustBeKnown(flag: string, { flags: folder }: HistoryCommand): Promise<void> {
  const { definitions } = await loadFolder(folder);
  if (!definitions || definitions.flags.has(flag)) return;
  const names = [...definitions.flags.keys()];
  throw new UsageError(noSuch("flag", flag), didYouMean(flag, names) ?? `there are ${sentenceList(names.sort())}`);
}

function rendered({ commit, date, author, note, changes, broken }: HistoryEntry, output: Output): string {
  const paint = explanationPaint(output.colour);
  const head = `${paint.strong(commit.slice(0, 10))}  ${date.slice(0, 16).replace("T", " ")} ${date.slice(19)}  ${printable(author)}`;
  const notes = note.split("\n").map((line) => paint.faint(`  ${printable(line)}`.trimEnd()));
  const what = broken
    ? "  The files at this commit, or at the one before, could not be used."
    : renderChanges(changes, output)
        .split("\n")
        .map((line) => `  ${line}`)
        .join("\n");
  return [head, ...notes, what].join("\n");
}
