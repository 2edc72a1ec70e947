import type { Command } from "commander";
import { type Change, type EditSession, makeChange } from "../../edit/index.ts";
import { atOption, type Cli, peopleOption } from "../cli.ts";
import { givenContext } from "../context.ts";
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
  readonly provided?: string;
  readonly place?: string;
  readonly newRule?: string;
  readonly remove?: boolean;
  readonly about?: string;
  readonly owner?: string;
  readonly lifespan?: string;
  readonly reviewBy?: string;
  readonly newFlag?: boolean;
  readonly variants?: string;
  readonly file?: string;
  readonly example?: readonly string[];
  readonly exampleAt?: string;
  readonly gives?: string;
  readonly dropExample?: string;
  readonly newCohort?: boolean;
  readonly of?: string;
  readonly by?: string;
  readonly list?: string;
  readonly column?: string;
  readonly addId?: readonly string[];
  readonly dropId?: readonly string[];
}

export function addSet(command: Command, cli: Cli): void {
  addFlagOptions(command);
  addCohortOptions(command);
  command
    .option(...peopleOption)
    .option(...atOption)
    .option("--yes", "do not ask")
    .option("--note <text>", "why; kept in the commit")
    .option("--commit", "commit the change")
    .action(async (what: string, options) => cli.finish(await set(what, options, cli.output)));
}

function addFlagOptions(command: Command): void {
  command
    .option("--env <name>", "in this environment only: adjusts the rule there")
    .option("--like <environment>", "copy that environment's settings to --env")
    .option("--rule <name>", "the rule: its name, or its number from 1")
    .option("--share <percent>", "the rule's share: 25%, 20% to 45%, or 1% from 2026-12-01T09:00, …; none takes it out")
    .option("--give <value>", "what the rule gives: a value, or the name of a variant")
    .option("--split <parts>", "how the rule divides, such as 2 classic, 1 deck")
    .option("--when <condition>", "the rule's condition, or that of a cohort; everyone takes it out of a rule")
    .option("--place <n>", "the rule's new place, from 1")
    .option("--new-rule <name>", "a new rule with what else is given, at --place or at the end")
    .option("--remove", "take the rule out")
    .option("--otherwise <value>", "the value when no rule matches")
    .option("--safe <value>", "the value that does no harm")
    .option("--provided <condition>", "what must hold for everything else; everyone takes it out")
    .option("--about <text>", "what it is for")
    .option("--owner <name>", "who answers for it")
    .option("--lifespan <word>", "passing or lasting")
    .option("--review-by <day>", "when it is to be looked at again, such as 2027-03-31")
    .option("--new-flag", "a new flag, with --safe and what else is given")
    .option("--variants <pairs>", "with --new-flag: classic=list, deck=deck-plan")
    .option("--file <name>", "with --new-flag or --new-cohort: the definition file, which may be new")
    .option("--example <pairs...>", "somebody of whom this must stay true, as account.id=A-17; with --gives")
    .option("--example-at <instant>", "with --example: the instant")
    .option("--gives <value>", "with --example: what they get")
    .option("--drop-example <n>", "take out the example of this number, from 1");
}

function addCohortOptions(command: Command): void {
  command
    .option("--new-cohort", "with cohort:NAME: a new one, by --when, --share (a lot), or --of (a list)")
    .option("--of <attribute>", "with cohort:NAME: the attribute that holds the ids of a list")
    .option("--by <attribute>", "with cohort:NAME: the attribute by which a lot is drawn")
    .option("--list <file>", "with --new-cohort: the list file for the ids, such as lists/captains.csv")
    .option("--column <name>", "with --list: the column")
    .option("--add-id <ids...>", "with cohort:NAME: ids to add")
    .option("--drop-id <ids...>", "with cohort:NAME: ids to take out");
}

async function set(what: string, options: SetCommand, output: Output): Promise<ExitCode> {
  if (options.note !== undefined && !options.commit) {
    throw new UsageError("The note on such a change is kept in its commit.", "add --commit, or leave --note out");
  }
  const isCohort = what.startsWith("cohort:");
  if (!isCohort && (options.addId || options.dropId))
    throw new UsageError("Ids belong to a cohort.", "write iudex set cohort:NAME --add-id A-1003");
  const changeOf = isCohort ? cohortChange(what.slice("cohort:".length), options) : flagChange(what, options);
  const change = async (work: EditSession) => makeChange(await changeOf(work), work);
  return carryOut(
    change,
    { ...options, title: `${what} ${options.newFlag || options.newCohort ? "made" : "set"}` },
    output,
  );
}

function cohortChange(cohort: string, options: SetCommand): () => Change {
  const { addId: add, dropId: drop, newCohort: isNew, file, about, when, share, by, of, list, column } = options;
  const isOfIds = (add !== undefined || drop !== undefined) && !isNew;
  if (isOfIds) return () => ({ change: "ids", cohort, add, drop });
  return () => ({ change: "cohort", cohort, isNew, file, about, when, share, by, of, ids: add, list, column });
}

function flagChange(flag: string, options: SetCommand): (work: EditSession) => Change | Promise<Change> {
  const { newFlag, example, dropExample, safe, variants, file, about, owner, lifespan, reviewBy } = options;
  if (newFlag) {
    if (safe === undefined) throw new UsageError("A flag needs a value that does no harm.", "add --safe and the value");
    return () => ({ change: "new-flag", flag, safe, variants, file, about, owner, lifespan, reviewBy });
  }
  if (dropExample !== undefined) return () => ({ change: "example", flag, dropExample: Number(dropExample) });
  if (example) return (work) => exampleChange(flag, example, options, work);
  const place = options.place === undefined ? undefined : Number(options.place);
  return () => ({ ...settings(options), change: "flag", flag, environment: options.env, place });
}

/** What is set of a flag, without what the command itself goes by. */
function settings(options: SetCommand) {
  const { like, rule, when, share, give, split, otherwise, safe, provided, newRule, remove } = options;
  const { about, owner, lifespan, reviewBy } = options;
  return {
    like,
    rule,
    when,
    share,
    give,
    split,
    otherwise,
    safe,
    provided,
    newRule,
    remove,
    about,
    owner,
    lifespan,
    reviewBy,
  };
}

async function exampleChange(
  flag: string,
  pairs: readonly string[],
  { env: environment, exampleAt: at, gives }: SetCommand,
  { loaded: { definitions } }: EditSession,
): Promise<Change> {
  if (!definitions) throw new UsageError("The definitions cannot be used as they are.", "mend them first: iudex check");
  const { context, unreadable, unread } = await givenContext(pairs, definitions);
  if (unreadable.length > 0) throw new UsageError(`${unreadable[0]} is not of the attribute's type.`);
  if (unread.length > 0) throw new UsageError(unread[0]!);
  return { change: "example", flag, as: context, at, environment, gives };
}
