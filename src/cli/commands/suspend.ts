import { userInfo } from "node:os";
import type { Command } from "commander";
import {
  type Published,
  type PublishRequest,
  reinstate,
  reinstateAtShelf,
  suspend,
  suspendAtShelf,
} from "../../edit/index.ts";
import type { Shelf } from "../../follow/index.ts";
import { parseTime } from "../../values/index.ts";
import { type Cli, peopleOption } from "../cli.ts";
import { carryOut, type EditOptions } from "../edit.ts";
import { type ExitCode, type Output, UsageError } from "../output.ts";
import { keyOption, putOnShelf } from "../publishing.ts";
import { keysOption, setOption, withShelf } from "../shelf.ts";

export interface SuspendCommand extends EditOptions {
  readonly who?: string;
  readonly key?: string;
  readonly keys?: string;
  readonly set?: string;
}

export function addSuspend(command: Command, cli: Cli): void {
  command.option("--who <name>", "who suspends it; whoever runs this if left out");
  addEditOptions(command).action(async (flag: string, options: SuspendCommand) =>
    cli.finish(await stop(flag, options, cli.output)),
  );
}

export function addReinstate(command: Command, cli: Cli): void {
  addEditOptions(command).action(async (flag: string, options: SuspendCommand) =>
    cli.finish(await startAgain(flag, options, cli.output)),
  );
}

function addEditOptions(command: Command): Command {
  return command
    .option("--env <name>", "in this environment only")
    .option(...peopleOption)
    .option("--at <shelf>", "at a shelf, without the folder; or an instant, as elsewhere")
    .option(...keyOption)
    .option(...keysOption)
    .option(...setOption)
    .option("--yes", "do not ask")
    .option("--note <text>", "why")
    .option("--commit", "commit the change");
}

function stop(flag: string, options: SuspendCommand, output: Output): Promise<ExitCode> {
  const { env: environment, who = userInfo().username, note } = options;
  const shelf = shelfIn(options);
  if (shelf !== undefined) {
    return atShelf(shelf, { ...options, by: who }, output, (at, request) =>
      suspendAtShelf(at, { flag, environment, who, note }, request),
    );
  }
  const title = `${flag} suspended${environment ? ` in ${environment}` : ""}`;
  return carryOut(
    ({ loaded }, at) => [suspend(loaded, { flag, environment, who, note, at })],
    { ...options, title },
    output,
  );
}

function startAgain(flag: string, options: SuspendCommand, output: Output): Promise<ExitCode> {
  const { env: environment, note } = options;
  const shelf = shelfIn(options);
  if (shelf !== undefined)
    return atShelf(shelf, options, output, (at, request) => reinstateAtShelf(at, { flag, environment }, request));
  if (note !== undefined && !options.commit) {
    throw new UsageError("The note on a reinstatement is kept in its commit.", "add --commit, or leave --note out");
  }
  const title = `${flag} reinstated${environment ? ` in ${environment}` : ""}`;
  return carryOut(({ loaded }, at) => [reinstate(loaded, { flag, environment, at })], { ...options, title }, output);
}

/** The shelf of `--at`, which elsewhere names an instant. */
function shelfIn({ at }: SuspendCommand): string | undefined {
  return at === undefined || !Number.isNaN(parseTime(at)) ? undefined : at;
}

function atShelf(
  text: string,
  { at: _, ...options }: SuspendCommand & { readonly by?: string },
  output: Output,
  publish: (shelf: Shelf, request: PublishRequest) => Promise<Published>,
): Promise<ExitCode> {
  if (options.commit) throw new UsageError("At a shelf there is nothing to commit.", "leave --commit out");
  return withShelf(text, options, output, (shelf) =>
    putOnShelf(shelf.called, options, output, (request) => publish(shelf, request)),
  );
}
