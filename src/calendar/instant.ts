import { temporal } from "#late/temporal";
import { dayExists, memo, nearest, parseTime } from "../values/index.ts";
import { zoneNames } from "./zone-names.ts";

const dateShape = /^([0-9]{4})-([0-9]{2})-([0-9]{2})$/;
const localShape = /^[0-9]{4}-[0-9]{2}-[0-9]{2}T[0-9]{2}:[0-9]{2}(?::[0-9]{2}(?:\.[0-9]+)?)?$/;

export type InstantFault = "form" | "no-zone";

/**
 * Epoch milliseconds of an instant as a definition writes it: a date (its first midnight in the zone), a local
 * date-time, or one with `Z` or an offset, which is taken as it stands. Local times that a clock change skips move
 * forward by the gap, repeated ones take the first: the "compatible" way of the Temporal standard.
 */
export function readInstant(text: string, zone: string | undefined): number | InstantFault {
  const fixed = parseTime(text);
  if (!Number.isNaN(fixed)) return fixed;
  const isDate = isDateText(text);
  if (!isDate && (!localShape.test(text) || Number.isNaN(parseTime(`${text}Z`)))) return "form";
  // A zone that does not exist has been reported where it is named, and is none.
  if (zone === undefined || !isZone(zone)) return "no-zone";
  return epochOf(`${isDate ? `${text}T00:00` : cutFraction(text)} ${zone}`);
}

/** Milliseconds are what the format knows; further digits are cut, not rounded. */
function cutFraction(text: string): string {
  return text.replace(/(\.[0-9]{3})[0-9]+$/, "$1");
}

export function isDateText(text: string): boolean {
  const match = dateShape.exec(text);
  return match !== null && dayExists(Number(match[1]), Number(match[2]), Number(match[3]));
}

/** Epoch milliseconds of a local time and its zone, with a blank between: the same few are read at every reading. */
const epochOf = memo(1_000, (localInZone) => {
  const [local, zone] = localInZone.split(" ") as [string, string];
  return temporal().PlainDateTime.from(local).toZonedDateTime(zone).epochMilliseconds;
});

/** Is this the name of a zone, spelt as in the database, that this runtime has data for? */
export const isZone: (name: string) => boolean = memo(2_000, (name) => zoneNames.has(name) && runtimeKnows(name));

function runtimeKnows(zone: string): boolean {
  try {
    new Intl.DateTimeFormat("en", { timeZone: zone });
    return true;
  } catch {
    return false;
  }
}

export function nearestZone(name: string): string | undefined {
  return nearest(name, zoneNames) ?? [...zoneNames].find((zone) => zone.endsWith(`/${name}`));
}

/** `2026-12-01 09:00 Atlantic/Faroe`; UTC where no zone is given. */
export function showInstant(epoch: number, zone = "UTC"): string {
  const local = localTime(epoch, zone);
  if (!local) return `${epoch} ms`;
  const isWhole = local.getUTCSeconds() === 0 && local.getUTCMilliseconds() === 0;
  const [date, time = ""] = local.toISOString().split("T");
  return `${date} ${time.slice(0, isWhole ? 5 : 8)} ${zone}`;
}

/** `4 December 2026, 09:00`, as people write it in the zone, with seconds where there are any; UTC where none is given. */
export function writtenDate(epoch: number, zone = "UTC"): string {
  const local = localTime(epoch, zone);
  if (!local) return `${epoch} ms`;
  const date = `${local.getUTCDate()} ${months[local.getUTCMonth()]} ${local.getUTCFullYear()}`;
  if (local.getTime() % dayLength === 0) return date;
  const time = local.toISOString().split("T")[1]!.replace("Z", "");
  return `${date}, ${time.replace(/\.000$/, "").replace(/:00$/, "")}`;
}

/**
 * `through 23 December 2026` where it ends with a day of the zone; else `until 24 December 2026, 18:00`.
 *
 * @param show how instants are written
 */
export function endWords(epoch: number, zone?: string, show = writtenDate): string {
  const isDay = (localTime(epoch, zone ?? "UTC")?.getTime() ?? 1) % dayLength === 0;
  return isDay ? `through ${show(epoch - 1, zone).replace(/,? 23:59:59(?:\.999)?/, "")}` : `until ${show(epoch, zone)}`;
}

const dayLength = 86_400_000;

/**
 * The instant moved by the zone's offset, so that its parts in UTC are those of the local time; undefined where no date
 * can name it.
 */
function localTime(epoch: number, zone: string): Date | undefined {
  if (!isShowable(epoch)) return undefined;
  const local = Math.trunc(epoch) + (zone === "UTC" ? 0 : offsetAt(epoch, zone));
  return isShowable(local) ? new Date(local) : undefined;
}

const offsetShape = /GMT([+-])(\d\d):(\d\d)(?::(\d\d))?$/;

/** Milliseconds by which the zone's clocks are ahead of UTC. */
function offsetAt(epoch: number, zone: string): number {
  const [, sign, hours, minutes, seconds = 0] = offsetShape.exec(offsetsOf(zone).format(epoch)) ?? [];
  if (sign === undefined) return 0;
  const ahead = (Number(hours) * 3_600 + Number(minutes) * 60 + Number(seconds)) * 1_000;
  return sign === "-" ? -ahead : ahead;
}

/** Few zones are ever shown, and making one takes long. */
const offsetsOf = memo(100, (zone) => new Intl.DateTimeFormat("en", { timeZone: zone, timeZoneName: "longOffset" }));

const months = "January February March April May June July August September October November December".split(" ");

/** Within the range of dates that the calendar can name. */
export function isShowable(epoch: number): boolean {
  return Math.abs(epoch) <= 8.64e15;
}
