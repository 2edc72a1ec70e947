/** Minutes from the midnight that begins the day; `end` is greater than `start` and may lie past the next midnight. */
export interface DaySpan {
  readonly start: number;
  readonly end: number;
}

/** Spans by weekday, Monday first. */
export type Week = readonly (readonly DaySpan[])[];

/** What is wrong with opening hours, and where in their text. */
export interface HoursFault {
  readonly message: string;
  readonly span: { readonly start: number; readonly end: number };
  readonly help?: string | undefined;
}

export type ParsedHours =
  | { readonly week: Week; readonly fault?: undefined }
  | { readonly week?: undefined; readonly fault: HoursFault };

const dayNames = ["Mo", "Tu", "We", "Th", "Fr", "Sa", "Su"];
const minutesOfDay = 24 * 60;
const dayList =
  /^(?:Mo|Tu|We|Th|Fr|Sa|Su)(?:-(?:Mo|Tu|We|Th|Fr|Sa|Su))?(?:,(?:Mo|Tu|We|Th|Fr|Sa|Su)(?:-(?:Mo|Tu|We|Th|Fr|Sa|Su))?)*/;
const spanShape = /^([0-9]{2}):([0-9]{2})-([0-9]{2}):([0-9]{2})$/;

/**
 * Reads the subset of the open opening-hours notation that windows use: `Mo-Fr 07:00-19:00; Sa 09:00-13:00`. A later
 * rule replaces earlier ones for the days that it names; a span whose end is before its start runs past midnight.
 */
export function parseHours(text: string): ParsedHours {
  const week: DaySpan[][] = dayNames.map(() => []);
  let offset = 0;
  for (const piece of text.split(";")) {
    const lead = offset === 0 ? 0 : piece.length - piece.trimStart().length;
    const start = offset + lead;
    const fault = readRule(piece.slice(lead), week);
    if (fault) {
      const span = { start: start + fault.span.start, end: start + fault.span.end };
      return { fault: { ...fault, span, help: helpFor(text.slice(span.start, span.end)) } };
    }
    offset += piece.length + 1;
  }
  return { week };
}

function readRule(rule: string, week: DaySpan[][]): HoursFault | undefined {
  const days = dayList.exec(rule)?.[0];
  const named = days === undefined ? [0, 1, 2, 3, 4, 5, 6] : daysOf(days);
  if (!Array.isArray(named)) return { message: named.message, span: { start: 0, end: days!.length } };
  const gap = days === undefined ? 0 : (/^ */.exec(rule.slice(days.length))?.[0].length ?? 0);
  const times = rule.slice((days?.length ?? 0) + gap);
  const start = rule.length - times.length;
  if (times === "") return { message: emptyRule(days), span: { start: 0, end: Math.max(rule.length, 1) } };
  if (days !== undefined && gap === 0) {
    return { message: "A blank is needed between the days and the times.", span: { start: 0, end: rule.length } };
  }
  const spans = times === "off" ? [] : readSpans(times, start);
  if (!Array.isArray(spans)) return spans;
  for (const day of named) week[day] = spans;
  return undefined;
}

/** Days in three letters or in full, in small letters or apart are meant as often as not. */
function helpFor(found: string): string | undefined {
  const named = found.replace(anyDay, (day) => `${day.charAt(0).toUpperCase()}${day.charAt(1).toLowerCase()}`);
  const mended = named.replace(blankBetweenDays, ",");
  if (mended === found) return undefined;
  return `write ${mended}: ${named === found ? "no blank between days" : "days have two letters, as in Mo"}`;
}

const anyDay =
  /\b(?:mo(?:n(?:day)?)?|tu(?:e(?:s(?:day)?)?)?|we(?:d(?:nesday)?)?|th(?:u(?:rs(?:day)?)?)?|fr(?:i(?:day)?)?|sa(?:t(?:urday)?)?|su(?:n(?:day)?)?)\b/gi;
const blankBetweenDays = /, +(?=[A-Z])/g;

function emptyRule(days: string | undefined): string {
  return days === undefined
    ? "There is an empty rule here."
    : "These days have no times; write “off” if they are closed.";
}

function daysOf(list: string): number[] | { message: string } {
  const days: number[] = [];
  for (const item of list.split(",")) {
    const [first, last] = item.split("-").map((name) => dayNames.indexOf(name)) as [number, number | undefined];
    if (last === first) return { message: `“${item}” is a range with one end; write “${item.slice(0, 2)}”.` };
    for (let day = first; ; day = (day + 1) % 7) {
      days.push(day);
      if (last === undefined || day === last) break;
    }
  }
  return days;
}

function readSpans(times: string, offset: number): DaySpan[] | HoursFault {
  const spans: DaySpan[] = [];
  let from = offset;
  for (const [i, piece] of times.split(",").entries()) {
    const lead = i === 0 ? 0 : (/^ */.exec(piece)?.[0].length ?? 0);
    const span = readSpan(piece.slice(lead));
    if (typeof span === "string") {
      return { message: span, span: { start: from + lead, end: from + Math.max(piece.length, 1) } };
    }
    spans.push(span);
    from += piece.length + 1;
  }
  return spans;
}

function readSpan(text: string): DaySpan | string {
  const match = spanShape.exec(text);
  if (text === "") return "A span of time is missing here; write HH:MM-HH:MM.";
  if (!match) return `“${text}” is not a span of time; write HH:MM-HH:MM, or “off”.`;
  const [hour, minute, endHour, endMinute] = match.slice(1).map(Number) as [number, number, number, number];
  const start = hour * 60 + minute;
  const end = endHour * 60 + endMinute;
  if (hour > 23 || minute > 59)
    return `“${text.slice(0, 5)}” is not a time of day; a span starts between 00:00 and 23:59.`;
  if (endMinute > 59 || end > minutesOfDay)
    return `“${text.slice(6)}” is not a time of day; a span ends between 00:00 and 24:00.`;
  if (start === end) return `“${text}” begins where it ends; write 00:00-24:00 for the whole day.`;
  return { start, end: end < start ? end + minutesOfDay : end };
}
