import { wrap } from "../../files/index.ts";
import { printable } from "../../values/index.ts";
import {
  type Difference,
  digitsFor,
  type Figure,
  factsOf,
  fixed,
  headOf,
  type Interval,
  type WeighedMeasure,
  type Weighing,
} from "../../weigh/index.ts";
import { count, explanationPaint, type Output, table } from "../output.ts";

/** What `iudex weigh` says to people: the words of each measure first, then the figures behind them. */
export function rendered(weighing: Weighing, { colour }: Output): string {
  const paint = explanationPaint(colour);
  const { measures, guards } = weighing;
  const [title, about] = headOf(weighing);
  const head = [paint.strong(title), ...wrap(about, "", 98).map(paint.faint)];
  const blocks = [
    head,
    ...measures.map((measure) => measureLines(measure, measure.name, paint.strong)),
    ...guards.map((guard) => measureLines(guard, `${guard.name} (guard: ${guard.bad} is worse)`, paint.strong)),
    factsOf(weighing).flatMap((fact) => wrap(fact, "", 98)),
  ];
  return `${blocks
    .filter((lines) => lines.length > 0)
    .map((lines) => lines.join("\n"))
    .join("\n\n")}\n`;
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
