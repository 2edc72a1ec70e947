import type { Command } from "commander";
import { publishAgain, publishFolder } from "../../edit/index.ts";
import { atOption, type Cli, envOption, peopleOption } from "../cli.ts";
import type { FolderOptions } from "../folder.ts";
import type { ExitCode, Output } from "../output.ts";
import { addSigningOptions, type PublishingOptions, putOnShelf, wholeNumber } from "../publishing.ts";
import { withShelf } from "../shelf.ts";

export interface PublishCommand extends FolderOptions, Omit<PublishingOptions, "env"> {
  readonly to: string;
  readonly again?: string;
  readonly prepare?: boolean;
  readonly hashLists?: boolean;
}

export function addPublish(command: Command, cli: Cli): void {
  addSigningOptions(command)
    .requiredOption("--to <shelf>", "where to: a folder, redis://… or postgres://…")
    .option("--note <text>", "why")
    .option("--by <name>", "who publishes it; whoever runs this if left out")
    .option("--again <number>", "an earlier edition's content instead of the folder's")
    .option("--hash-lists", "ids of list cohorts as salted digests only")
    .option("--despite-stops", "publish although a stop at the shelf would then do less")
    .option("--keep <number>", "then remove files that so many newest editions do not name, unused for a day")
    .option("--prepare", "first make what must be there: tables, a folder")
    .option(...envOption)
    .option(...peopleOption)
    .option(...atOption)
    .option("--yes", "do not ask")
    .action(async (options) => cli.finish(await publish(options, cli.output)));
}

/** Puts the folder, or an earlier edition, on a shelf as its next edition. */
function publish(options: PublishCommand, output: Output): Promise<ExitCode> {
  const { to, again, flags: folder, hashLists = false } = options;
  return withShelf(to, options, output, async (shelf) => {
    if (options.prepare) await shelf.prepare();
    return putOnShelf(shelf.called, options, output, (request) =>
      again === undefined
        ? publishFolder(shelf, { ...request, folder, hashLists })
        : publishAgain(shelf, wholeNumber(again, "--again"), request),
    );
  });
}
