import { existsSync } from "node:fs";
import { userInfo } from "node:os";
import type { Command } from "commander";
import {
  reinstate,
  reinstateAtShelf,
  type StopsPut,
  type StopsRequest,
  suspend,
  suspendAtShelf,
} from "../../edit/index.ts";
import type { Shelf } from "../../follow/index.ts";
import { parseTime } from "../../values/index.ts";
import { type Cli, peopleOption } from "../cli.ts";
import { carryOut, type EditOptions } from "../edit.ts";
import { type ExitCode, type Output, UsageError } from "../output.ts";
import { addSigningOptions, type PublishingOptions } from "../publishing.ts";
import { isAddress, withShelf } from "../shelf.ts";
import { putStopsOnShelf } from "../stopping.ts";

export interface SuspendCommand extends EditOptions, Omit<PublishingOptions, keyof EditOptions | "by" | "env"> {
  readonly who?: string;
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
  return addSigningOptions(command)
    .option("--env <name>", "in this environment only")
    .option(...peopleOption)
    .option("--at <shelf>", "at a shelf, without the folder; or an instant, as elsewhere")
    .option("--yes", "do not ask")
    .option("--note <text>", "why")
    .option("--commit", "commit the change");
}

function stop(flag: string, options: SuspendCommand, output: Output): Promise<ExitCode> {
  const { env: environment, who = userInfo().username, note } = options;
  const shelf = shelfIn(options);
  if (shelf !== undefined) {
    return atShelf(shelf, options, output, (at, request) =>
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
  return carryOut(({ loaded }) => [reinstate(loaded, { flag, environment })], { ...options, title }, output);
}

/** The shelf of `--at`, which elsewhere names an instant. A mistyped instant is not taken for a folder. */
function shelfIn({ at }: SuspendCommand): string | undefined {
  if (at === undefined || !Number.isNaN(parseTime(at))) return undefined;
  if (isAddress(at) || existsSync(at)) return at;
  throw new UsageError(
    `“${at}” is neither an instant nor a shelf that is there.`,
    "write --at 2026-12-02T10:00Z, or the path or address of a shelf",
  );
}

function atShelf(
  text: string,
  { at: _, ...options }: SuspendCommand,
  output: Output,
  put: (shelf: Shelf, request: StopsRequest) => Promise<StopsPut>,
): Promise<ExitCode> {
  if (options.commit) throw new UsageError("At a shelf there is nothing to commit.", "leave --commit out");
  return withShelf(text, options, output, (shelf) =>
    putStopsOnShelf(shelf.called, options, output, (request) => put(shelf, request)),
  );
}
