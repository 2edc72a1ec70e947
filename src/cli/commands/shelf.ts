import type { Command } from "commander";
import { historyOfShelf, type ShelfEntry } from "../../edit/index.ts";
import type { RefusedEdition } from "../../flags/index.ts";
import type { Shelf } from "../../follow/index.ts";
import type { Follower } from "../../shelf/index.ts";
import { printable } from "../../values/index.ts";
import type { Cli } from "../cli.ts";
import { keySetFrom } from "../key.ts";
import { count, type ExitCode, explanationPaint, json, type Output, table, UsageError } from "../output.ts";
import { firstEdition, renderMeaning, wholeNumber } from "../publishing.ts";
import { keysOption, type ShelfCommandOptions, setOption, withShelf } from "../shelf.ts";

export interface ShelfCommand extends ShelfCommandOptions {
  readonly most: string;
  readonly keys?: string;
  readonly until?: string;
  readonly within: string;
  readonly json?: boolean;
}

/** How often the roll-call is looked at while somebody is waited for, in milliseconds. */
const lookEvery = 300;

export function addShelf(command: Command, cli: Cli): void {
  command
    .option(...setOption)
    .option(...keysOption)
    .option("--most <n>", "at most so many editions", "5")
    .option("--until <number>", "wait until everybody who follows has this edition, or a later one")
    .option("--within <seconds>", "how long to wait for that", "30")
    .action(async (shelf: string, options) => cli.finish(await look(shelf, options, cli.output)));
}

/** What stands on a shelf, and who follows it. */
function look(text: string, options: ShelfCommand, output: Output): Promise<ExitCode> {
  const most = wholeNumber(options.most, "--most");
  return withShelf(text, options, output, async (shelf) => {
    const keys = await keySetFrom(options.keys);
    const entries: ShelfEntry[] = [];
    for await (const entry of historyOfShelf(shelf, { most, keys })) entries.push(entry);
    const newest = entries[0]?.edition.number ?? 0;
    const wanted = options.until === undefined ? newest : wholeNumber(options.until, "--until");
    const followers = await (options.until === undefined ? shelf.followers() : awaited(shelf, wanted, options));
    const behind = followers?.filter(({ edition }) => edition < wanted) ?? [];
    if (options.json)
      output.out(
        json({ shelf: shelf.called, editions: entries.map(entryOf), followers, behind: behind.map(({ id }) => id) }),
      );
    else
      output.out(
        `${[renderEntries(shelf.called, entries, output), renderFollowers(followers, wanted, output)].join("\n\n")}\n`,
      );
    return options.until !== undefined && behind.length > 0 ? 1 : 0;
  });
}

async function awaited(shelf: Shelf, wanted: number, options: ShelfCommand): Promise<readonly Follower[] | undefined> {
  const seconds = Number(options.within);
  if (!(seconds >= 0 && seconds <= 86_400))
    throw new UsageError(`“${options.within}” is no time to wait.`, "write --within 30");
  const until = performance.now() + seconds * 1_000;
  for (;;) {
    const followers = await shelf.followers();
    if (!followers) throw new UsageError(`${shelf.called} has no roll-call: it can only be read.`, "leave --until out");
    if (followers.every(({ edition }) => edition >= wanted) || performance.now() >= until) return followers;
    await new Promise((resolve) => setTimeout(resolve, lookEvery));
  }
}

function entryOf({ edition: { files, ...edition }, changes }: ShelfEntry): object {
  return { ...edition, files: files.length, changes };
}

function renderEntries(called: string, entries: readonly ShelfEntry[], output: Output): string {
  const paint = explanationPaint(output.colour);
  const [newest] = entries;
  if (!newest) return `${printable(called)} holds no edition.`;
  const head = `${printable(called)} stands at ${paint.strong(`edition ${newest.edition.number}`)} of ${newest.edition.set}.`;
  return [head, ...entries.map((entry) => renderEntry(entry, output))].join("\n\n");
}

function renderEntry({ edition, changes }: ShelfEntry, output: Output): string {
  const paint = explanationPaint(output.colour);
  const when = edition.published.slice(0, 16).replace("T", " ");
  const head = `${paint.strong(`edition ${edition.number}`)}  ${when}Z  ${printable(edition.by)}`;
  const note = edition.note === "" ? [] : edition.note.split("\n").map((line) => paint.faint(`  ${printable(line)}`));
  return [head, ...note, indented(meaningOf(edition.number, changes, output))].join("\n");
}

function meaningOf(number: number, changes: ShelfEntry["changes"], output: Output): string {
  if (changes === undefined) return "What it changed is not known: the edition before it does not stand any more.";
  return number === 1 ? firstEdition(changes) : renderMeaning(changes, output);
}

function indented(text: string): string {
  return text
    .split("\n")
    .map((line) => `  ${line}`)
    .join("\n");
}

function renderFollowers(followers: readonly Follower[] | undefined, wanted: number, output: Output): string {
  const paint = explanationPaint(output.colour);
  if (!followers) return "Who follows it is not known: only shelves in Redis and PostgreSQL have a roll-call.";
  if (followers.length === 0) return "Nobody follows it.";
  const behind = followers.filter(({ edition }) => edition < wanted);
  const who = count(followers.length, "process follows it", "processes follow it");
  const head =
    behind.length === 0
      ? `${who}, ${paint.yes("all of them up to date")}.`
      : `${who}, ${paint.no(`${behind.length} behind`)}.`;
  const rows = table(followers.map((each) => rowOf(each)));
  const lines = followers.map((each, i) => {
    const row = each.edition < wanted ? paint.no(rows[i]!) : rows[i]!;
    return `  ${row}${each.refused ? `\n    refused ${refusalOf(each.refused)}` : ""}`;
  });
  return [head, ...lines].join("\n");
}

function refusalOf({ edition, why }: RefusedEdition): string {
  return `${edition === undefined ? "the newest edition" : `edition ${edition}`}: ${printable(why)}`;
}

function rowOf({ name, host, process, environment = "", edition, since }: Follower): string[] {
  const clock = `since ${since.slice(0, 19).replace("T", " ")}Z`;
  return [name, host, String(process), environment, `edition ${edition}`, clock].map(printable);
}
