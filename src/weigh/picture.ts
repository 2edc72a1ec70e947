import { scaleLinear, scaleUtc } from "d3-scale";
import { area, line } from "d3-shape";
import type { Interval } from "./interval.ts";
import type { DayFigure, Difference, WeighedMeasure } from "./judge-measure.ts";
import type { Weighing } from "./weigh.ts";
import { shown } from "./words.ts";

/** How the picture is drawn. */
export interface PictureOptions {
  /** In pixels; below 700 what stands side by side comes one under the other. 960 by default. */
  readonly width?: number | undefined;
  /** False for a page that has styles of its own for these classes, and says the words itself. True by default. */
  readonly isAlone?: boolean | undefined;
}

/** Where the parts of one difference stand. */
interface Layout {
  readonly bars: Panel;
  readonly days: Panel;
  readonly height: number;
  readonly hasWords: boolean;
}

interface Panel {
  readonly from: number;
  readonly to: number;
  /** Below the top of the difference. */
  readonly top: number;
}

function layoutOf(width: number, hasWords: boolean): Layout {
  const top = hasWords ? 66 : 40;
  if (width >= 700)
    return {
      bars: { from: 24, to: 0.42 * width, top },
      days: { from: 0.52 * width, to: width - 24, top },
      height: top + 174,
      hasWords,
    };
  return {
    bars: { from: 12, to: width - 12, top },
    days: { from: 48, to: width - 20, top: top + 160 },
    height: top + 330,
    hasWords,
  };
}

/** Shades and outlines tell the intervals apart, so that colour is not needed; the reader's scheme decides which are used. */
const style = `
text { font: 14px system-ui, sans-serif; fill: #1d2a33 }
.name { font-weight: 600; font-size: 16px } .faint { fill: #5a6a75; font-size: 12px }
.page { fill: #fff } .zero { stroke: #1d2a33; stroke-dasharray: 2 4 } .axis { stroke: #b6c2ca }
.bar { fill: #9fb6c6 } .one { fill: #2f6f9f; fill-opacity: 0.45 } .any { fill: #2f6f9f; fill-opacity: 0.12; stroke: #2f6f9f; stroke-dasharray: 5 3 }
.figure { fill: none; stroke: #1d2a33; stroke-width: 2 } .dot { fill: #1d2a33 }
@media (prefers-color-scheme: dark) {
text { fill: #e6edf2 } .faint { fill: #a3b3be } .page { fill: #14202a } .zero, .figure { stroke: #e6edf2 } .dot { fill: #e6edf2 }
.axis { stroke: #3c4d5a } .bar { fill: #4a6273 } .one, .any { fill: #7cc0f0 } .any { stroke: #7cc0f0 } }`;

/**
 * Draws each difference with both of its intervals, and how they went by day, as SVG.
 *
 * @example await writeFile("weighed.svg", weighingPicture(await weigh(definitions, request)));
 */
export function weighingPicture(weighing: Weighing, { width = 960, isAlone = true }: PictureOptions = {}): string {
  const rows = [...weighing.measures, ...weighing.guards].flatMap((measure) =>
    measure.differences.filter(({ absolute }) => isAlone || absolute).map((difference) => ({ measure, difference })),
  );
  const layout = layoutOf(width, isAlone);
  const head = isAlone ? headOf(weighing) : [];
  const top = isAlone ? 84 : 0;
  const height = top + rows.length * layout.height;
  const blocks = rows.map(({ measure, difference }, i) => block(measure, difference, top + i * layout.height, layout));
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}" role="img" aria-label="${safe(`What came of ${weighing.flag}`)}">
${isAlone ? `<style>${style}</style>\n<rect class="page" width="${width}" height="${height}"/>\n` : ""}${[...head, ...blocks].join("\n")}
</svg>
`;
}

function headOf({ flag, environment, from, until, groups }: Weighing): string[] {
  const dates = [from, until].map((at) => at?.slice(0, 10) ?? "–").join(" to ");
  const people = groups.map((group) => `${shown(group.people)} ${group.name}`).join(", ");
  return [
    words(24, 34, `${flag}${environment === null ? "" : ` in ${environment}`}: what came of it`, "name"),
    words(24, 58, `${people} · people who came in ${dates} · if nothing else differs between the groups`, "faint"),
  ];
}

function block(measure: WeighedMeasure, difference: Difference, top: number, layout: Layout): string {
  const { absolute, alwaysValid, says, from, to, byDay } = difference;
  const units = measure.kind === "rate" ? 100 : 1;
  const left = layout.bars.from;
  const parts = [
    words(left, top + 20, `${measure.name}: ${to} less ${from}${units === 100 ? ", in points" : ""}`, "name"),
  ];
  if (layout.hasWords) parts.push(words(left, top + 42, says));
  if (absolute) parts.push(bars(absolute, alwaysValid, units, { ...layout.bars, top: top + layout.bars.top }));
  if (byDay.length > 1) parts.push(days(byDay, units, { ...layout.days, top: top + layout.days.top }));
  return `<g>${parts.join("\n")}</g>`;
}

/** A bar from nothing to the figure; the thick interval is that of one look, the outlined one holds for any number. */
function bars(
  absolute: Difference["absolute"] & object,
  always: Interval | null,
  units: number,
  { from, to, top }: Panel,
): string {
  const ends = [0, absolute.low, absolute.high, always?.low ?? 0, always?.high ?? 0].map((each) => each * units);
  const x = scaleLinear([Math.min(...ends), Math.max(...ends)], [from, to]).nice();
  const at = (figure: number) => x(figure * units);
  const box = ({ low, high }: Interval, y: number, height: number, kind: string) =>
    `<rect class="${kind}" x="${px(at(low))}" y="${y}" width="${px(at(high) - at(low))}" height="${height}"/>`;
  const bar = { low: Math.min(0, absolute.figure), high: Math.max(0, absolute.figure) };
  return [
    box(bar, top + 4, 22, "bar"),
    box(absolute, top + 44, 12, "one"),
    ...(always ? [box(always, top + 66, 12, "any")] : []),
    ...[15, 50, ...(always ? [72] : [])].map(
      (y) => `<circle class="dot" cx="${px(at(absolute.figure))}" cy="${top + y}" r="3.5"/>`,
    ),
    `<line class="zero" x1="${px(x(0))}" x2="${px(x(0))}" y1="${top - 2}" y2="${top + 90}"/>`,
    `<line class="axis" x1="${from}" x2="${to}" y1="${top + 92}" y2="${top + 92}"/>`,
    ...x.ticks(5).map((tick) => words(x(tick), top + 108, shown(tick), "faint", "middle")),
    words(from, top + 130, "filled: one look · outlined: any number of looks", "faint"),
  ].join("\n");
}

/** People who came in up to each day, outcomes as they are known now. */
function days(byDay: readonly DayFigure[], units: number, { from, to, top }: Panel): string {
  const bottom = top + 104;
  const at = (day: DayFigure) => Date.parse(day.day);
  const ends = [
    0,
    ...byDay.flatMap(({ figure, alwaysValid: any }) => [figure, any?.low ?? figure, any?.high ?? figure]),
  ];
  const last = byDay.at(-1)!;
  const spread = [last.low, last.high, ...ends].map((each) => each * units);
  const x = scaleUtc([at(byDay[0]!), at(last)], [from, to]);
  const y = scaleLinear([Math.min(...spread), Math.max(...spread)], [bottom, top])
    .nice()
    .clamp(true);
  const band = (of: (day: DayFigure) => Interval | null) =>
    area<DayFigure>()
      .defined((day) => of(day) !== null)
      .x((day) => x(at(day)))
      .y0((day) => y(of(day)!.low * units))
      .y1((day) => y(of(day)!.high * units))
      .digits(1)(byDay) ?? "";
  const figure = line<DayFigure>()
    .x((day) => x(at(day)))
    .y((day) => y(day.figure * units))
    .digits(1)(byDay);
  return [
    `<path class="any" d="${band(({ alwaysValid }) => alwaysValid)}"/>`,
    `<path class="one" d="${band((day) => day)}"/>`,
    `<path class="figure" d="${figure}"/>`,
    `<line class="zero" x1="${from}" x2="${to}" y1="${px(y(0))}" y2="${px(y(0))}"/>`,
    ...y.ticks(4).map((tick) => words(from - 8, y(tick) + 4, shown(tick), "faint", "end")),
    ...x.ticks(4).map((tick) => words(x(tick), bottom + 18, tick.toISOString().slice(5, 10), "faint", "middle")),
    words(from, bottom + 38, "by day: people who came in until then", "faint"),
  ].join("\n");
}

function words(x: number, y: number, text: string, kind = "", anchor = "start"): string {
  return `<text x="${px(x)}" y="${px(y)}"${kind && ` class="${kind}"`} text-anchor="${anchor}">${safe(text)}</text>`;
}

function px(at: number): string {
  return String(Number(at.toFixed(1)));
}

function safe(text: string): string {
  const escapes: Record<string, string> = { "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" };
  // Control characters cannot stand in XML.
  return text.replace(/[&<>"]/g, (each) => escapes[each]!).replace(/\p{Cc}/gu, " ");
}
