import { ToolError } from "../files/index.ts";
import type { Definitions } from "../model/index.ts";
import { merged } from "./cell.ts";
import { sum } from "./estimate.ts";
import { type Experiment, experimentOf, type FlagVersion } from "./experiment.ts";
import { type Guard, judgeMeasure, type Rules, type WeighedMeasure } from "./judge-measure.ts";
import type { LeftOut } from "./left-out.ts";
import { type CountedOutcomes, type MeasureCells, readOutcomes } from "./outcomes.ts";
import type { Columns } from "./rows.ts";
import { balanceOf, scalesOff } from "./scales.ts";
import { maxSubjects, nothing, type Part, readVerdicts, TooMany } from "./subjects.ts";
import { readSums } from "./sums.ts";
import { type Direction, scalesWords } from "./words.ts";

/** What is weighed, and how. Instants are epoch milliseconds. */
export interface WeighRequest {
  readonly flag: string;
  readonly environment?: string | undefined;
  /** A name or a number; the only one that divides people if left out. */
  readonly rule?: string | undefined;
  /** Files, CSV or NDJSON, compressed as well: who got what, and what came of it … */
  readonly verdicts?: string | undefined;
  readonly outcomes?: string | undefined;
  /** … or the sums that a warehouse made by `sumsQuery`. */
  readonly sums?: string | undefined;
  readonly columns?: Columns | undefined;
  /** Names, or `crowns/booked` for one amount by another; all that are found if left out. */
  readonly measures?: readonly string[] | undefined;
  /** Which direction is better, by measure. */
  readonly better?: Readonly<Record<string, Direction>> | undefined;
  /** What must not get worse, by measure: not of the family, each at 5 %. */
  readonly guards?: Readonly<Record<string, Guard>> | undefined;
  /** The most that one person counts for, by measure. */
  readonly caps?: Readonly<Record<string, number>> | undefined;
  /** People whose first verdict lies between; `until` not included. */
  readonly from?: number | undefined;
  readonly until?: number | undefined;
  /** Milliseconds after the first verdict. */
  readonly within?: number | undefined;
  readonly changed?: readonly number[] | undefined;
  /** Earlier versions of the flag, as `versionsOf` finds them in the repository. */
  readonly earlier?: readonly FlagVersion[] | undefined;
  /** The difference that matters: of all measures, or by name; of a rate in points. */
  readonly tell?: number | Readonly<Record<string, number>> | undefined;
  /** Compares although the scales are off. */
  readonly anyway?: boolean | undefined;
  /** Subjects that are held in memory at once, 12 million by default: where there are more, the files are read several times. */
  readonly maxSubjects?: number | undefined;
}

/** What came of a flag, by group. Instants are ISO 8601; rates go from 0 to 1. */
export interface Weighing {
  readonly flag: string;
  readonly environment: string | null;
  /** Its name, else its number. */
  readonly rule: string | number;
  /** The attribute whose id the rule draws. */
  readonly by: string;
  /** When those came in who are compared: asked for, else the first day, and the end of the last. Null for nobody. */
  readonly from: string | null;
  readonly until: string | null;
  /** Milliseconds. */
  readonly within: number | null;
  /** Times in which the parts were the same, and people by group. */
  readonly spans: readonly {
    readonly from: string | null;
    readonly until: string | null;
    readonly people: readonly number[];
  }[];
  /** Whether the groups are as large as the flag makes them; people by group over all spans whose parts are known. */
  readonly scales: {
    readonly expected: readonly number[];
    readonly found: readonly number[];
    /** Of chi-square, for one look; and what holds however often one looks. */
    readonly probability: number;
    readonly alwaysValid: number;
    /** False where they are off, null where nobody can know. */
    readonly ok: boolean | null;
  };
  readonly groups: readonly { readonly name: string; readonly people: number }[];
  readonly measures: readonly WeighedMeasure[];
  readonly guards: readonly (WeighedMeasure & Guard)[];
  readonly leftOut: LeftOut | null;
  /** People who later got something else than their group did; null where only sums are known. */
  readonly diluted: number | null;
  /** What has to be known to read the rest, a sentence each. */
  readonly notes: readonly string[];
}

/**
 * Weighs what came of a flag: the groups that one of its rules made beside each other, and no more than can be said.
 *
 * @throws {ToolError} where nothing can be compared, with what to do
 * @example
 * const { definitions } = await loadFolder("flags");
 * const weighing = await weigh(definitions, { flag: "zone-fares", environment: "production", verdicts: "verdicts.ndjson",
 *   outcomes: "outcomes.ndjson", measures: ["booked"], within: 7 * 86_400_000 });
 * weighing.measures[0].differences[0].says; // "people let in have more: 1.6 to 4.4 points"
 */
export async function weigh(definitions: Definitions, request: WeighRequest): Promise<Weighing> {
  const { flag, environment, rule, earlier = [], changed = [] } = request;
  const experiment = experimentOf(definitions, { flag, environment, rule, earlier, changed });
  const counted = await countedOf(experiment, request);
  const names = experiment.groups;
  const scales = scalesOf(experiment, counted.everybody);
  const rules = rulesFor(experiment, request, counted, scales);
  const guards = request.guards ?? {};
  const named = (measure: MeasureCells) => Object.hasOwn(guards, measure.name);
  return {
    flag,
    environment: environment ?? null,
    rule: experiment.rule.name ?? experiment.rule.number,
    by: experiment.by,
    ...datesOf(counted.everybody, request),
    within: request.within ?? null,
    spans: experiment.spans.map(({ from, until }, k) => ({
      from: instant(from),
      until: instant(until),
      people: peopleIn(counted.everybody.spans[k]!, names.length),
    })),
    scales,
    groups: names.map((name, g) => ({
      name,
      people: sum(counted.everybody.spans.map((days) => peopleIn(days, names.length)[g]!)),
    })),
    measures: counted.measures
      .filter((each) => !named(each))
      .map((each) => judgeMeasure(each, names, rules(each.name))),
    guards: counted.measures
      .filter(named)
      .map((each) => ({ ...judgeMeasure(each, names, rules(each.name)), ...guards[each.name]! })),
    leftOut: counted.leftOut,
    diluted: counted.diluted,
    notes: notesOf(experiment, counted, request),
  };
}

interface Counted extends Pick<CountedOutcomes, "everybody" | "measures"> {
  readonly leftOut: Weighing["leftOut"];
  readonly diluted: number | null;
  /** What counts was only sent to pages. */
  readonly sentOnly: boolean;
}

async function countedOf(experiment: Experiment, request: WeighRequest): Promise<Counted> {
  const { verdicts, outcomes, sums } = request;
  if (sums !== undefined) {
    const { everybody, measures } = await readSums(
      sums,
      experiment,
      wantedBy(request),
      Object.keys(request.guards ?? {}),
    );
    return { everybody, measures, leftOut: null, diluted: null, sentOnly: false };
  }
  if (verdicts === undefined || outcomes === undefined)
    throw new ToolError("Nothing to weigh.", "give --verdicts and --outcomes, or --sums");
  for (let of = 1; ; of *= 2) {
    try {
      return await inParts(experiment, { ...request, verdicts, outcomes }, of);
    } catch (error) {
      // So many subjects that memory would not hold them: each pass is about a part of them.
      if (!(error instanceof TooMany)) throw error;
    }
  }
}

type Files = WeighRequest & { readonly verdicts: string; readonly outcomes: string };

async function inParts(experiment: Experiment, request: Files, of: number): Promise<Counted> {
  const passes: CountedOutcomes[] = [];
  let verdicts = nothing;
  let sentOnly = false;
  const { columns = {}, from = Number.NEGATIVE_INFINITY, until = Number.POSITIVE_INFINITY } = request;
  const asked = { verdicts: request.verdicts, columns, maxSubjects: request.maxSubjects ?? maxSubjects };
  for (let index = 0; index < of; index++) {
    const part: Part = { index, of };
    let read = await readVerdicts(experiment, asked, part, sentOnly);
    if (index === 0 && read.rows === 0)
      throw new ToolError(
        `“${request.verdicts}” holds no verdict of ${experiment.flag}.`,
        "give the log in which it was asked for",
      );
    if (index === 0 && !read.subjects.isAnybodyDivided && read.leftOut.sentOnly > 0) {
      sentOnly = true;
      read = await readVerdicts(experiment, asked, part, true);
    }
    verdicts = read.leftOut;
    passes.push(
      await readOutcomes(experiment, read.subjects, {
        outcomes: request.outcomes,
        columns,
        from,
        until,
        within: request.within,
        measures: wantedBy(request),
        guards: Object.keys(request.guards ?? {}),
        caps: new Map(Object.entries(request.caps ?? {})),
      }),
    );
  }
  const [first] = passes as [CountedOutcomes];
  return {
    everybody: joined(passes.map(({ everybody }) => everybody)),
    measures: first.measures.map((_, m) => joined(passes.map(({ measures }) => measures[m]!))),
    leftOut: {
      people: added(passes.map(({ peopleLeftOut }) => peopleLeftOut)),
      verdicts,
      outcomes: outcomesLeftOut(passes),
    },
    diluted: sum(passes.map(({ diluted }) => diluted)),
    sentOnly,
  };
}

/** Guards are read though nobody names them; undefined for all measures. */
function wantedBy({ measures, guards }: WeighRequest): readonly string[] | undefined {
  return measures && [...new Set([...measures, ...Object.keys(guards ?? {})])];
}

/** Each pass reads all rows; those of no subject of its part it does not count, but for those of no subject at all. */
function outcomesLeftOut(passes: readonly CountedOutcomes[]): LeftOut["outcomes"] {
  const { unreadableLines, withoutId, notANumber, withoutValue } = passes[0]!.leftOut;
  return { ...added(passes.map(({ leftOut }) => leftOut)), unreadableLines, withoutId, notANumber, withoutValue };
}

function added<T extends object>(each: readonly T[]): T {
  const all: Record<string, number> = {};
  for (const counts of each) for (const [key, n] of Object.entries(counts)) all[key] = (all[key] ?? 0) + (n as number);
  return all as T;
}

function joined(parts: readonly MeasureCells[]): MeasureCells {
  const [first, ...others] = parts as [MeasureCells, ...MeasureCells[]];
  if (others.length === 0) return first;
  const spans = first.spans.map((_, k) => {
    const days = [...new Set(parts.flatMap(({ spans: all }) => [...all[k]!.keys()]))].sort((a, b) => a - b);
    const cellsOf = (day: number) => parts.flatMap(({ spans: all }) => all[k]!.get(day) ?? []);
    const groups = Math.max(
      ...parts.flatMap(({ spans: all }) => [...all[k]!.values()].map((cells) => cells.length)),
      0,
    );
    return new Map(
      days.map((day) => {
        const cells = cellsOf(day);
        return [
          day,
          Array.from({ length: groups }, (_, g) => merged(cells.filter((__, i) => i % groups === g))),
        ] as const;
      }),
    );
  });
  return { ...first, spans };
}

function peopleIn(days: MeasureCells["spans"][number], groups: number): readonly number[] {
  return Array.from({ length: groups }, (_, g) => sum([...days.values()].map((cells) => cells[g]!.people)));
}

function scalesOf(experiment: Experiment, everybody: MeasureCells): Weighing["scales"] {
  const { spans, groups, unknownParts } = experiment;
  const weighed = spans.flatMap(({ due }, k) =>
    due ? { found: peopleIn(everybody.spans[k]!, groups.length), due } : [],
  );
  const found = groups.map((_, g) => sum(weighed.map((span) => span.found[g]!)));
  const expected = groups.map((_, g) => sum(weighed.map((span) => sum(span.found) * span.due[g]!)));
  const balance = balanceOf(weighed);
  return { expected, found, ...balance, ok: unknownParts === undefined ? balance.alwaysValid >= scalesOff : null };
}

/** How each measure is judged. */
function rulesFor(experiment: Experiment, request: WeighRequest, { measures }: Counted, scales: Weighing["scales"]) {
  const { guards = {}, tell, better = {}, anyway = false } = request;
  const { groups, unknownParts, divides, spans } = experiment;
  const family = measures.filter(({ name }) => !Object.hasOwn(guards, name)).length * (groups.length - 1);
  const isOneSpan = spans.filter(({ due }) => due).length === 1;
  const off = scales.ok === false ? scalesWords(scales.found, scales.expected, isOneSpan) : undefined;
  const unweighable = unweighableBy(off, unknownParts);
  return (name: string): Rules => {
    const guard = Object.hasOwn(guards, name) ? guards[name] : undefined;
    const shared = guard ? 1 : Math.max(1, family);
    return {
      a: 0.05 / shared,
      family: shared,
      tell: typeof tell === "number" ? tell : tell && Object.hasOwn(tell, name) ? tell[name] : undefined,
      better: Object.hasOwn(better, name) ? better[name] : undefined,
      guard,
      unweighable,
      anyway,
      isShare: divides === "share",
    };
  };
}

function unweighableBy(off: string | undefined, unknownParts: string | undefined): Rules["unweighable"] {
  if (off !== undefined) return { kind: "scales-off", why: off };
  return unknownParts === undefined ? undefined : { kind: "unknown-parts", why: unknownParts };
}

function instant(at: number): string | null {
  return Number.isFinite(at) ? new Date(at).toISOString() : null;
}

const dayLength = 86_400_000;

function datesOf({ spans }: MeasureCells, { from, until }: WeighRequest): Pick<Weighing, "from" | "until"> {
  const days = spans.flatMap((span) => [...span.keys()]);
  const [first, last] = [Math.min(...days), Math.max(...days)];
  return { from: instant(from ?? first * dayLength), until: instant(until ?? (last + 1) * dayLength) };
}

function notesOf(experiment: Experiment, { measures, everybody, sentOnly }: Counted, request: WeighRequest): string[] {
  const { sameSalt, spans, groups, unknownParts } = experiment;
  const unknown = spans.some(({ due }, k) => !due && sum(peopleIn(everybody.spans[k]!, groups.length)) > 0);
  const small = spans.flatMap((_, k) => {
    const people = peopleIn(everybody.spans[k]!, groups.length);
    return sum(people) > 0 && people.some((n) => n < 2) ? people : [];
  });
  const caps = Object.entries(request.caps ?? {}).map(
    ([name, cap]) => `${name} is capped at ${cap.toLocaleString("en")} for each person.`,
  );
  const ratios = measures
    .filter(({ kind }) => kind === "ratio")
    .map(({ name }) => `${name} compares those who have any ${name.split("/")[1]}, who may be others in each group.`);
  return [
    ...(sentOnly ? ["The values were sent to pages, and perhaps not seen."] : []),
    ...(request.within === undefined ? ["Outcomes count as far as they are known: so far."] : []),
    ...(sameSalt.length > 0
      ? [
          `${sameSalt.join(", ")} ${sameSalt.length === 1 ? "goes" : "go"} by the same salt: the same people are let into each.`,
        ]
      : []),
    ...(unknown && unknownParts === undefined
      ? ["The parts before the change are not known, so that the scales are held against what came after."]
      : []),
    ...(small.length > 0
      ? [`${sum(small)} people are in spans in which a group has fewer than two people, and are not compared.`]
      : []),
    ...caps,
    ...ratios,
  ];
}
