import type { Command } from "commander";
import { nearest } from "../../values/index.ts";
import { atOption, type Cli } from "../cli.ts";
import { type FolderOptions, knownEnvironment, openFolder } from "../folder.ts";
import { instantOf } from "../instant.ts";
import { listAttributes } from "../lists/attributes.ts";
import { listCohorts } from "../lists/cohorts.ts";
import { listFlags } from "../lists/flags.ts";
import type { Listing, ListRequest } from "../lists/listing.ts";
import { listWindows } from "../lists/windows.ts";
import { type ExitCode, json, type Output, UsageError } from "../output.ts";

export interface ListCommand extends FolderOptions {
  readonly at?: string;
  readonly json?: boolean;
}

const kinds: Readonly<Record<string, (request: ListRequest) => Listing>> = {
  flags: listFlags,
  cohorts: listCohorts,
  windows: listWindows,
  attributes: listAttributes,
};

export function addList(command: Command, cli: Cli): void {
  command
    .option("--env <name>", "one environment; all of them if left out")
    .option(...atOption)
    .action(async (kind: string | undefined, options) => cli.finish(await list(kind ?? "flags", options, cli.output)));
}

async function list(kind: string, options: ListCommand, output: Output): Promise<ExitCode> {
  const make = Object.hasOwn(kinds, kind) ? kinds[kind] : undefined;
  if (!make) {
    const near = nearest(kind, Object.keys(kinds));
    throw new UsageError(
      `“${kind}” cannot be listed.`,
      near ? `did you mean ${near}?` : "write flags, cohorts, windows or attributes",
    );
  }
  const opened = await openFolder(options, output);
  if (!opened) return 1;
  const { definitions } = opened;
  const environment = knownEnvironment(definitions, options.env);
  const at = instantOf(options.at);
  const listing = make({ definitions, environment, at, colour: output.colour });
  const { revision } = definitions;
  output.out(options.json ? json({ at: new Date(at).toISOString(), revision, ...listing.data }) : listing.text);
  return 0;
}
