import { userInfo } from "node:os";
import type { Command } from "commander";
import { reinstate, suspend } from "../../tools/index.ts";
import { atOption, type Cli, peopleOption } from "../cli.ts";
import { carryOut, type EditOptions } from "../edit.ts";
import { type ExitCode, type Output, UsageError } from "../output.ts";

export interface SuspendCommand extends EditOptions {
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
  return command
    .option("--env <name>", "in this environment only")
    .option(...peopleOption)
    .option(...atOption)
    .option("--yes", "do not ask")
    .option("--note <text>", "why")
    .option("--commit", "commit the change");
}

function stop(flag: string, options: SuspendCommand, output: Output): Promise<ExitCode> {
  const { env: environment, who = userInfo().username, note } = options;
  const title = `${flag} suspended${environment ? ` in ${environment}` : ""}`;
  return carryOut((loaded, at) => suspend(loaded, { flag, environment, who, note, at }), { ...options, title }, output);
}

function startAgain(flag: string, options: SuspendCommand, output: Output): Promise<ExitCode> {
  const { env: environment, note } = options;
  if (note !== undefined && !options.commit) {
    throw new UsageError("The note on a reinstatement is kept in its commit.", "add --commit, or leave --note out");
  }
  const title = `${flag} reinstated${environment ? ` in ${environment}` : ""}`;
  return carryOut((loaded, at) => reinstate(loaded, { flag, environment, at }), { ...options, title }, output);
}
