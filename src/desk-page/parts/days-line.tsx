import { scaleTime } from "d3-scale";
import type { AgendaEntry } from "../../insight/index.ts";
import { instantOf, now } from "../asking/clock.ts";
import { question } from "../asking/question-now.ts";
import { askFor } from "../definitions/asking.ts";
import { outlookOf } from "../definitions/flag-index.ts";
import type { ReadSet } from "../definitions/read-set.ts";
import { showMoment, zoneOf } from "./times.ts";

const day = 86_400_000;
const span = 90 * day;
/** Two changes this near to each other are one place of the line. */
const near = 60_000;

interface Stop {
  readonly at: number;
  readonly entries: readonly AgendaEntry[];
}

/** The next 90 days, with a tick for each dated change: moving along it moves the instant of the question. */
export function DaysLine({ set }: { readonly set: ReadSet }) {
  const definitions = set.definitions!;
  const zone = zoneOf(definitions);
  const from = Math.floor(now.value / 60_000) * 60_000;
  const asked = question.value.asked;
  const at = instantOf(asked);
  const stops = stopsOf(outlookOf(definitions, from).entries, from);
  const scale = scaleTime([from, from + span], [0, 100]);
  const place = Math.min(100, Math.max(0, scale(at)));
  const choose = (instant: number) => askFor({ at: instant <= now.peek() ? undefined : instant });
  const onKey = (event: KeyboardEvent) => {
    const next = {
      ArrowRight: after(stops, at),
      ArrowUp: after(stops, at),
      ArrowLeft: before(stops, at, from),
      ArrowDown: before(stops, at, from),
      Home: from,
    }[event.key];
    if (next === undefined) return;
    event.preventDefault();
    choose(next);
  };
  const slide = (value: number) => {
    const instant = from + value;
    const closest = stops.toSorted((a, b) => Math.abs(a.at - instant) - Math.abs(b.at - instant))[0];
    choose(closest && Math.abs(closest.at - instant) < day * 1.5 ? closest.at : instant);
  };
  const here = stops.find((stop) => Math.abs(stop.at - at) < near);
  return (
    <div class="days">
      <div class="line">
        <svg viewBox="0 0 100 10" preserveAspectRatio="none" aria-hidden="true">
          <line x1="0" x2="100" y1="9" y2="9" class="axis" />
          {monthsIn(from).map((month) => (
            <line key={month} x1={scale(month)} x2={scale(month)} y1="0" y2="9" class="month" />
          ))}
          {stops.map((stop) => (
            <line key={stop.at} x1={scale(stop.at)} x2={scale(stop.at)} y1="3" y2="9" class="tick" />
          ))}
        </svg>
        <input
          type="range"
          min={0}
          max={span}
          step={3_600_000}
          value={Math.min(span, Math.max(0, at - from))}
          aria-label="The instant, along the next 90 days; arrow keys go from change to change"
          aria-valuetext={`${showMoment(at, zone)}${here ? `: ${wordsOf(here)}` : ""}`}
          onInput={(event) => slide(Number(event.currentTarget.value))}
          onKeyDown={onKey}
        />
        <span class="hand" style={{ left: `${place}%` }} aria-hidden="true" />
      </div>
      <p class="marks" aria-hidden="true">
        <span>today</span>
        {stops.length === 0 && <span class="label">nothing changes by itself in these 90 days</span>}
        {labelled(stops, here, scale).map((stop) => {
          const left = scale(stop.at);
          return (
            <span
              key={stop.at}
              class={`label ${stop === here ? "here" : ""} ${left > 70 ? "before" : ""}`}
              style={{ left: `${left}%` }}
            >
              <b>{stop === here ? showMoment(stop.at, zone) : shortDay(stop.at, zone)}</b> {wordsOf(stop)}
            </span>
          );
        })}
      </p>
    </div>
  );
}

function stopsOf(entries: readonly AgendaEntry[], from: number): Stop[] {
  const stops: { at: number; entries: AgendaEntry[] }[] = [];
  for (const entry of entries) {
    if (entry.kind === "review" || entry.at > from + span) continue;
    const last = stops.at(-1);
    if (last && entry.at - last.at < near) last.entries.push(entry);
    else stops.push({ at: entry.at, entries: [entry] });
  }
  return stops;
}

function after(stops: readonly Stop[], at: number): number | undefined {
  return stops.find((stop) => stop.at > at + near)?.at;
}

function before(stops: readonly Stop[], at: number, from: number): number {
  return stops.findLast((stop) => stop.at < at - near)?.at ?? from;
}

function wordsOf({ entries }: Stop): string {
  const [first] = entries;
  const more = entries.length > 1 ? `, and ${entries.length - 1} more` : "";
  return `${first!.name} ${first!.words}${more}`;
}

/** `Tue 8 Dec` */
function shortDay(at: number, zone: string): string {
  return showMoment(at, zone).replace(/,| \d{4}.*/g, "");
}

/** How much of the line a label takes, in percent. */
const room = 22;

/** The ticks that have room for their names; the one that is asked about has one always. */
function labelled(stops: readonly Stop[], here: Stop | undefined, scale: (at: number) => number): readonly Stop[] {
  const kept: Stop[] = here ? [here] : [];
  const isFree = (stop: Stop) =>
    scale(stop.at) > 6 && kept.every((each) => Math.abs(scale(each.at) - scale(stop.at)) > room);
  for (const stop of stops) if (isFree(stop)) kept.push(stop);
  return kept;
}

function monthsIn(from: number): number[] {
  const start = new Date(from);
  return [1, 2, 3]
    .map((n) => Date.UTC(start.getUTCFullYear(), start.getUTCMonth() + n, 1))
    .filter((at) => at < from + span);
}
