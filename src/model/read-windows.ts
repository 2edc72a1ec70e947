import {
  canEverBeOpen,
  isDateText,
  isZone,
  nearestZone,
  parseHours,
  readInstant,
  TimeWindow,
} from "../calendar/index.ts";
import { at, type Place, type Problems } from "../problems/index.ts";
import type { Entry, WindowSource } from "../source/index.ts";
import type { WindowDefinition } from "./types.ts";

export function readWindows(
  entries: readonly Entry<WindowSource>[],
  problems: Problems,
): Map<string, WindowDefinition> {
  const windows = new Map<string, WindowDefinition>();
  for (const entry of entries) windows.set(entry.name, readWindow(entry, problems));
  return windows;
}

function readWindow(entry: Entry<WindowSource>, problems: Problems): WindowDefinition {
  const { name, source, place, defaults } = entry;
  const { hours, except = [], about } = source;
  const zone =
    source.zone === undefined ? zoneOfFile(defaults.zone) : readZone(source.zone, at(place, "zone"), problems);
  const window = new TimeWindow({
    from: readBound(source.from, zone, at(place, "from"), problems),
    until: readEnd(source, zone, place, problems),
    zone: zone === "unknown" ? "UTC" : zone,
    week: hours === undefined ? undefined : parseHours(hours).week,
    except,
  });
  const isEmpty = !["from", "until", "through", "hours"].some((key) => entry.says(key));
  checkWindow({ source, place, zone, window, isEmpty }, problems);
  return { name, place, about, window, hours };
}

/** `through` is the last day that is inside: it ends with the first midnight of the next one. */
function readEnd({ until, through }: WindowSource, zone: Zone, place: Place, problems: Problems): number | undefined {
  if (through === undefined) return readBound(until, zone, at(place, "until"), problems);
  const here = at(place, "through");
  if (until !== undefined) {
    problems.report("not-exactly-one", here, { message: "Only one of “until” and “through” belongs here." });
    return undefined;
  }
  return isDateText(through) ? readBound(dayAfter(through), zone, here, problems) : undefined;
}

function dayAfter(day: string): string {
  return new Date(Date.parse(`${day}T00:00Z`) + 86_400_000).toISOString().slice(0, 10);
}

/** "unknown" stands for a zone that is named but does not exist; it has been reported. */
export type Zone = string | "unknown" | undefined;

export function readZone(zone: string | undefined, place: Place, problems: Problems): Zone {
  if (zone === undefined || isZone(zone)) return zone;
  const near = nearestZone(zone);
  problems.report("zone-unknown", place, {
    message: `There is no time zone “${zone}”.`,
    found: zone,
    expected: "an IANA name spelt as in the database, such as Atlantic/Faroe",
    help: near && `did you mean ${near}?`,
  });
  return "unknown";
}

/** The zone under `defaults`, which is reported where it stands. */
export function zoneOfFile(zone: string | undefined): Zone {
  return zone === undefined || isZone(zone) ? zone : "unknown";
}

export function readBound(text: string | undefined, zone: Zone, place: Place, problems: Problems): number | undefined {
  if (text === undefined) return undefined;
  const epoch = readInstant(text, zone === "unknown" ? "UTC" : zone);
  if (typeof epoch === "number") return epoch;
  if (epoch === "form") {
    problems.report("time-invalid", place, {
      message: `“${text}” is not an instant.`,
      found: text,
      expected:
        "a date (2026-12-01), a date and time (2026-12-01T09:00), or one with Z or an offset; the day must exist",
    });
  } else {
    reportNoZone(text, place, problems);
  }
  return undefined;
}

function reportNoZone(text: string, place: Place, problems: Problems): void {
  problems.report("zone-missing", place, {
    message: `“${text}” is local time, and no zone is given.`,
    found: text,
    expected: "a zone: here, or under “defaults” of this file",
    help: "add “zone: Atlantic/Faroe”, or write Z or an offset",
  });
}

interface Checked {
  readonly source: WindowSource;
  readonly place: Place;
  readonly zone: Zone;
  readonly window: TimeWindow;
  /** The file says neither when it begins, nor when it ends, nor at which hours it is open. */
  readonly isEmpty: boolean;
}

function checkWindow({ source, place, zone, window, isEmpty }: Checked, problems: Problems): void {
  const { from, until, except } = window.parts;
  const { hours } = source;
  const whole: Place = { ...place, part: "key" };
  if (isEmpty) {
    problems.report("window-empty", whole, {
      message: "This window has neither a bound nor hours.",
      expected: "at least one of from, until, through and hours",
    });
  }
  if (from !== undefined && until !== undefined && until <= from) {
    problems.report("window-turned", at(place, source.through === undefined ? "until" : "through"), {
      message: "This window ends at or before its beginning.",
      found: source.until ?? source.through,
      expected: `an instant after ${source.from}`,
    });
  } else if (zone === undefined && (hours !== undefined || except.length > 0)) {
    reportNoZone(hours ?? except[0]!, at(place, hours === undefined ? "except" : "hours"), problems);
  } else if (zone !== "unknown" && !canEverBeOpen(window)) {
    problems.report("window-never-open", whole, {
      message: "This window can never be open.",
      help: "look at its hours, its bounds and its excepted dates",
    });
  }
}
