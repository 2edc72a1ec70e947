import type { Command } from "commander";
import { showInstant } from "../../calendar/index.ts";
import { wrap } from "../../files/index.ts";
import type { CauseCount, DivisionCount, ValueCount } from "../../insight/index.ts";
import type { Definitions } from "../../model/index.ts";
import { ruleCalled, shortRevision } from "../../model/index.ts";
import { type PeopleCensus, takeCensus } from "../../study/index.ts";
import { printable, show, shownPercents, showPercent, showRange } from "../../values/index.ts";
import { atOption, type Cli, envOption } from "../cli.ts";
import { type FolderOptions, openFolder, requireFlag, setFor } from "../folder.ts";
import { instantOf } from "../instant.ts";
import {
  count,
  type ExitCode,
  explanationPaint,
  json,
  number,
  type Output,
  percent,
  shownPath,
  table,
} from "../output.ts";
import { readFaults } from "../people-faults.ts";
import { progressLine } from "../progress.ts";

export interface CensusCommand extends FolderOptions {
  readonly people: string;
  readonly at?: string;
  readonly by?: string;
  readonly json?: boolean;
}

export function addCensus(command: Command, cli: Cli): void {
  command
    .requiredOption("--people <file>", "contexts: CSV with a header of paths, or NDJSON")
    .option(...envOption)
    .option(...atOption)
    .option("--by <attribute>", "split the counts by an attribute")
    .action(async (flag: string, options) => cli.finish(await census(flag, options, cli.output)));
}

async function census(flag: string, options: CensusCommand, output: Output): Promise<ExitCode> {
  const opened = await openFolder(options, output);
  if (!opened) return 1;
  const { definitions } = opened;
  requireFlag(definitions, flag);
  const { environment } = setFor(definitions, options.env);
  const progress = progressLine(output);
  const { people, by } = options;
  const request = { flag, people, environment, at: instantOf(options.at), by, progress: progress.see };
  const taken = await takeCensus(definitions, request).finally(progress.done);
  output.out(options.json ? json(taken) : rendered(taken, definitions, people, output));
  return 0;
}

function rendered(census: PeopleCensus, definitions: Definitions, file: string, { colour }: Output): string {
  const paint = explanationPaint(colour);
  const where = census.environment === undefined ? "" : ` in ${census.environment}`;
  const head = `${paint.strong(`${census.flag}${where}`)}: ${count(census.contexts, "context")} from ${shownPath(file)}`;
  const circumstances = `${showInstant(Date.parse(census.at), undefined)} · revision ${shortRevision(census.revision)}`;
  const blocks = [
    [head, paint.faint(circumstances)],
    valueLines(census.values, paint.yes),
    ["What gave it", ...causeLines(census.causes)],
    census.divisions.length > 0 ? ["Beside what chance would give", ...census.divisions.flatMap(divisionLines)] : [],
    groupLines(census),
    [...missingLines(census, definitions), ...readFaults(census.read)],
  ];
  return `${blocks
    .filter((lines) => lines.length > 0)
    .map((lines) => lines.join("\n"))
    .join("\n\n")}\n`;
}

const barWidth = 40;

function valueLines(values: readonly ValueCount[], tint: (text: string) => string): string[] {
  const parts = percents(values);
  const rows = table(
    values.map((each, i) => [called(each), number(each.count), parts[i]!]),
    [1, 2],
  );
  const width = Math.max(...rows.map((row) => row.length));
  return rows.map((row, i) =>
    `  ${row.padEnd(width)}  ${tint("█".repeat(Math.round((values[i]!.percent / 100) * barWidth)))}`.trimEnd(),
  );
}

function called({ value, variant }: ValueCount): string {
  return printable(variant ?? show(value, 40));
}

/** They add up to a hundred, as what they are parts of does. */
function percents(parts: readonly { readonly count: number }[]): string[] {
  return shownPercents(
    parts.map(({ count: n }) => n),
    2,
  );
}

function causeLines(causes: readonly CauseCount[]): string[] {
  const parts = percents(causes);
  return table(
    causes.map(({ cause, rule, ruleName, count: n }, i) => [
      `  ${cause === "rule" ? printable(ruleCalled({ number: rule ?? 0, name: ruleName })) : cause}`,
      number(n),
      parts[i]!,
    ]),
    [1, 2],
  );
}

function divisionLines({ rule, ruleName, by, asked, share, split }: DivisionCount): string[] {
  const head = `  ${printable(ruleCalled({ number: rule, name: ruleName }))}: ${number(asked)} with ${by}`;
  const lines = [head];
  if (share) {
    lines.push(`    share ${showRange(share)}: ${against(share)}`);
    const past = share.pastEarlierShare ?? 0;
    const whom = `${number(past)} of the ${number(asked)}`;
    if (past > 0) lines.push(`    (${whom} had come past an earlier share of the same salt, which is allowed for)`);
  }
  if (split) {
    const rows = table(
      split.map((part) => [`    ${part.variant}`, showPercent(Number(part.percent.toFixed(2))), against(part)]),
      [1],
    );
    lines.push(...rows);
  }
  return lines;
}

function against({ count: n, interval: [low, high] }: { count: number; interval: readonly [number, number] }): string {
  const beyond = n < low || n > high ? ", which is outside" : "";
  return `${number(n)} inside; by chance ${number(low)} to ${number(high)} in 95 of 100 cases${beyond}`;
}

function groupLines({ by, values }: PeopleCensus): string[] {
  if (!by) return [];
  const columns = values.map(called);
  const rows = by.groups.map(({ group, contexts, values: inside }) => [
    group === undefined ? "(missing)" : printable(group),
    number(contexts),
    ...percents(columns.map((column) => ({ count: inside.find((each) => called(each) === column)?.count ?? 0 }))),
  ]);
  const lines = table([[by.attribute, "contexts", ...columns], ...rows], [1, ...columns.map((_, i) => i + 2)]);
  return ["By attribute", ...lines.map((line) => `  ${line}`)];
}

function missingLines({ missing, contexts }: PeopleCensus, { attributes }: Definitions): string[] {
  const lacking = Object.entries(missing).filter(([, n]) => n > 0);
  const parts = lacking.map(([attribute, n]) => {
    const missingAs = attributes.get(attribute)?.missingAs;
    const taken = missingAs === undefined ? "" : `, taken as ${show(missingAs, 20)}`;
    return `${attribute} in ${number(n)} (${percent((n / contexts) * 100)}${taken})`;
  });
  return parts.length === 0 ? [] : wrap(`Missing: ${parts.join(", ")}`, "", 98);
}
