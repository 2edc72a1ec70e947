import { ToolError } from "../files/index.ts";
import { idText } from "../judge/index.ts";
import type { Experiment, RuleName } from "./experiment.ts";
import type { LeftOut } from "./left-out.ts";
import { type Columns, eachRow, instantIn, type Row, type Unreadable } from "./rows.ts";

/** Which verdicts count. */
export interface VerdictRequest {
  readonly verdicts: string;
  readonly columns: Columns;
  readonly maxSubjects: number;
}

/** More than that, and than a `Map` can hold, are read in several passes. */
export const maxSubjects = 12_000_000;

const noGroup = 255;
const never = Number.POSITIVE_INFINITY;

/** One in so many parts of all subjects. */
export interface Part {
  readonly index: number;
  readonly of: number;
}

/** There are too many subjects for one pass. */
export class TooMany extends Error {}

/** Everybody whom the rule divided: when for the first time, and into which group. */
export class Subjects {
  readonly #numbers = new Map<string, number>();
  readonly #part: Part;
  readonly #spans: number;
  readonly #most: number;
  first = new Float64Array(1024);
  group = new Uint8Array(1024).fill(noGroup);
  /** The first override, and the last verdict that this rule did not give. */
  #override = new Float64Array(1024);
  #other = new Float64Array(1024);
  /** By span, the groups in which somebody was seen, a bit each. */
  #seen: Uint32Array;

  constructor(part: Part, spans: number, most: number) {
    this.#part = part;
    this.#spans = spans;
    this.#most = most;
    this.#seen = new Uint32Array(1024 * spans);
  }

  get size(): number {
    return this.#numbers.size;
  }

  numberOf(id: string): number | undefined {
    return this.#numbers.get(id);
  }

  /** Whether an id is of the part of subjects that this pass is about. */
  concerns(id: string): boolean {
    return this.#part.of === 1 || hash(id) % this.#part.of === this.#part.index;
  }

  divided(id: string, at: number, group: number, span: number): void {
    const number = this.#number(id);
    this.#seen[number * this.#spans + span]! |= 1 << group;
    if (at >= this.first[number]!) return;
    this.first[number] = at;
    this.group[number] = group;
  }

  overridden(id: string, at: number): void {
    const number = this.#number(id);
    this.#override[number] = Math.min(this.#override[number]!, at);
  }

  otherwise(id: string, at: number): void {
    const number = this.#number(id);
    this.#other[number] = Math.max(this.#other[number]!, at);
  }

  #number(id: string): number {
    const known = this.#numbers.get(id);
    if (known !== undefined) return known;
    const number = this.size;
    if (number >= this.#most) throw new TooMany();
    if (number === this.first.length) this.#grow();
    this.#numbers.set(id, number);
    this.first[number] = never;
    this.group[number] = noGroup;
    this.#override[number] = never;
    this.#other[number] = -never;
    return number;
  }

  #grow(): void {
    this.first = doubled(this.first);
    this.group = doubled(this.group);
    this.#override = doubled(this.#override);
    this.#other = doubled(this.#other);
    this.#seen = doubled(this.#seen);
  }

  get isAnybodyDivided(): boolean {
    return this.group.subarray(0, this.size).some((group) => group !== noGroup);
  }

  /** Whom the rule divided at all. */
  isDivided(number: number): boolean {
    return this.group[number] !== noGroup;
  }

  wasOverridden(number: number): boolean {
    return this.#override[number]! < this.first[number]!;
  }

  /** Got something else afterwards: by an override, a suspension, another rule. */
  isDiluted(number: number): boolean {
    const later = Math.max(this.#other[number]!, this.#override[number] === never ? -never : this.#override[number]!);
    return later > this.first[number]!;
  }

  /** Those who were seen in two groups of one span. */
  *inTwoGroups(): Generator<string> {
    for (const [id, number] of this.#numbers)
      for (let span = 0; span < this.#spans; span++) {
        const seen = this.#seen[number * this.#spans + span]!;
        if ((seen & (seen - 1)) !== 0) yield id;
      }
  }
}

function doubled<A extends Float64Array | Uint8Array | Uint32Array>(array: A): A {
  const larger = new (array.constructor as new (length: number) => A)(array.length * 2);
  larger.set(array as never);
  return larger;
}

/** FNV-1a, 32 bits; only to take subjects apart, nobody's verdict goes by it. */
export function hash(text: string, seed = 0x811c9dc5): number {
  let h = seed;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  return h >>> 0;
}

/** What a row of a log says about the experiment. */
export type Told =
  | {
      readonly kind: "divided";
      readonly group: number;
      readonly id: string;
      readonly at: number;
      readonly span: number;
    }
  | { readonly kind: "overridden" | "otherwise"; readonly id: string; readonly at: number }
  | { readonly kind: keyof LeftOut["verdicts"] | "otherFlag" };

/** Reads rows of verdicts as this experiment understands them. */
export class VerdictReader {
  readonly #experiment: Experiment;
  readonly #takesPages: boolean;

  /** @param takesPages whether what was sent to pages counts, since nothing else is there */
  constructor(experiment: Experiment, takesPages: boolean) {
    this.#experiment = experiment;
    this.#takesPages = takesPages;
  }

  read(row: Row): Told {
    const { flag, environment, spans } = this.#experiment;
    if (row("flag") !== flag) return { kind: "otherFlag" };
    const where = row("environment");
    if (environment !== undefined && where !== undefined && where !== environment) return { kind: "otherEnvironments" };
    if ((row("asked") === "page") !== this.#takesPages) return { kind: "sentOnly" };
    const at = instantIn(row("at"));
    if (Number.isNaN(at)) return { kind: "withoutInstant" };
    const { rule, divides } = this.#experiment;
    const cause = row("cause");
    const isOurs = isRule(rule, row("rule"), row("ruleName")) && (cause === undefined || cause === "rule");
    const isShare = divides === "share";
    const left = isOurs || !isShare ? undefined : this.#leftOutBy(row("outside"));
    const drawn = isOurs ? objectIn(row("drawn")) : left;
    const id = idText(drawn?.["id"] ?? row("subject"));
    if (id === undefined) return { kind: "withoutId" };
    if (id === "•••") return { kind: "privateIds" };
    const by = drawn?.["by"];
    if (by !== undefined && by !== this.#experiment.by) return { kind: "otherIds" };
    if (!isOurs && !left) return { kind: cause === "override" ? "overridden" : "otherwise", id, at };
    const group = isShare ? (isOurs ? 1 : 0) : this.#groupOf(row);
    if (group < 0) return { kind: "otherVariants" };
    const span = spanAt(spans, at);
    return span < 0 ? { kind: "beforeChange" } : { kind: "divided", group, id, at, span };
  }

  /** The entry by which a verdict says that the rule left somebody out. */
  #leftOutBy(outside: unknown): Readonly<Record<string, unknown>> | undefined {
    if (Array.isArray(outside) && outside.length === 0) return undefined;
    return listIn(outside).find((each) => isRule(this.#experiment.rule, each["rule"], each["ruleName"]));
  }

  #groupOf(row: Row): number {
    const { groups, values } = this.#experiment;
    const variant = row("variant");
    if (variant !== undefined) return groups.indexOf(String(variant));
    const value = row("value");
    return values.findIndex((each) => JSON.stringify(each) === JSON.stringify(value) || String(each) === value);
  }
}

function isRule({ number, name }: RuleName, rule: unknown, ruleName: unknown): boolean {
  if (name === undefined) return String(rule) === String(number) && ruleName === undefined;
  return ruleName === name || rule === name || (ruleName === undefined && String(rule) === String(number));
}

function objectIn(value: unknown): Readonly<Record<string, unknown>> | undefined {
  const read = typeof value === "string" && value.startsWith("{") ? parsed(value) : value;
  return typeof read === "object" && read !== null ? (read as Record<string, unknown>) : undefined;
}

/** Rules as a log writes them; in a cell of a table as JSON, or their names or numbers with blanks or semicolons between. */
function listIn(value: unknown): readonly Readonly<Record<string, unknown>>[] {
  const read = typeof value === "string" && value.startsWith("[") ? parsed(value) : value;
  const list = Array.isArray(read)
    ? read
    : typeof read === "string"
      ? read.split(";")
      : read === undefined
        ? []
        : [read];
  return list.map((each) => (typeof each === "object" && each !== null ? each : { rule: String(each).trim() }));
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** −1 before the first. */
export function spanAt(spans: Experiment["spans"], at: number): number {
  let span = spans.length - 1;
  while (span >= 0 && spans[span]!.from > at) span--;
  return span;
}

type Counts = Record<Told["kind"], number>;

/** What a log said in one pass. */
export interface ReadVerdicts {
  readonly subjects: Subjects;
  readonly leftOut: LeftOut["verdicts"];
  /** Rows of this flag. */
  readonly rows: number;
}

/**
 * Reads who came into which group for the first time.
 *
 * @throws {ToolError} where somebody is in two groups at a time in which nothing is known to have changed
 * @throws {TooMany}
 */
export async function readVerdicts(
  experiment: Experiment,
  { verdicts, columns, maxSubjects: most }: VerdictRequest,
  part: Part,
  takesPages: boolean,
): Promise<ReadVerdicts> {
  const reader = new VerdictReader(experiment, takesPages);
  const subjects = new Subjects(part, experiment.spans.length, most);
  const counts: Partial<Counts> = {};
  let flags = 0;
  const read: Unreadable = await eachRow(verdicts, columns, (row) => {
    if (flags === 0 && row("flag") !== undefined) flags++;
    const told = reader.read(row);
    counts[told.kind] = (counts[told.kind] ?? 0) + 1;
    if (!("id" in told) || !subjects.concerns(told.id)) return;
    if (told.kind === "divided") subjects.divided(told.id, told.at, told.group, told.span);
    else if (told.kind === "overridden") subjects.overridden(told.id, told.at);
    else subjects.otherwise(told.id, told.at);
  });
  const rows = Object.values(counts).reduce((all, n) => all + n, 0);
  if (rows > 0 && flags === 0)
    throw new ToolError(
      `No row of “${verdicts}” names a flag.`,
      "give the log of verdicts to --verdicts; are the two files swapped?",
    );
  await refuseTwoGroups(experiment, { reader, subjects, verdicts, columns });
  const { otherFlag = 0, divided: _, overridden: __, otherwise: ___, ...left } = counts;
  return { subjects, leftOut: { ...nothing, ...left, unreadableLines: read.lines }, rows: rows - otherFlag };
}

export const nothing: LeftOut["verdicts"] = {
  unreadableLines: 0,
  otherEnvironments: 0,
  withoutInstant: 0,
  withoutId: 0,
  privateIds: 0,
  otherIds: 0,
  otherVariants: 0,
  sentOnly: 0,
  beforeChange: 0,
};

/** Nobody changes the group while nothing changes: the definitions must have been others, and the file is asked when. */
async function refuseTwoGroups(
  experiment: Experiment,
  asked: { reader: VerdictReader; subjects: Subjects; verdicts: string; columns: Columns },
): Promise<void> {
  const { reader, subjects, verdicts, columns } = asked;
  const firsts = new Map<string, Map<string, number>>();
  for (const id of subjects.inTwoGroups()) firsts.set(id, new Map());
  if (firsts.size === 0) return;
  await eachRow(verdicts, columns, (row) => {
    const told = reader.read(row);
    const seen = told.kind === "divided" ? firsts.get(told.id) : undefined;
    if (!seen || told.kind !== "divided") return;
    const key = `${told.span} ${told.group}`;
    seen.set(key, Math.min(seen.get(key) ?? never, told.at));
  });
  let changed = never;
  for (const seen of firsts.values())
    for (const { index } of experiment.spans.map((_, index) => ({ index }))) {
      const here = [...seen].filter(([key]) => key.startsWith(`${index} `)).map(([, at]) => at);
      if (here.length > 1) changed = Math.min(changed, here.sort((a, b) => a - b)[1]!);
    }
  const at = new Date(changed).toISOString();
  throw new ToolError(
    `${firsts.size.toLocaleString("en")} of those whom this rule divided are in two groups, first at ${at}: the definitions must have changed before.`,
    `if you know when, write --changed ${at} (or the instant of the change)`,
  );
}
