import { setFlag } from "../../tools/index.ts";
import { addCommand, atOption, type Cli, peopleOption } from "../cli.ts";
import { carryOut, type EditOptions } from "../edit.ts";
import { type ExitCode, type Output, UsageError } from "../output.ts";

export interface SetCommand extends EditOptions {
  readonly like?: string;
  readonly rule?: string;
  readonly share?: string;
  readonly give?: string;
  readonly otherwise?: string;
  readonly safe?: string;
  readonly place?: string;
}

export function addSet(cli: Cli): void {
  addCommand(cli, {
    usage: "set <flag>",
    description: "Sets a share, a value, a rule's place or an environment's settings; shows what it means, then asks.",
    example:
      'iudex set zone-fares --rule "frequent travellers, one in ten" --share 25% --people examples/ternhaven/people/passengers.csv --flags examples/ternhaven/flags',
  })
    .option("--env <name>", "in the settings of this environment only")
    .option("--like <environment>", "copy that environment's settings to --env")
    .option("--rule <name>", "the rule: its name, or its number from 1")
    .option("--share <percent>", "the rule's share, such as 25%; none takes it out")
    .option("--give <value>", "what the rule gives: a value, or the name of a variant")
    .option("--place <n>", "the rule's new place, from 1")
    .option("--otherwise <value>", "the value when no rule matches")
    .option("--safe <value>", "the value that does no harm")
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
  const { env: environment, like, rule, share, give, otherwise, safe } = options;
  const place = options.place === undefined ? undefined : Number(options.place);
  const request = { flag, environment, like, rule, share, give, otherwise, safe, place };
  return carryOut((loaded) => setFlag(loaded, request), { ...options, title: `${flag} set` }, output);
}
