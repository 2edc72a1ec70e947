import type { Command } from "commander";
import { type Leftover, leftoversOf } from "../../insight/index.ts";
import { type CodeNames, findCodeNames } from "../../study/index.ts";
import { printable, sentenceList, show } from "../../values/index.ts";
import { atOption, type Cli } from "../cli.ts";
import { type FolderOptions, openFolder } from "../folder.ts";
import { instantOf } from "../instant.ts";
import { count, type ExitCode, explanationPaint, json, type Output, shownPath, UsageError } from "../output.ts";

export interface LeftoversCommand extends FolderOptions {
  readonly code?: string;
  readonly at?: string;
  readonly json?: boolean;
}

export function addLeftovers(command: Command, cli: Cli): void {
  command
    .option("--code <folder>", "TypeScript and JavaScript to look through for the names of flags")
    .option(...atOption)
    .action(async (options) => cli.finish(await leftovers(options, cli.output)));
}

async function leftovers(options: LeftoversCommand, output: Output): Promise<ExitCode> {
  const opened = await openFolder(options, output);
  if (!opened) return 1;
  const { definitions } = opened;
  const code =
    options.code === undefined ? undefined : await findCodeNames(options.code, new Set(definitions.flags.keys()));
  if (code?.files === 0)
    throw new UsageError(`There is no TypeScript or JavaScript in “${options.code}”.`, "name the folder of the code");
  const at = instantOf(options.at);
  const found = leftoversOf(definitions, { at, namedInCode: code && new Set(code.named.keys()) });
  if (options.json) output.out(json(answer(found, code, at)));
  else output.out(rendered(found, code, options.code, output));
  return found.length > 0 || (code?.unknown.size ?? 0) > 0 ? 1 : 0;
}

function answer(leftovers: readonly Leftover[], code: CodeNames | undefined, at: number): object {
  const withPlaces = leftovers.map((each) => ({ ...each, namedAt: code?.named.get(each.flag) ?? [] }));
  return {
    at: new Date(at).toISOString(),
    leftovers: withPlaces,
    ...(code
      ? {
          unknown: [...code.unknown].map(([name, places]) => ({ name, places })),
          unreadable: code.unreadable,
        }
      : {}),
  };
}

function rendered(
  leftovers: readonly Leftover[],
  code: CodeNames | undefined,
  folder: string | undefined,
  { colour }: Output,
): string {
  const paint = explanationPaint(colour);
  const blocks = leftovers.map((each) => {
    const owner = each.owner === undefined ? "" : `  ${paint.faint(printable(each.owner))}`;
    const places = code?.named.get(each.flag) ?? [];
    return [`${paint.strong(each.flag)}${owner}`, ...reasons(each), ...placeLines(places)].join("\n");
  });
  for (const [name, places] of code?.unknown ?? []) {
    blocks.push(
      [`${paint.no(printable(name))}  the code names it, and nobody defines it`, ...placeLines(places)].join("\n"),
    );
  }
  for (const { file, message } of code?.unreadable ?? [])
    blocks.push(`${printable(file)} could not be read: ${printable(message)}`);
  const looked = code ? `; looked through ${count(code.files, "file")} in “${shownPath(folder ?? "")}”` : "";
  const foot = `${leftovers.length === 0 ? "No flag is left over" : `${count(leftovers.length, "flag")} can be looked at`}${looked}.`;
  return `${[...blocks, foot].join("\n\n")}\n`;
}

function reasons({ reasons: why, reviewBy, decided, decidedWith = [] }: Leftover): string[] {
  const whom = decidedWith.length === 0 ? "everyone" : `everyone who has ${sentenceList(decidedWith)}`;
  const words = {
    "past-review": `was to be reviewed by ${reviewBy}`,
    decided: `gives ${printable(show(decided))} to ${whom}, in every environment`,
    "not-in-code": "is not named in the code",
  };
  return why.map((reason) => `  ${words[reason]}`);
}

function placeLines(places: readonly { file: string; line: number; column: number }[]): string[] {
  const shown = places.slice(0, 5).map(({ file, line, column }) => `    ${printable(file)}:${line}:${column}`);
  return places.length > 5 ? [...shown, `    and ${places.length - 5} more`] : shown;
}
