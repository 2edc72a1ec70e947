import { userInfo } from "node:os";
import type { Command } from "commander";
import { NothingToChange, type Published, type PublishPlan, type PublishRequest } from "../edit/index.ts";
import { renderProblems } from "../files/index.ts";
import type { PartChange } from "../insight/index.ts";
import type { PublishKey } from "../shelf/index.ts";
import { printable, sentenceList } from "../values/index.ts";
import { renderChanges, renderReach } from "./changes.ts";
import { allowed, type EnvironmentReach, reachOf } from "./edit.ts";
import { instantOf } from "./instant.ts";
import { keyFrom, keySetFrom } from "./key.ts";
import {
  count,
  type ExitCode,
  explanationPaint,
  json,
  number,
  type Output,
  problemPaint,
  UsageError,
} from "./output.ts";
import { keysOption, setOption } from "./shelf.ts";

export const keyVariable = "IUDEX_PUBLISH_KEY";
export const keyOption = [
  "--key <file>",
  `the private JSON Web Key to sign with; else the one in ${keyVariable}`,
] as const;

/** Options of the commands that put an edition on a shelf. */
export interface PublishingOptions {
  readonly key?: string | undefined;
  readonly keys?: string | undefined;
  readonly set?: string | undefined;
  readonly by?: string | undefined;
  readonly note?: string | undefined;
  readonly people?: string | undefined;
  readonly env?: string | undefined;
  readonly at?: string | undefined;
  readonly above?: string | undefined;
  readonly despiteUnverified?: boolean | undefined;
  readonly despiteStops?: boolean | undefined;
  readonly unsigned?: boolean | undefined;
  readonly trial?: boolean | undefined;
  readonly keep?: string | undefined;
  readonly yes?: boolean | undefined;
  readonly json?: boolean | undefined;
}

/** Works an edition out, shows what it changes and whom that reaches, asks, and puts it on the shelf. */
export async function putOnShelf(
  called: string,
  options: PublishingOptions,
  output: Output,
  publish: (request: PublishRequest) => Promise<Published>,
): Promise<ExitCode> {
  const at = instantOf(options.at);
  let reach: readonly EnvironmentReach[] | undefined;
  const request: PublishRequest = {
    by: options.by ?? userInfo().username,
    note: options.note,
    despiteStops: options.despiteStops,
    keep: options.keep === undefined ? undefined : wholeNumber(options.keep, "--keep"),
    ...(await signingOf(options)),
    at,
    confirm: async (plan) => {
      reach = await reachOf(plan, options, at, output);
      if (!options.json) output.out(shown(plan, reach, options, called, output));
      return options.trial || allowed(options, output, "Publish this?", "published");
    },
  };
  try {
    const { plan, edition, removed } = await publish(request);
    if (plan.refused.length > 0) return refuse(plan, options, output);
    if (options.json)
      output.out(
        json({ ...answer(plan, reach), published: edition !== undefined && !options.trial, edition, removed }),
      );
    else if (edition && options.trial) output.out(`${wouldBe(`edition ${edition.number} of ${edition.set}`)}\n`);
    else if (edition)
      output.out(`Published as edition ${edition.number} of ${edition.set}${request.key ? "" : ", unsigned"}.\n`);
    else output.out("Nothing was published.\n");
    if (edition && options.keep !== undefined && !options.json && !options.trial) output.out(`${tidiedUp(removed)}\n`);
    return edition ? 0 : 1;
  } catch (error) {
    return nothingPut(error, options, output);
  }
}

function tidiedUp(removed: number | undefined): string {
  if (removed === undefined)
    return "No file was removed: the shelf refused, or the list of a kept edition cannot be read.";
  return removed === 0 ? "No file was removed." : `Removed ${count(removed, "file")} that no kept edition names.`;
}

/** That there was nothing to put on the shelf is an answer; anything else is not. */
export function nothingPut(error: unknown, options: Pick<PublishingOptions, "json">, output: Output): ExitCode {
  if (!(error instanceof NothingToChange)) throw error;
  const { message } = error;
  output.out(options.json ? json({ published: false, changes: [], message }) : `${message}\n`);
  return 0;
}

/** Signs and verifies what every command that puts something on a shelf signs. */
export async function signingOf(
  options: Pick<PublishingOptions, "key" | "keys" | "set" | "above" | "despiteUnverified" | "unsigned" | "trial">,
) {
  const { set, above, despiteUnverified, unsigned, trial } = options;
  return {
    key: (await keyFrom(options.key, keyVariable)) as PublishKey | undefined,
    keys: await keySetFrom(options.keys),
    set,
    above: above === undefined ? undefined : wholeNumber(above, "--above"),
    despiteUnverified,
    unsigned,
    trial,
  };
}

/** The options for what is unusual. */
export function addSigningOptions(command: Command): Command {
  return command
    .option(...keyOption)
    .option(...keysOption)
    .option(...setOption)
    .option("--above <number>", "take a number above this one, for a shelf that was lost")
    .option("--despite-unverified", "go over what stands there and cannot be verified")
    .option("--unsigned", "put out what followers with keys refuse")
    .option("--trial", "go through everything, and write nothing");
}

/** What a trial says at its end. */
export function wouldBe(what: string): string {
  return `Nothing was written: this was a trial. It would be ${what}.`;
}

export function wholeNumber(text: string, option: string): number {
  if (/^[1-9]\d{0,14}$/.test(text)) return Number(text);
  throw new UsageError(`“${text}” is not a whole number above 0.`, `write ${option} 7`);
}

function shown(
  plan: PublishPlan,
  reach: readonly EnvironmentReach[] = [],
  options: PublishingOptions,
  called: string,
  output: Output,
): string {
  const paint = explanationPaint(output.colour);
  const { all, fresh, freshBytes } = plan.files;
  const files = `${count(all, "file")}, ${number(fresh)} new (${size(freshBytes)})`;
  const head = paint.faint(`edition ${plan.number} of ${plan.set} for ${called}: ${files}`);
  const meaning = plan.before ? renderMeaning(plan.changes, output) : firstEdition(plan.changes);
  const reached = reach.map((each) =>
    renderReach(each, { file: options.people!, environment: each.environment }, output),
  );
  return [printable(head), meaning, ...reached, ...plan.remarks, ""].join("\n\n");
}

/** What an edition changes; the first one brings everything, which is counted. */
export function renderMeaning(changes: readonly PartChange[], output: Output): string {
  return changes.length === 0 ? "Nothing changes in what the definitions mean." : renderChanges(changes, output);
}

export function firstEdition(changes: readonly PartChange[]): string {
  const of = (part: PartChange["part"], plural?: string) => {
    const n = changes.filter((change) => change.part === part).length;
    return n === 0 ? [] : [count(n, part, plural)];
  };
  const parts = [...of("flag"), ...of("cohort"), ...of("window"), ...of("environment"), ...of("suspension")];
  return `The first edition: ${sentenceList(parts)}.`;
}

function size(bytes: number): string {
  return bytes < 100_000 ? `${(bytes / 1_000).toFixed(1)} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`;
}

function refuse(plan: PublishPlan, options: PublishingOptions, output: Output): ExitCode {
  if (options.json) {
    output.out(json({ ...answer(plan, undefined), published: false, refused: plan.refused }));
    return 1;
  }
  const rendered = renderProblems(plan.refused, {
    text: (file) => plan.textOf(file),
    paint: problemPaint(output.colour),
  });
  output.err(`${rendered}\n\nNothing was published: iudex check refuses it, ${count(plan.refused.length, "error")}.\n`);
  return 1;
}

function answer(
  { set, number, before, after, changes, files }: PublishPlan,
  reach: readonly EnvironmentReach[] | undefined,
) {
  return { set, number, from: before?.revision, to: after?.revision, changes, files, ...(reach ? { reach } : {}) };
}
