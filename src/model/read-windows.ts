import { parseHours } from "../calendar/hours.ts";
import { isDateText, isZone, nearestZone, readInstant } from "../calendar/instant.ts";
import { canEverBeOpen, TimeWindow } from "../calendar/window.ts";
import { at, type Place, type Problems } from "../problems/problem.ts";
import type { Entry } from "../source/entries.ts";
import { isObject, own } from "../values/data.ts";
import type { WindowDefinition } from "./types.ts";

export function readWindows(entries: readonly Entry[], problems: Problems): Map<string, WindowDefinition> {
  const windows = new Map<string, WindowDefinition>();
  for (const entry of entries) windows.set(entry.name, readWindow(entry, problems));
  return windows;
}

function readWindow({ name, source, place, defaults }: Entry, problems: Problems): WindowDefinition {
  const parts = isObject(source) ? source : {};
  const text = (key: string) => {
    const value = own(parts, key);
    return typeof value === "string" ? value : undefined;
  };
  const zone = readZone(
    text("zone") ?? textOf(own(defaults, "zone")),
    text("zone") ? at(place, "zone") : place,
    problems,
  );
  const bound = (key: string) => readBound(text(key), zone, at(place, key), problems);
  const from = bound("from");
  const until = bound("until");
  const hours = text("hours");
  const { week } = hours === undefined ? { week: undefined } : parseHours(hours);
  const dates = own(parts, "except");
  const except = Array.isArray(dates) ? dates.filter((d): d is string => typeof d === "string" && isDateText(d)) : [];
  const window = new TimeWindow({ from, until, zone: zone === "unknown" ? "UTC" : zone, week, except });
  checkWindow({ parts, place, zone, hours, window }, problems);
  return { name, place, about: text("about"), window, hours };
}

function textOf(value: unknown): string | undefined {
  return typeof value === "string" ? value : undefined;
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

export function readBound(text: string | undefined, zone: Zone, place: Place, problems: Problems): number | undefined {
  if (text === undefined) return undefined;
  const epoch = readInstant(text, zone === "unknown" ? "UTC" : zone);
  if (typeof epoch === "number") return epoch;
  if (epoch === "form") {
    problems.report("time-invalid", place, {
      message: `“${text}” is no instant.`,
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
    help: "add “zone: Atlantic/Faroe” (or yours), or write the instant with Z or an offset",
  });
}

interface Checked {
  readonly parts: object;
  readonly place: Place;
  readonly zone: Zone;
  readonly hours: string | undefined;
  readonly window: TimeWindow;
}

function checkWindow({ parts, place, zone, hours, window }: Checked, problems: Problems): void {
  const has = (key: string) => Object.hasOwn(parts, key);
  const { from, until, except, week } = window.parts;
  if (!has("from") && !has("until") && !has("hours")) {
    problems.report(
      "window-empty",
      { ...place, part: "key" },
      {
        message: "This window has neither a bound nor hours.",
        expected: "at least one of from, until and hours",
      },
    );
  }
  if (from !== undefined && until !== undefined && until <= from) {
    problems.report("window-turned", at(place, "until"), {
      message: "This window ends at or before its beginning.",
      found: String(own(parts, "until")),
      expected: `an instant after ${own(parts, "from")}`,
    });
    return;
  }
  if (zone === undefined && (hours !== undefined || except.length > 0)) {
    reportNoZone(hours ?? except[0]!, at(place, hours === undefined ? "except" : "hours"), problems);
    return;
  }
  const sound = hours === undefined || week !== undefined;
  if (sound && zone !== "unknown" && !canEverBeOpen(window)) {
    problems.report(
      "window-never-open",
      { ...place, part: "key" },
      {
        message: "This window can never be open.",
        help: "look at its hours, its bounds and its excepted dates",
      },
    );
  }
}
