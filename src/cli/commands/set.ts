import { type Command, Option } from "commander";
import { type Change, type ChangeField, changeFields, type EditSession, makeChange } from "../../edit/index.ts";
import { findCodeNames } from "../../study/index.ts";
import { printable } from "../../values/index.ts";
import { atOption, type Cli, peopleOption } from "../cli.ts";
import { givenContext } from "../context.ts";
import { carryOut, type EditOptions } from "../edit.ts";
import { count, type ExitCode, type Output, UsageError } from "../output.ts";

interface SetCommand extends EditOptions {
  readonly newFlag?: boolean;
  readonly removeFlag?: boolean;
  readonly example?: readonly string[];
  readonly code?: string;
  /** Fields of a change, by the names of their options. */
  readonly [option: string]: unknown;
}

export function addSet(command: Command, cli: Cli): void {
  command.option("--new-flag", "a new flag, with --safe and what else is given");
  command.option("--remove-flag", "remove the flag; refused while anything names it");
  addOptions(command, "flag", "new-flag", "rename", "copy");
  command.option("--example <pairs...>", "somebody of whom this must stay true, as account.id=A-17; with --gives");
  addOptions(command, "example", "cohort", "ids");
  command
    .option("--code <folder>", "with --rename or --remove-flag: the code in which the flag is looked for")
    .option(...peopleOption)
    .option(...atOption)
    .option("--yes", "do not ask")
    .option("--note <text>", "why; kept in the commit")
    .option("--commit", "commit the change")
    .action(async (what: string, options) => cli.finish(await set(what, options, cli.output)));
}

/** The options of these kinds of change, each once. */
function addOptions(command: Command, ...kinds: readonly Change["change"][]): void {
  for (const kind of kinds)
    for (const { option } of fieldsOf(kind)) {
      if (option && !command.options.some(({ flags }) => flags === option[0])) command.option(...option);
    }
}

function fieldsOf(kind: Change["change"]): readonly (ChangeField & { readonly name: string })[] {
  return Object.entries(changeFields[kind]).map(([name, field]) => ({ name, ...(field as ChangeField) }));
}

/** A change of this kind with the fields whose options are given. */
function changeFrom(kind: Change["change"], subject: object, options: SetCommand): Change {
  const change: Record<string, unknown> = { change: kind, ...subject };
  for (const { name, is, needed, option } of fieldsOf(kind)) {
    const value = option && options[attributeOf(option[0])];
    if (value !== undefined) change[name] = is === "number" ? wholeNumber(String(value), option![0]) : value;
    else if (needed && option)
      throw new UsageError("A flag needs a value that does no harm.", "add --safe and the value");
  }
  return change as unknown as Change;
}

/** `reviewBy` for `--review-by <day>`. */
function attributeOf(flags: string): string {
  return new Option(flags).attributeName();
}

function wholeNumber(text: string, flags: string): number {
  if (/^[1-9]\d{0,8}$/.test(text)) return Number(text);
  throw new UsageError(`“${text}” is not a number from 1.`, `write ${flags.replace("<n>", "2")}`);
}

async function set(what: string, options: SetCommand, output: Output): Promise<ExitCode> {
  if (options.note !== undefined && !options.commit) {
    throw new UsageError("The note on such a change is kept in its commit.", "add --commit, or leave --note out");
  }
  const isCohort = what.startsWith("cohort:");
  if (!isCohort && (options["addId"] || options["dropId"]))
    throw new UsageError("Ids belong to a cohort.", "write iudex set cohort:NAME --add-id A-1003");
  const changeOf = isCohort ? cohortChange(what.slice("cohort:".length), options) : flagChange(what, options);
  const change = async (work: EditSession) => makeChange(await changeOf(work), work);
  return carryOut(
    change,
    {
      ...options,
      remarks: await codeRemarks(what, options),
      title: `${what} ${options.newFlag || options["newCohort"] ? "made" : "set"}`,
    },
    output,
  );
}

/** A name that goes is looked for in the code, which asks for it by a text. */
async function codeRemarks(flag: string, { code, removeFlag, rename }: SetCommand): Promise<readonly string[]> {
  if (!removeFlag && rename === undefined) return [];
  if (code === undefined)
    return [`Code that asks for ${flag} gets its fallback then. Add --code and a folder to see where.`];
  const { named, files } = await findCodeNames(code, new Set([flag]));
  const places = named.get(flag) ?? [];
  const looked = `${count(files, "file")} in “${code}”`;
  if (places.length === 0) return [`The code does not name ${flag}: looked through ${looked}.`];
  const shown = places.slice(0, 20).map(({ file, line, column }) => `\n  ${printable(file)}:${line}:${column}`);
  const more = places.length > 20 ? `\n  and ${places.length - 20} more` : "";
  return [`The code names ${flag}, and gets its fallback then:${shown.join("")}${more}`];
}

function cohortChange(cohort: string, options: SetCommand): () => Change {
  const isOfIds = (options["addId"] !== undefined || options["dropId"] !== undefined) && !options["newCohort"];
  return () => changeFrom(isOfIds ? "ids" : "cohort", { cohort }, options);
}

function flagChange(flag: string, options: SetCommand): (work: EditSession) => Change | Promise<Change> {
  const { newFlag, removeFlag, example } = options;
  if (example) return (work) => exampleChange(flag, example, options, work);
  const kind = (["rename", "copy"] as const).find((each) => options[each] !== undefined);
  const isDrop = options["dropExample"] !== undefined;
  const chosen = newFlag ? "new-flag" : removeFlag ? "remove-flag" : isDrop ? "example" : (kind ?? "flag");
  const change = changeFrom(chosen, { flag }, options);
  if (removeFlag || kind) mustBeAlone(chosen, removeFlag ? "--remove-flag" : `--${kind}`, options);
  return () => change;
}

/** What else is said beside it would go by unheard. */
function mustBeAlone(kind: Change["change"], option: string, options: SetCommand): void {
  const own = fieldsOf(kind).map((field) => field.option?.[0]);
  const all = (Object.keys(changeFields) as Change["change"][])
    .flatMap(fieldsOf)
    .flatMap((field) => field.option?.[0] ?? []);
  const other = all.find((flags) => !own.includes(flags) && options[attributeOf(flags)] !== undefined);
  if (other !== undefined)
    throw new UsageError(`${other.split(" ")[0]} does not go with ${option}.`, "make one change after the other");
}

async function exampleChange(
  flag: string,
  pairs: readonly string[],
  options: SetCommand,
  { loaded: { definitions } }: EditSession,
): Promise<Change> {
  if (!definitions) throw new UsageError("The definitions cannot be used as they are.", "mend them first: iudex check");
  const { context, unreadable, unread } = await givenContext(pairs, definitions);
  if (unreadable.length > 0) throw new UsageError(`${unreadable[0]} is not of the attribute's type.`);
  if (unread.length > 0) throw new UsageError(unread[0]!);
  return changeFrom("example", { flag, as: context }, options);
}
