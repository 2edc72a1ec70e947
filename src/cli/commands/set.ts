import type { Command } from "commander";
import { setFlag, setIds } from "../../tools/index.ts";
import { atOption, type Cli, peopleOption } from "../cli.ts";
import { carryOut, type EditOptions } from "../edit.ts";
import { type ExitCode, type Output, UsageError } from "../output.ts";

export interface SetCommand extends EditOptions {
  readonly like?: string;
  readonly rule?: string;
  readonly when?: string;
  readonly share?: string;
  readonly give?: string;
  readonly split?: string;
  readonly otherwise?: string;
  readonly safe?: string;
  readonly place?: string;
  readonly newRule?: string;
  readonly remove?: boolean;
  readonly addId?: readonly string[];
  readonly dropId?: readonly string[];
}

export function addSet(command: Command, cli: Cli): void {
  command
    .option("--env <name>", "in this environment only: adjusts the rule there")
    .option("--like <environment>", "copy that environment's settings to --env")
    .option("--rule <name>", "the rule: its name, or its number from 1")
    .option("--share <percent>", "the rule's share, such as 25% or 20% to 45%; none takes it out")
    .option("--give <value>", "what the rule gives: a value, or the name of a variant")
    .option("--split <parts>", "how the rule divides, such as 2 classic, 1 deck")
    .option("--when <condition>", "the rule's condition; everyone takes it out")
    .option("--place <n>", "the rule's new place, from 1")
    .option("--new-rule <name>", "a new rule with what else is given, at --place or at the end")
    .option("--remove", "take the rule out")
    .option("--otherwise <value>", "the value when no rule matches")
    .option("--safe <value>", "the value that does no harm")
    .option("--add-id <ids...>", "with cohort:NAME: ids to add")
    .option("--drop-id <ids...>", "with cohort:NAME: ids to take out")
    .option(...peopleOption)
    .option(...atOption)
    .option("--yes", "do not ask")
    .option("--note <text>", "why; kept in the commit")
    .option("--commit", "commit the change")
    .action(async (flag: string, options) => cli.finish(await set(flag, options, cli.output)));
}

async function set(flag: string, options: SetCommand, output: Output): Promise<ExitCode> {
  if (options.note !== undefined && !options.commit) {
    throw new UsageError("The note on such a change is kept in its commit.", "add --commit, or leave --note out");
  }
  const titled = { ...options, title: `${flag} set` };
  const { addId, dropId } = options;
  if (flag.startsWith("cohort:")) {
    const cohort = flag.slice("cohort:".length);
    return carryOut(({ loaded }) => [setIds(loaded, { cohort, add: addId, drop: dropId })], titled, output);
  }
  if (addId || dropId) throw new UsageError("Ids belong to a cohort.", "write iudex set cohort:NAME --add-id A-1003");
  const place = options.place === undefined ? undefined : Number(options.place);
  const request = { ...options, flag, environment: options.env, place };
  return carryOut(({ loaded }) => [setFlag(loaded, request)], titled, output);
}
