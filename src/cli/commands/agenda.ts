import type { Command } from "commander";
import { showInstant } from "../../calendar/index.ts";
import { wrap } from "../../files/index.ts";
import { type AgendaEntry, agendaOf } from "../../insight/index.ts";
import { agendaCalendar } from "../../study/index.ts";
import { printable } from "../../values/index.ts";
import { atOption, type Cli } from "../cli.ts";
import { type FolderOptions, knownEnvironment, openFolder } from "../folder.ts";
import { instantOf } from "../instant.ts";
import { count, type ExitCode, explanationPaint, json, type Output, UsageError } from "../output.ts";

export interface AgendaCommand extends FolderOptions {
  readonly at?: string;
  readonly ics?: boolean;
  readonly json?: boolean;
}

export function addAgenda(command: Command, cli: Cli): void {
  command
    .option("--env <name>", "one environment; all of them if left out")
    .option(...atOption)
    .option("--ics", "answer as an iCalendar file")
    .action(async (options) => cli.finish(await agenda(options, cli.output)));
}

/** The dated changes to come, in order. */
async function agenda(options: AgendaCommand, output: Output): Promise<ExitCode> {
  if (options.json && options.ics) throw new UsageError("One answer at a time.", "write --json or --ics");
  const opened = await openFolder(options, output);
  if (!opened) return 1;
  const { definitions } = opened;
  const environment = knownEnvironment(definitions, options.env);
  const from = instantOf(options.at);
  const entries = agendaOf(definitions, { from, environment });
  if (options.ics) output.out(await agendaCalendar(entries, from));
  else if (options.json) {
    const dated = entries.map((entry) => ({ ...entry, at: new Date(entry.at).toISOString() }));
    output.out(json({ from: new Date(from).toISOString(), revision: definitions.revision, entries: dated }));
  } else output.out(rendered(entries, from, output));
  return 0;
}

function rendered(entries: readonly AgendaEntry[], from: number, { colour }: Output): string {
  const paint = explanationPaint(colour);
  if (entries.length === 0) return "Nothing will change by itself.\n";
  const lines = entries.map((entry) => {
    const when =
      entry.kind === "review" ? new Date(entry.at).toISOString().slice(0, 10) : showInstant(entry.at, entry.zone);
    const [first = "", ...rest] = wrap(printable(words(entry)), "");
    const head = `${paint.open(when)}  ${paint.faint(distance(entry.at - from))}`;
    return [head, `  ${paint.strong(printable(entry.name))} ${first}`, ...rest.map((line) => `    ${line}`)].join("\n");
  });
  return `${lines.join("\n\n")}\n\n${paint.faint(`${count(entries.length, "change")} to come after ${showInstant(from, undefined)}`)}\n`;
}

function words({ words: said, environments, flags, recurs }: AgendaEntry): string {
  const where = environments ? ` in ${environments.join(", ")}` : "";
  const touches = flags.length > 0 ? `; ${flags.join(", ")} ${flags.length === 1 ? "goes" : "go"} by it` : "";
  return `${said}${where}${touches}${recurs ? ` (next change only; hours ${recurs})` : ""}`;
}

/** `in 3 days`, `in 5 hours`. */
function distance(milliseconds: number): string {
  const minutes = Math.round(milliseconds / 60_000);
  if (minutes < 0) return "today";
  if (minutes < 120) return `in ${count(minutes, "minute")}`;
  const hours = Math.round(minutes / 60);
  return hours < 48 ? `in ${count(hours, "hour")}` : `in ${count(Math.round(hours / 24), "day")}`;
}
