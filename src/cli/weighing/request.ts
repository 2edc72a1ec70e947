import { didYouMean, noSuch } from "../../values/index.ts";
import type { Direction, Guard, WeighRequest } from "../../weigh/index.ts";
import type { FolderOptions } from "../folder.ts";
import { instantOf, lengthOf } from "../instant.ts";
import { UsageError } from "../output.ts";

/** The options of `iudex weigh`. */
export interface WeighCommand extends FolderOptions {
  readonly verdicts?: string;
  readonly outcomes?: string;
  readonly sums?: string;
  readonly columns?: string;
  readonly rule?: string;
  readonly measure?: readonly string[];
  readonly better?: readonly string[];
  readonly guard?: readonly string[];
  readonly cap?: readonly string[];
  readonly from?: string;
  readonly until?: string;
  readonly within?: string;
  readonly changed?: readonly string[];
  readonly tell?: readonly string[];
  readonly anyway?: boolean;
  readonly svg?: string;
  readonly sql?: string;
  readonly plan?: boolean;
  readonly rate?: string;
  readonly variance?: string;
  readonly split?: string;
  readonly share?: string;
  readonly daily?: string;
  readonly json?: boolean;
}

/** What the options ask for. @throws {UsageError} */
export function requestOf(options: WeighCommand): Omit<WeighRequest, "flag"> {
  const { verdicts, outcomes, sums, rule, measure, from, until, within, anyway } = options;
  if (sums !== undefined && (verdicts !== undefined || outcomes !== undefined))
    throw new UsageError("--sums takes the place of --verdicts and --outcomes.", "give the one or the others");
  const better = pairs(options.better, "--better booked=more", directionOf);
  return {
    verdicts,
    outcomes,
    sums,
    rule,
    measures: measure,
    better,
    guards: pairs(options.guard, '--guard "minutes=2 more"', (text, name) => guardOf(text, name, better[name])),
    caps: pairs(options.cap, "--cap crowns=5000", (text) => positive(text, "--cap crowns=5000")),
    columns: pairs(options.columns?.split(","), columnsExample, columnOf),
    from: from === undefined ? undefined : instantOf(from),
    until: until === undefined ? undefined : instantOf(until),
    within: within === undefined ? undefined : lengthOf(within, "--within"),
    changed: options.changed?.map(instantOf),
    tell: tellOf(options.tell),
    anyway,
  };
}

/** `name=what`, several of them. */
function pairs<T>(
  words: readonly string[] | undefined,
  example: string,
  read: (text: string, name: string) => T,
): Record<string, T> {
  const all: Record<string, T> = Object.create(null) as Record<string, T>;
  for (const word of words ?? []) {
    const equals = word.indexOf("=");
    if (equals < 1) throw new UsageError(`“${word}” is not a name and what it is.`, `write ${example}`);
    const name = word.slice(0, equals).trim();
    all[name] = read(word.slice(equals + 1).trim(), name);
  }
  return all;
}

const columnsExample = "--columns subject=user_id,at=time";
const columns = [
  "subject",
  "at",
  "value",
  "measure",
  "flag",
  "environment",
  "asked",
  "cause",
  "variant",
  "rule",
  "outside",
];

function columnOf(text: string, name: string): string {
  if (columns.includes(name) && text !== "") return text;
  throw new UsageError(noSuch("column", name), didYouMean(name, columns) ?? `write ${columnsExample}`);
}

function directionOf(text: string): Direction {
  if (text === "more" || text === "fewer") return text;
  throw new UsageError(`“${text}” is not a direction.`, "write --better booked=more, or --better minutes=fewer");
}

/** `2 more`, `0.5 points fewer`, `5% more`; without a direction that of `--better` says which is bad. */
function guardOf(text: string, name: string, better: Direction | undefined): Guard {
  const match = /^(\S+?)\s*(%|points)?(?:\s+(more|fewer))?$/.exec(text);
  const example = `--guard "${name}=2 more", where 2 more would be worse`;
  const by = positive(match?.[1] ?? text, example);
  const bad = (match?.[3] as Direction | undefined) ?? (better && (better === "more" ? "fewer" : "more"));
  if (bad === undefined) throw new UsageError(`Which direction of “${name}” is bad?`, `write ${example}`);
  return { margin: { by, isRelative: match?.[2] === "%" }, bad };
}

function tellOf(words: readonly string[] | undefined): WeighRequest["tell"] {
  if (words === undefined) return undefined;
  if (words.length === 1 && !words[0]!.includes("=")) return positive(words[0]!, "--tell 0.5");
  return pairs(words, "--tell minutes=2", (text) => positive(text, "--tell minutes=2"));
}

/** @throws {UsageError} */
export function positive(text: string, example: string): number {
  const number = Number(text);
  if (text.trim() !== "" && Number.isFinite(number) && number > 0) return number;
  throw new UsageError(`“${text}” is not a number above 0.`, `write ${example}`);
}

/** `4%` as 0.04. @throws {UsageError} */
export function partOf(text: string, example: string): number {
  const part = Number(/^([0-9.]+)\s*%$/.exec(text)?.[1] ?? Number.NaN) / 100;
  if (part > 0 && part < 1) return part;
  throw new UsageError(`“${text}” is not a percentage between 0 and 100.`, `write ${example}`);
}
