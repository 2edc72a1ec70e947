import { readFile } from "node:fs/promises";
import type { Command } from "commander";
import { signStopsAgain } from "../../edit/index.ts";
import { whereStopped } from "../../insight/index.ts";
import type { Stop } from "../../model/index.ts";
import { writtenStop } from "../../model/index.ts";
import type { ShelfStops } from "../../shelf/index.ts";
import { printable } from "../../values/index.ts";
import type { Cli } from "../cli.ts";
import { keySetFrom } from "../key.ts";
import { type ExitCode, explanationPaint, json, type Output, UsageError } from "../output.ts";
import { addSigningOptions, type PublishingOptions } from "../publishing.ts";
import { withShelf } from "../shelf.ts";
import { putStopsOnShelf } from "../stopping.ts";

export interface StopsCommand extends PublishingOptions {
  readonly again?: boolean;
  readonly stops?: string;
}

export function addStops(command: Command, cli: Cli): void {
  addSigningOptions(command)
    .option("--again", "sign the stops that stand once more, with another key")
    .option("--stops <file>", "with --again: stops that a follower has kept, for a shelf that was lost")
    .option("--yes", "do not ask")
    .action(async (shelf: string, options: StopsCommand) => cli.finish(await stops(shelf, options, cli.output)));
}

/** What is stopped at a shelf; or those stops, signed once more. */
function stops(text: string, options: StopsCommand, output: Output): Promise<ExitCode> {
  const { again = false, stops: file } = options;
  if (file !== undefined && !again)
    throw new UsageError("--stops brings kept stops back by signing them.", "add --again");
  return withShelf(text, options, output, async (shelf) => {
    if (again) {
      const kept = file === undefined ? undefined : await textOf(file);
      return putStopsOnShelf(shelf.called, options, output, (request) => signStopsAgain(shelf, { ...request, kept }));
    }
    const found = await shelf.stops(await keySetFrom(options.keys));
    output.out(options.json ? json(answer(shelf.called, found)) : `${render(shelf.called, found, output)}\n`);
    return 0;
  });
}

async function textOf(file: string): Promise<string> {
  try {
    return await readFile(file, "utf8");
  } catch {
    throw new UsageError(`“${file}” cannot be read.`, "name a list of stops, or a record of one in lastGood");
  }
}

function answer(shelf: string, found: ShelfStops | undefined): object {
  const suspended = [...(found?.suspended ?? [])].map(([flag, { stops }]) => [flag, stops.map(writtenStop)]);
  return {
    shelf,
    ...(found ? { set: found.set, number: found.number, changed: found.changed } : {}),
    suspended: Object.fromEntries(suspended),
  };
}

/** What is stopped, a line for each stop. */
export function render(called: string, found: ShelfStops | undefined, output: Output): string {
  if (!found || found.suspended.size === 0) return `Nothing is stopped at ${printable(called)}.`;
  const paint = explanationPaint(output.colour);
  const lines = [...found.suspended].flatMap(([flag, { stops }]) =>
    stops.map((stop) => `  ${paint.no(flag)} is stopped${printable(whereStopped(stop))}${paint.faint(made(stop))}`),
  );
  return [`Stopped at ${printable(called)}, list ${found.number}:`, ...lines].join("\n");
}

function made({ since, who, note }: Stop): string {
  const parts = [since && ` since ${since.replace("T", " ")}`, who && ` by ${who}`, note && `: ${note}`];
  return printable(parts.filter(Boolean).join(""));
}
