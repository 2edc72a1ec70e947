import { isZone, showInstant } from "../../calendar/index.ts";
import type { Definitions } from "../../model/index.ts";

const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
const zones = new WeakMap<Definitions, string>();

/** The zone in which instants are shown: the one that most files of the definitions go by, else that of the browser. */
export function zoneOf(definitions: Definitions | undefined): string {
  if (!definitions) return shownZone(here);
  let zone = zones.get(definitions);
  if (zone === undefined) {
    zone = shownZone(most(definitions) ?? here);
    zones.set(definitions, zone);
  }
  return zone;
}

function most({ flags, windows }: Definitions): string | undefined {
  const counts = new Map<string, number>();
  const written = [
    ...[...flags.values()].map(({ defaults }) => defaults.zone),
    ...[...windows.values()].map(({ window }) => window.parts.zone),
  ];
  for (const zone of written) if (zone !== undefined) counts.set(zone, (counts.get(zone) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0];
}

function shownZone(zone: string): string {
  return isZone(zone) ? zone : "UTC";
}

const formats = new Map<string, Intl.DateTimeFormat>();

/** Making a format takes longer than a frame has for all of them, so that each is made once. */
function formatFor(zone: string, kind: keyof typeof kinds): Intl.DateTimeFormat {
  const key = `${kind} ${zone}`;
  let format = formats.get(key);
  if (!format) {
    format = new Intl.DateTimeFormat("en-GB", { timeZone: zone, ...kinds[kind] });
    formats.set(key, format);
  }
  return format;
}

const date = { day: "numeric", month: "short", year: "numeric" } as const;
const kinds = {
  moment: { weekday: "short", ...date, hour: "2-digit", minute: "2-digit" },
  day: date,
} as const satisfies Record<string, Intl.DateTimeFormatOptions>;

/** `Fri 4 Dec 2026, 09:00`, in a zone. */
export function showMoment(at: number, zone: string): string {
  return formatFor(zone, "moment").format(at);
}

export function showDay(at: number, zone: string): string {
  return formatFor(zone, "day").format(at);
}

/** As the commands write it, with the zone. */
export function showExactly(at: number, zone: string): string {
  return showInstant(at, zone);
}

const words = new Intl.RelativeTimeFormat("en", { numeric: "auto" });

/** `in 3 days`, `2 hours ago`. */
export function distance(milliseconds: number): string {
  const minutes = Math.round(milliseconds / 60_000);
  if (Math.abs(minutes) < 120) return words.format(minutes, "minute");
  const hours = Math.round(minutes / 60);
  return Math.abs(hours) < 48 ? words.format(hours, "hour") : words.format(Math.round(hours / 24), "day");
}

/** What a field for a local time holds for an instant: `2026-12-04T09:00`. */
export function fieldOf(at: number, zone: string): string {
  const parts = new Intl.DateTimeFormat("en-CA", {
    timeZone: zone,
    year: "numeric",
    month: "2-digit",
    day: "2-digit",
    hour: "2-digit",
    minute: "2-digit",
    hourCycle: "h23",
  }).formatToParts(at);
  const part = (type: string) => parts.find((each) => each.type === type)?.value ?? "";
  return `${part("year")}-${part("month")}-${part("day")}T${part("hour")}:${part("minute")}`;
}
