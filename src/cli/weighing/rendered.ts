import { showInstant } from "../../calendar/index.ts";
import { wrap } from "../../files/index.ts";
import { printable } from "../../values/index.ts";
import {
  type Difference,
  digitsFor,
  type Figure,
  fixed,
  type Interval,
  type WeighedMeasure,
  type Weighing,
} from "../../weigh/index.ts";
import { count, explanationPaint, number, type Output, table } from "../output.ts";

/** What `iudex weigh` says to people: the words of each measure first, then the figures behind them. */
export function rendered(weighing: Weighing, { colour }: Output): string {
  const paint = explanationPaint(colour);
  const { flag, environment, rule, groups, measures, guards } = weighing;
  const where = environment === null ? "" : ` in ${environment}`;
  const people = groups.map((group) => `${number(group.people)} ${printable(group.name)}`).join(", ");
  const called = typeof rule === "number" ? `rule ${rule}` : `rule “${printable(rule)}”`;
  const head = [
    `${paint.strong(`${flag}${where}`)}, ${called}: ${people}`,
    paint.faint(`people by ${weighing.by} who came in ${dates(weighing)}, if nothing else differs between the groups`),
  ];
  const blocks = [
    head,
    ...measures.map((measure) => measureLines(measure, measure.name, paint.strong)),
    ...guards.map((guard) => measureLines(guard, `${guard.name} (guard: ${guard.bad} is worse)`, paint.strong)),
    scalesLines(weighing),
    spanLines(weighing),
    [...leftOutLines(weighing), ...weighing.notes.flatMap((note) => wrap(note, "", 98))],
  ];
  return `${blocks
    .filter((lines) => lines.length > 0)
    .map((lines) => lines.join("\n"))
    .join("\n\n")}\n`;
}

function dates({ from, until }: Weighing): string {
  if (from === null || until === null) return "at no time";
  return `from ${showInstant(Date.parse(from), undefined)} to ${showInstant(Date.parse(until), undefined)}`;
}

function measureLines(measure: WeighedMeasure, title: string, strong: (text: string) => string): string[] {
  const { kind, groups, differences } = measure;
  const ends = groups.flatMap(({ figure, low, high }) => [figure, low, high]).filter(Number.isFinite);
  const [units, unit] = kind === "rate" ? [100, " %"] : [1, ""];
  const digits = Math.max(0, digitsFor(Math.min(...ends) * units, Math.max(...ends) * units));
  const figures = table(
    groups.map(({ name, people, figure, low, high }) => [
      `  ${printable(name)}`,
      Number.isFinite(figure) ? `${fixed(figure * units, digits)}${unit}` : "–",
      Number.isFinite(low + high) ? `${fixed(low * units, digits)} to ${fixed(high * units, digits)}` : "",
      count(people, "person", "people"),
    ]),
    [1, 3],
  );
  const says = differences.flatMap(({ to, says: words }) =>
    wrap(differences.length > 1 ? `${printable(to)}: ${words}` : words, "  ", 98),
  );
  return [
    strong(printable(title)),
    ...says,
    ...figures,
    ...differences.flatMap((each) => differenceLines(each, units, differences.length > 1)),
  ];
}

function differenceLines(
  { to, absolute, alwaysValid, relative }: Difference,
  units: number,
  isNamed: boolean,
): string[] {
  if (!absolute) return [];
  const digits = digitsFor(absolute.low * units, absolute.high * units);
  const signed = (x: number) => `${x > 0 ? "+" : x < 0 ? "−" : ""}${fixed(Math.abs(x) * units, digits)}`;
  const range = ({ low, high }: Interval) => `${signed(low)} to ${signed(high)}`;
  const unit = units === 100 ? " points" : "";
  const rows = [
    [
      `  ${isNamed ? `${printable(to)}, ` : ""}for one look`,
      `${signed(absolute.figure)}${unit}`,
      range(absolute),
      relativeWords(relative),
    ],
    ...(alwaysValid
      ? [["  for any number of looks", "", range(alwaysValid), relativeWords(relative?.alwaysValid ?? null)]]
      : []),
  ];
  return table(rows, [1]);
}

function relativeWords(relative: Figure | Interval | null): string {
  if (!relative) return "relative: not said";
  const digits = digitsFor(relative.low * 100, relative.high * 100);
  const whole = (x: number) => `${x < 0 ? "−" : "+"}${fixed(Math.abs(x) * 100, digits)}`;
  return `relative ${whole(relative.low)} to ${whole(relative.high)} %`;
}

function scalesLines({ scales, groups }: Weighing): string[] {
  const { expected, found, probability, alwaysValid, ok } = scales;
  if (ok === null) return ["The scales: nobody can know what was due."];
  const parts = groups.map(
    ({ name }, g) => `${printable(name)} ${number(found[g]!)} where ${number(Math.round(expected[g]!))} were due`,
  );
  const p = (x: number) => (x < 0.001 ? x.toExponential(1) : x.toFixed(3));
  const sure = `always valid ${p(alwaysValid)}, one look ${p(probability)}`;
  return wrap(`The scales are ${ok ? "sound" : "off"}: ${parts.join(", ")} (${sure}).`, "", 98);
}

function spanLines({ spans, within }: Weighing): string[] {
  const shown = spans.filter(({ people }) => people.some((n) => n > 0));
  const window = within === null ? [] : [`Outcomes of ${within / 86_400_000} days after the first verdict.`];
  if (shown.length < 2) return window;
  const rows = shown.map(({ from, until, people }) => [
    `  ${from === null ? "until" : `from ${showInstant(Date.parse(from), undefined)}`}`,
    until === null ? "on" : showInstant(Date.parse(until), undefined),
    people.map(number).join(" and "),
  ]);
  return ["Spans, each compared inside itself", ...table(rows), ...window];
}

const leftOutWords: Readonly<Record<string, string>> = {
  overriddenBefore: "people overridden before",
  outsideDates: "people who came in at other times",
  withinNotOver: "people whose time is not over",
  unreadableLines: "lines that cannot be read",
  otherEnvironments: "verdicts of other environments",
  withoutInstant: "rows without an instant",
  withoutId: "rows without an id",
  privateIds: "verdicts of private ids",
  otherIds: "verdicts by another id",
  otherVariants: "verdicts of other variants",
  sentOnly: "verdicts only sent to pages",
  beforeChange: "verdicts before the groups were these",
  ofOthers: "outcomes of people who are not compared",
  beforeFirstVerdict: "outcomes before the first verdict",
  afterEnd: "outcomes after the end",
  repeated: "rows that say the same once more",
  notANumber: "values that are not numbers",
  withoutValue: "outcomes without a value",
};

function leftOutLines({ leftOut, diluted }: Weighing): string[] {
  const all = leftOut
    ? [leftOut.people, leftOut.verdicts, leftOut.outcomes].flatMap((each) => Object.entries(each))
    : [];
  const told = all.filter(([, n]) => n > 0).map(([key, n]) => `${number(n)} ${leftOutWords[key]}`);
  const later = diluted ? [`${number(diluted)} of those compared got something else later (diluted).`] : [];
  return [...(told.length > 0 ? wrap(`Not counted: ${told.join(", ")}.`, "", 98) : []), ...later];
}
