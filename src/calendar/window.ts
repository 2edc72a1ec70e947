import type { Temporal } from "temporal-polyfill";
import { temporal } from "#late/temporal";
import type { Week } from "./hours.ts";

export interface WindowParts {
  /** Epoch milliseconds; open at and after it. */
  readonly from: number | undefined;
  /** Epoch milliseconds; shut at and after it. */
  readonly until: number | undefined;
  readonly zone: string | undefined;
  readonly week: Week | undefined;
  /** Local dates, `YYYY-MM-DD`. */
  readonly except: readonly string[];
}

/** A stretch of time in which a window does not change. */
export interface Stretch {
  readonly open: boolean;
  /** Epoch milliseconds; infinite where nothing bounds it. */
  readonly from: number;
  readonly until: number;
}

interface Interval {
  readonly start: number;
  readonly end: number;
}

/** Behind it, the calendar cannot name all the days that are worked out in one go; epoch milliseconds. */
const furthest = 8.64e15 - 20 * 86_400_000;

/** Days that are worked out in one go. */
const chunkDays = 7;
const furthestSearch = 800;

/**
 * Tells whether it is open at an instant. The calendar is asked for a week at a time and the answer kept, so that
 * asking again costs two comparisons.
 */
export class TimeWindow {
  readonly parts: WindowParts;
  #open = false;
  #from = Number.POSITIVE_INFINITY;
  #until = Number.NEGATIVE_INFINITY;
  /** The stretches of the last week asked for, and its bounds. */
  #chunk: { from: number; until: number; intervals: readonly Interval[] } | undefined;
  readonly #except: ReadonlySet<string>;

  constructor(parts: WindowParts) {
    this.parts = parts;
    this.#except = new Set(parts.except);
  }

  isOpen(at: number): boolean {
    if (at >= this.#from && at < this.#until) return this.#open;
    const { open, from, until } = this.stretch(at);
    this.#open = open;
    this.#from = from;
    this.#until = until;
    return open;
  }

  /**
   * The stretch around an instant. Its ends are where the window changes, or where the known week ends.
   */
  stretch(at: number): Stretch {
    const { from = Number.NEGATIVE_INFINITY, until = Number.POSITIVE_INFINITY } = this.parts;
    if (at < from) return { open: false, from: Number.NEGATIVE_INFINITY, until: from };
    if (at >= until) return { open: false, from: until, until: Number.POSITIVE_INFINITY };
    // What is not an instant (an infinite clock, say) is in no window.
    if (!(Math.abs(at) <= 8.64e15)) return { open: false, from: at, until: at };
    if (this.parts.week && Math.abs(at) > furthest) return { open: false, from: at, until: at };
    const chunk = this.#chunkAround(at);
    const inside = clip(within(at, chunk), { from, until });
    return inside;
  }

  /** The next instant after `at` at which the window opens or shuts; undefined if none is near. */
  nextChange(at: number): number | undefined {
    const { open } = this.stretch(at);
    let next = at;
    for (let i = 0; i < furthestSearch; i++) {
      const stretch = this.stretch(next);
      if (stretch.open !== open) return next;
      if (!Number.isFinite(stretch.until)) return undefined;
      next = stretch.until;
    }
    return undefined;
  }

  #chunkAround(at: number): { from: number; until: number; intervals: readonly Interval[] } {
    const known = this.#chunk;
    if (known && at >= known.from && at < known.until) return known;
    const { week, zone } = this.parts;
    const made = week ? this.#recurring(at, week, zone ?? "UTC") : this.#dated(zone);
    this.#chunk = made;
    return made;
  }

  /** Open all the time but on the excepted dates. */
  #dated(zone: string | undefined): { from: number; until: number; intervals: readonly Interval[] } {
    const shut = [...this.#except].sort().map((date) => {
      const day = temporal().PlainDate.from(date);
      return { start: midnight(day, zone ?? "UTC"), end: midnight(day.add({ days: 1 }), zone ?? "UTC") };
    });
    const intervals: Interval[] = [];
    let start = Number.NEGATIVE_INFINITY;
    for (const day of union(shut)) {
      if (day.start > start) intervals.push({ start, end: day.start });
      start = day.end;
    }
    intervals.push({ start, end: Number.POSITIVE_INFINITY });
    return { from: Number.NEGATIVE_INFINITY, until: Number.POSITIVE_INFINITY, intervals };
  }

  #recurring(at: number, week: Week, zone: string): { from: number; until: number; intervals: readonly Interval[] } {
    const today = temporal().Instant.fromEpochMilliseconds(Math.floor(at)).toZonedDateTimeISO(zone).toPlainDate();
    // A repeated stretch of local time can reach back over midnight, so the chunk begins a day early.
    const first = today.subtract({ days: 1 });
    const intervals: Interval[] = [];
    for (let i = -2; i < chunkDays; i++) intervals.push(...this.#spansOf(first.add({ days: i }), week, zone));
    return {
      from: midnight(first, zone),
      until: midnight(first.add({ days: chunkDays }), zone),
      intervals: union(intervals),
    };
  }

  #spansOf(day: Temporal.PlainDate, week: Week, zone: string): Interval[] {
    if (this.#except.has(day.toString())) return [];
    return week[day.dayOfWeek - 1]!.map(({ start, end }) => ({
      start: resolve(day, start, zone),
      end: resolve(day, end, zone),
    })).filter(({ start, end }) => start < end);
  }
}

function resolve(day: Temporal.PlainDate, minutes: number, zone: string): number {
  const date = day.add({ days: Math.floor(minutes / 1440) });
  const time = new (temporal().PlainTime)(Math.floor((minutes % 1440) / 60), minutes % 60);
  return date.toPlainDateTime(time).toZonedDateTime(zone).epochMilliseconds;
}

function midnight(day: Temporal.PlainDate, zone: string): number {
  return resolve(day, 0, zone);
}

function union(intervals: readonly Interval[]): Interval[] {
  const merged: Interval[] = [];
  for (const next of [...intervals].sort((a, b) => a.start - b.start)) {
    const last = merged.at(-1);
    if (last && next.start <= last.end)
      merged[merged.length - 1] = { start: last.start, end: Math.max(last.end, next.end) };
    else merged.push(next);
  }
  return merged;
}

function within(at: number, chunk: { from: number; until: number; intervals: readonly Interval[] }): Stretch {
  let from = chunk.from;
  for (const { start, end } of chunk.intervals) {
    if (at < start) return { open: false, from, until: Math.min(start, chunk.until) };
    if (at < end) return { open: true, from: Math.max(start, from), until: Math.min(end, chunk.until) };
    from = Math.max(from, end);
  }
  return { open: false, from, until: chunk.until };
}

function clip(stretch: Stretch, bounds: { from: number; until: number }): Stretch {
  return {
    open: stretch.open,
    from: Math.max(stretch.from, bounds.from),
    until: Math.min(stretch.until, bounds.until),
  };
}

/** Can the window ever be open? Windows with both bounds are walked through; the others recur. */
export function canEverBeOpen(window: TimeWindow): boolean {
  const { from, until, week } = window.parts;
  if (week?.every((spans) => spans.length === 0)) return false;
  if (from === undefined || until === undefined) return true;
  let at = from;
  for (let i = 0; i < furthestSearch && at < until; i++) {
    const stretch = window.stretch(at);
    if (stretch.open) return true;
    at = stretch.until;
  }
  return at < until;
}
