import type { Command } from "commander";
import { showInstant } from "../../calendar/index.ts";
import { localOverridesFile, readLocalOverrides, whereListed } from "../../files/index.ts";
import { localOverrides } from "../../flags/index.ts";
import {
  type Explanation,
  explain,
  explainCondition,
  formatCondition,
  formatExplanation,
} from "../../insight/index.ts";
import type { FlagSet, Overrides } from "../../judge/index.ts";
import { type Definitions, shortRevision } from "../../model/index.ts";
import type { Problem } from "../../problems/index.ts";
import { didYouMean, isName, noSuch, printable } from "../../values/index.ts";
import { atOption, type Cli, envOption } from "../cli.ts";
import { type GivenContext, givenContext } from "../context.ts";
import { type FolderOptions, type OpenedFolder, openFolder, setFor } from "../folder.ts";
import { instantOf } from "../instant.ts";
import { type ExitCode, explanationPaint, json, type Output, UsageError } from "../output.ts";

export interface WhyOptions extends FolderOptions {
  readonly as?: readonly string[];
  readonly at?: string;
  readonly json?: boolean;
  readonly reveal?: boolean;
}

interface Asked {
  readonly set: FlagSet;
  readonly given: GivenContext;
  /** Epoch milliseconds. */
  readonly at: number;
  readonly whereListed: ReturnType<typeof whereListed>;
  readonly reveal: boolean;
  /** Those of the local file, where the environment lets them count. */
  readonly overrides: Overrides | undefined;
}

export function addWhy(command: Command, cli: Cli): void {
  command
    .option(...envOption)
    .option("--as <pairs...>", "the context: pairs such as account.id=A-17, or one JSON or YAML file")
    .option(...atOption)
    .option("--reveal", "tell the positions and list lines of private ids too")
    .action(async (what: string, options) => cli.finish(await why(what, options, cli.output)));
}

/** Which answer, and why: of a flag, or of any condition text (`cohort:crew` and `window:winter` are ones). */
async function why(what: string, options: WhyOptions, output: Output): Promise<ExitCode> {
  const opened = await openFolder(options, output);
  if (!opened) return 1;
  const { definitions } = opened;
  const asked: Asked = {
    set: setFor(definitions, options.env),
    given: await givenContext(options.as ?? [], definitions),
    at: instantOf(options.at),
    whereListed: whereListed(opened.loaded),
    reveal: options.reveal === true,
    overrides: await overridesOf(opened, options.env),
  };
  const explanation = explain(asked.set, what, asked.given.context, asked);
  if (explanation) tellOfFlag(explanation, asked, definitions, options, output);
  else tellOfCondition(what, asked, definitions, options, output);
  for (const remark of asked.given.unread) output.err(`${printable(remark)}\n`);
  for (const pair of asked.given.unreadable) {
    output.err(`${printable(pair)} is not of the attribute's type, so it counts as missing.\n`);
  }
  return 0;
}

async function overridesOf(
  { loaded, definitions }: OpenedFolder,
  env: string | undefined,
): Promise<Overrides | undefined> {
  const count = env !== undefined && definitions.environments.get(env)?.source["local-overrides"] === true;
  const { values } = await readLocalOverrides(
    count ? loaded.content.source.entries.get(localOverridesFile) : undefined,
  );
  if (values === undefined || values.size === 0) return undefined;
  return { code: undefined, layers: localOverrides(values, definitions).outcomes };
}

function tellOfFlag(
  explanation: Explanation,
  { given }: Asked,
  definitions: Definitions,
  options: WhyOptions,
  output: Output,
): void {
  if (options.json) return output.out(json({ ...explanation, unreadable: given.unreadable }));
  const zone = definitions.flags.get(explanation.flag)?.defaults.zone;
  output.out(`${formatExplanation(explanation, { zone, paint: explanationPaint(output.colour) })}\n`);
}

function tellOfCondition(
  text: string,
  asked: Asked,
  definitions: Definitions,
  options: WhyOptions,
  output: Output,
): void {
  const { set, given, at } = asked;
  refuseLikelyFlag(text, given, definitions);
  const { explanation, problems } = explainCondition(set, text, given.context, asked);
  if (!explanation) throw notToBeAsked(text, problems);
  if (options.json) return output.out(json({ ...explanation, unreadable: given.unreadable }));
  const paint = explanationPaint(output.colour);
  const { answer, revision, trace } = explanation;
  const circumstances = [
    set.environment && `environment ${set.environment}`,
    showInstant(at, undefined),
    `revision ${shortRevision(revision)}`,
  ];
  output.out(
    `${paint.strong(`The answer is ${answer}.`)}\n${paint.faint(circumstances.filter(Boolean).join(" · "))}\n\n`,
  );
  output.out(`${formatCondition(trace, { paint })}\n`);
}

/** A single word that is like a flag's name was meant as one, unless it is an attribute that is declared or given. */
function refuseLikelyFlag(text: string, { context }: GivenContext, { flags, attributes }: Definitions): void {
  if (!isName(text) || attributes.has(text) || Object.hasOwn(context, text)) return;
  const help = didYouMean(text, flags.keys());
  if (help) throw new UsageError(noSuch("flag", text), help);
}

function notToBeAsked(text: string, problems: readonly Problem[]): UsageError {
  const [first] = problems;
  const span = first?.place.span;
  const mark = span
    ? `\n  ${printable(text)}\n  ${" ".repeat(span.start)}${"^".repeat(Math.max(1, span.end - span.start))}`
    : "";
  return new UsageError(
    `This is not a flag, and no condition that can be asked: ${first?.message}${mark}`,
    first?.help ?? first?.expected,
  );
}
