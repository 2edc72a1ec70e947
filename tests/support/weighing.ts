import { execFile } from "node:child_process";
import { writeFile } from "node:fs/promises";
import { join } from "node:path";
import { promisify } from "node:util";
import { loadFolder, type Weighing, type WeighRequest, weigh } from "iudex/tools";
import { folderWith, projectRoot } from "./folders.ts";
import { scratch } from "./scratch.ts";

export const seasonFlags = join(projectRoot, "examples/ternhaven/season/flags");

let made: Promise<string> | undefined;

/** The folder of the made-up season's files. */
export function season(): Promise<string> {
  made ??= scratch().then(async (folder) => {
    await promisify(execFile)(process.execPath, [join(projectRoot, "examples/ternhaven/season/make.mjs"), folder]);
    return folder;
  });
  return made;
}

export async function weighSeason(flag: string, request: Omit<WeighRequest, "flag"> = {}): Promise<Weighing> {
  const folder = await season();
  const { definitions } = await loadFolder(seasonFlags);
  const files = { verdicts: join(folder, "verdicts.ndjson"), outcomes: join(folder, "outcomes.ndjson") };
  return weigh(definitions!, { flag, environment: "production", ...(request.sums ? {} : files), ...request });
}

/** A set of one flag that splits people into two. */
export const halves = split("[1 old, 1 new]");

export function split(parts: string): string {
  return `iudex: 1
defaults: { by: account.id, zone: UTC }
flags:
  greeting:
    safe: old
    variants: { old: old, new: new, third: third }
    rules:
      - { name: parts, split: ${parts} }
`;
}

export function shared(share: string, more = ""): string {
  return `iudex: 1
defaults: { by: account.id, zone: UTC }
flags:
  greeting:
    safe: false
    rules:
${more}      - { name: some, share: ${share}, give: true }
`;
}

/** A row of a file, as it is written down. */
export type Row = Readonly<Record<string, unknown>> | string;

export interface Weighed {
  readonly definitions?: string;
  readonly verdicts: readonly Row[];
  readonly outcomes: readonly Row[];
}

/** Writes the files and weighs them. */
export async function weighRows(
  { definitions = halves, verdicts, outcomes }: Weighed,
  request: Partial<WeighRequest> = {},
): Promise<Weighing> {
  const { folder, files } = await filesOf({ definitions, verdicts, outcomes });
  const { definitions: set } = await loadFolder(folder);
  return weigh(set!, { flag: "greeting", ...files, ...request });
}

export async function filesOf({ definitions = halves, verdicts, outcomes }: Weighed) {
  const folder = await folderWith({ "flags.yaml": definitions });
  const place = await scratch();
  const lines = (rows: readonly Row[]) =>
    rows.map((row) => (typeof row === "string" ? row : JSON.stringify(row))).join("\n");
  const files = { verdicts: join(place, "verdicts.ndjson"), outcomes: join(place, "outcomes.ndjson") };
  await writeFile(files.verdicts, `${lines(verdicts)}\n`);
  await writeFile(files.outcomes, `${lines(outcomes)}\n`);
  return { folder, files };
}

export const noon = Date.parse("2026-11-02T12:00:00Z");

export function iso(at: number): string {
  return new Date(at).toISOString();
}

/** As the log writes it. */
export function verdict(subject: unknown, variant: string, at = noon, more: object = {}): Row {
  return {
    at: iso(at),
    subject,
    flag: "greeting",
    variant,
    cause: "rule",
    rule: 1,
    ruleName: "parts",
    outside: [],
    ...more,
  };
}

/** People of two groups, and what each of them comes to: undefined for nothing. */
export function groupsOf(
  groups: Readonly<Record<string, readonly (number | undefined | true)[]>>,
  at = noon,
  prefix = "",
) {
  const verdicts: Row[] = [];
  const outcomes: Row[] = [];
  for (const [variant, people] of Object.entries(groups))
    for (const [i, came] of people.entries()) {
      const subject = `${prefix}${variant}-${i}`;
      verdicts.push(verdict(subject, variant, at));
      if (came === undefined) continue;
      outcomes.push({ subject, at: iso(at + 1000), measure: "it", ...(came === true ? {} : { value: came }) });
    }
  return { verdicts, outcomes };
}

/** So many people of whom so many had it. */
export function rate(had: number, people: number): (true | undefined)[] {
  return Array.from({ length: people }, (_, i) => (i < had ? true : undefined));
}

/** What a warehouse would give: by group, the values of a measure; all on one day. */
export interface SumRow {
  readonly group: string;
  readonly people: number;
  readonly mean: number;
  readonly m2?: number;
  readonly nonzero?: number;
  readonly largest?: number;
  readonly day?: string;
  readonly span?: number;
  readonly kind?: "rate" | "amount";
  readonly measure?: string;
}

/** Weighs sums instead of files, which takes no time. */
export async function weighSums(
  rows: readonly SumRow[],
  { definitions = halves, ...request }: Partial<WeighRequest> & { readonly definitions?: string } = {},
): Promise<Weighing> {
  const { set, place } = await sumsPlace(definitions);
  const sums = join(place, `${files++}.ndjson`);
  const lines = rows.map(
    ({ group, people, mean, day = "2026-11-02", span = 0, kind = "rate", measure = "it", ...more }) => {
      const had = Math.round(mean * people);
      const usual = kind === "rate" ? { m2: people * mean * (1 - mean), nonzero: had, largest: had > 0 ? 1 : 0 } : {};
      return JSON.stringify({ measure, kind, span, day, group_name: group, people, mean, ...usual, ...more });
    },
  );
  await writeFile(sums, lines.join("\n"));
  return weigh(set, { flag: "greeting", ...request, sums });
}

let files = 0;

const places = new Map<string, ReturnType<typeof openPlace>>();

function sumsPlace(definitions: string): ReturnType<typeof openPlace> {
  const known = places.get(definitions) ?? openPlace(definitions);
  places.set(definitions, known);
  return known;
}

async function openPlace(text: string) {
  const { definitions } = await loadFolder(await folderWith({ "flags.yaml": text }));
  return { set: definitions!, place: await scratch() };
}
