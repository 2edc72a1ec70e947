import type { Command } from "commander";
import { historyOfShelf, type ShelfEntry } from "../../edit/index.ts";
import type { RefusedEdition } from "../../flags/index.ts";
import type { Shelf } from "../../follow/index.ts";
import { endOf, isSilent, isUpToDate, type Noted, type Numbers, type ShelfStops } from "../../shelf/index.ts";
import { printable } from "../../values/index.ts";
import type { Cli } from "../cli.ts";
import { keySetFrom } from "../key.ts";
import { count, type ExitCode, explanationPaint, json, type Output, table, UsageError } from "../output.ts";
import { firstEdition, renderMeaning, wholeNumber } from "../publishing.ts";
import { keysOption, type ShelfCommandOptions, setOption, withShelf } from "../shelf.ts";
import { render as renderStops } from "./stops.ts";

export interface ShelfCommand extends ShelfCommandOptions {
  readonly most: string;
  readonly keys?: string;
  readonly until?: string;
  readonly within: string;
  readonly forget?: string;
  readonly json?: boolean;
}

/** How often the list of followers is looked at while somebody is waited for, in milliseconds. */
const lookEvery = 300;

export function addShelf(command: Command, cli: Cli): void {
  command
    .option(...setOption)
    .option(...keysOption)
    .option("--most <n>", "at most so many editions", "5")
    .option("--until <number>", "wait until everybody who follows has this edition, or a later one")
    .option("--within <seconds>", "how long to wait for that", "30")
    .option("--forget <name>", "forget a process that will not come back, by its name in the list")
    .action(async (shelf: string, options) => cli.finish(await look(shelf, options, cli.output)));
}

/** What stands on a shelf, what is stopped there, and who follows it. */
function look(text: string, options: ShelfCommand, output: Output): Promise<ExitCode> {
  const most = wholeNumber(options.most, "--most");
  return withShelf(text, options, output, async (shelf) => {
    const keys = await keySetFrom(options.keys);
    if (options.forget !== undefined) await forget(shelf, options.forget);
    const entries: ShelfEntry[] = [];
    for await (const entry of historyOfShelf(shelf, { most, keys })) entries.push(entry);
    const stops = await shelf.stops(keys);
    const newest = entries[0]?.edition.number ?? 0;
    const edition = options.until === undefined ? newest : wholeNumber(options.until, "--until");
    const wanted = { edition, stops: stops?.number ?? 0 };
    const followers = await (options.until === undefined ? shelf.followers() : awaited(shelf, wanted, options));
    const present = presenceOf(followers ?? [], wanted);
    const warnings = keysEndingSoon(keys);
    if (options.json) output.out(json(answer(shelf.called, entries, stops, followers, present)));
    else {
      const parts = [
        renderEntries(shelf.called, entries, output),
        ...(stops && stops.suspended.size > 0 ? [renderStops(shelf.called, stops, output)] : []),
        renderFollowers(followers, present, output),
        ...warnings,
      ];
      output.out(`${parts.join("\n\n")}\n`);
    }
    return options.until === undefined ? 0 : exitCodeOf(present);
  });
}

/** Who has an edition and the stops, by what they say of themselves. */
interface Present {
  readonly there: readonly Noted[];
  readonly behind: readonly Noted[];
  readonly silent: readonly Noted[];
}

function presenceOf(followers: readonly Noted[], wanted: Numbers): Present {
  const speaking = followers.filter((each) => !isSilent(each));
  return {
    there: speaking.filter((each) => isUpToDate(each, wanted)),
    behind: speaking.filter((each) => !isUpToDate(each, wanted)),
    silent: followers.filter((each) => isSilent(each)),
  };
}

/** 0: everybody who was ever noted has it; 1: somebody is behind, or nobody is known; 3: some have not been heard of. */
function exitCodeOf({ there, behind, silent }: Present): ExitCode {
  if (behind.length > 0 || there.length + silent.length === 0) return 1;
  return silent.length > 0 ? 3 : 0;
}

async function awaited(shelf: Shelf, wanted: Numbers, options: ShelfCommand): Promise<readonly Noted[] | undefined> {
  const seconds = Number(options.within);
  if (!(seconds >= 0 && seconds <= 86_400))
    throw new UsageError(`“${options.within}” is not a time to wait.`, "write --within 30");
  const until = performance.now() + seconds * 1_000;
  for (;;) {
    const followers = await shelf.followers();
    if (!followers)
      throw new UsageError(
        `${shelf.called} has no list of followers: only shelves in Redis and PostgreSQL do.`,
        "leave --until out, or ask the followers themselves (the gauge iudex.edition)",
      );
    if (exitCodeOf(presenceOf(followers, wanted)) === 0 || performance.now() >= until) return followers;
    await new Promise((resolve) => setTimeout(resolve, lookEvery));
  }
}

async function forget(shelf: Shelf, name: string): Promise<void> {
  const gone = (await shelf.followers())?.filter((each) => each.name === name || each.id === name) ?? [];
  if (gone.length === 0) throw new UsageError(`No process called “${name}” is noted.`, "iudex shelf lists them");
  await shelf.forget(gone);
}

/** A key is exchanged in time: at its end its editions are refused, and its stops can add and not end. */
const week = 7 * 86_400_000;

function keysEndingSoon(keys: { readonly keys: readonly object[] } | undefined): string[] {
  return (keys?.keys ?? []).flatMap((key) => {
    const end = endOf(key);
    if (end === undefined || end > Date.now() + week) return [];
    const kid = printable(String((key as { kid?: unknown }).kid));
    const when = new Date(end).toISOString().slice(0, 16).replace("T", " ");
    return [
      `The key “${kid}” ${end <= Date.now() ? "ended" : "ends"} ${when}Z: sign with another one in time (iudex stops --again).`,
    ];
  });
}

function answer(
  shelf: string,
  entries: readonly ShelfEntry[],
  stops: ShelfStops | undefined,
  followers: readonly Noted[] | undefined,
  { behind, silent }: Present,
): object {
  return {
    shelf,
    editions: entries.map(entryOf),
    stops: stops?.number ?? 0,
    stopped: [...(stops?.suspended.keys() ?? [])],
    followers,
    behind: behind.map(({ id }) => id),
    silent: silent.map(({ id }) => id),
  };
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

function renderFollowers(followers: readonly Noted[] | undefined, present: Present, output: Output): string {
  const paint = explanationPaint(output.colour);
  if (!followers) return "Who follows it is not known: only shelves in Redis and PostgreSQL have a list of followers.";
  if (followers.length === 0) return "Nobody is known to follow it.";
  const { behind, silent } = present;
  const who = count(followers.length, "process follows it", "processes follow it");
  const counts = [
    ...(behind.length > 0 ? [paint.no(`${behind.length} behind`)] : []),
    ...(silent.length > 0 ? [paint.no(`${silent.length} not heard of for a minute`)] : []),
  ];
  const head = `${who} by what they say, ${counts.length === 0 ? paint.yes("all of them up to date") : counts.join(", ")}.`;
  const rows = table(followers.map((each) => rowOf(each)));
  const lines = followers.map((each, i) => {
    const isUpToDate = present.there.includes(each);
    const row = isUpToDate ? rows[i]! : paint.no(rows[i]!);
    return `  ${row}${each.refused ? `\n    refused ${refusalOf(each.refused)}` : ""}`;
  });
  return [head, ...lines].join("\n");
}

function refusalOf({ edition, why }: RefusedEdition): string {
  return `${edition === undefined ? "the newest edition" : `edition ${edition}`}: ${printable(why)}`;
}

function rowOf({ name, host, process, environment = "", edition, stops, since, goneBack, silent }: Noted): string[] {
  const clock = `since ${since.slice(0, 19).replace("T", " ")}Z`;
  const gives = goneBack ? `gone back from ${edition}` : `edition ${edition}`;
  const heard = isSilent({ silent } as Noted) ? `heard of ${Math.round(silent / 60_000)} min ago` : "";
  return [name, host, String(process), environment, gives, `stops ${stops}`, clock, heard].map(printable);
}
