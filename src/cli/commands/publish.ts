import type { Command } from "commander";
import { publishAgain, publishFolder } from "../../edit/index.ts";
import { atOption, type Cli, envOption, peopleOption } from "../cli.ts";
import type { FolderOptions } from "../folder.ts";
import type { ExitCode, Output } from "../output.ts";
import { keyOption, type PublishingOptions, putOnShelf, wholeNumber } from "../publishing.ts";
import { keysOption, setOption, withShelf } from "../shelf.ts";

export interface PublishCommand extends FolderOptions, Omit<PublishingOptions, "env"> {
  readonly to: string;
  readonly again?: string;
  readonly prepare?: boolean;
  readonly hashLists?: boolean;
}

export function addPublish(command: Command, cli: Cli): void {
  command
    .requiredOption("--to <shelf>", "where to: a folder, redis://… or postgres://…")
    .option("--note <text>", "why")
    .option("--by <name>", "who publishes it; whoever runs this if left out")
    .option(...keyOption)
    .option(...keysOption)
    .option(...setOption)
    .option("--again <number>", "an earlier edition's content instead of the folder's")
    .option("--hash-lists", "ids of list cohorts as salted digests only")
    .option("--above <number>", "take a number above this one, and go over what cannot be verified")
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
