import { showInstant } from "../calendar/index.ts";
import { printable } from "../values/index.ts";
import { sum } from "./estimate.ts";
import type { Weighing } from "./weigh.ts";
import { count, fixed } from "./words.ts";

/** What stands above a weighing: what is compared, and whose figures they are. */
export function headOf({ flag, environment, rule, groups, by, from, until }: Weighing): readonly [string, string] {
  const where = environment === null ? "" : ` in ${environment}`;
  const called = typeof rule === "number" ? `rule ${rule}` : `rule “${printable(rule)}”`;
  const people = groups.map((group) => `${count(group.people)} ${printable(group.name)}`).join(", ");
  const dates = from === null || until === null ? "at no time" : `from ${shownInstant(from)} to ${shownInstant(until)}`;
  return [
    `${flag}${where}, ${called}: ${people}`,
    `People by ${by} who came in ${dates}, if nothing else differs between the groups.`,
  ];
}

/** What has to be known beside the figures, a sentence each: the scales, the spans, the window, what was not counted. */
export function factsOf(weighing: Weighing): readonly string[] {
  return [scalesFact(weighing), ...spanFacts(weighing), ...leftOutFacts(weighing), ...weighing.notes];
}

function shownInstant(at: string): string {
  return showInstant(Date.parse(at), undefined);
}

function scalesFact({ scales, groups }: Weighing): string {
  const { expected, found, probability, alwaysValid, ok } = scales;
  if (ok === null) return "The scales: nobody can know what was due.";
  if (sum(found) === 0) return "The scales: nobody is on them.";
  const parts = groups.map(
    ({ name }, g) => `${printable(name)} ${count(found[g]!)} where ${count(Math.round(expected[g]!))} were due`,
  );
  const p = (x: number) => (x < 0.001 ? x.toExponential(1) : fixed(x, 3));
  return `The scales are ${ok ? "sound" : "off"}: ${parts.join(", ")} (p ${p(alwaysValid)} always valid, ${p(probability)} for one look).`;
}

function spanFacts({ spans, within }: Weighing): string[] {
  const window = within === null ? [] : [`Outcomes count for ${lengthOf(within)} after the first verdict.`];
  const counted = spans.filter(({ people }) => sum(people) > 0);
  if (counted.length < 2) return window;
  const each = counted.map(({ from, until, people }) => {
    const time = until === null ? `from ${shownInstant(from!)}` : `until ${shownInstant(until)}`;
    return `${people.map(count).join(" and ")} ${time}`;
  });
  return [`${counted.length} spans, each compared inside itself: ${each.join(", ")}.`, ...window];
}

const units = [
  [86_400_000, "day"],
  [3_600_000, "hour"],
  [60_000, "minute"],
] as const;

function lengthOf(milliseconds: number): string {
  const [length, unit] = units.find(([each]) => milliseconds % each === 0) ?? [1_000, "second"];
  const n = milliseconds / length;
  return `${count(n)} ${unit}${n === 1 ? "" : "s"}`;
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

function leftOutFacts({ leftOut, diluted }: Weighing): string[] {
  const all = leftOut
    ? [leftOut.people, leftOut.verdicts, leftOut.outcomes].flatMap((each) => Object.entries(each))
    : [];
  const told = all.filter(([, n]) => n > 0).map(([key, n]) => `${count(n)} ${leftOutWords[key]}`);
  const later = diluted ? [`${count(diluted)} of those compared got something else later (diluted).`] : [];
  return [...(told.length > 0 ? [`Not counted: ${told.join(", ")}.`] : []), ...later];
}
