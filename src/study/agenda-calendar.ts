import type { AgendaEntry } from "../insight/index.ts";
import { printable } from "../values/index.ts";
import { optionalPackage } from "./optional-package.ts";

/**
 * The agenda as an iCalendar file (RFC 5545): instants in UTC, reviews as whole days. The same entry has the same UID
 * each time, so that a calendar which reads the file again shows it once.
 */
export async function agendaCalendar(entries: readonly AgendaEntry[], now: number): Promise<string> {
  const { default: ical } = await optionalPackage(
    "ical-generator",
    "To write a calendar",
    () => import("ical-generator"),
  );
  const calendar = ical({
    name: "Flags: what changes by itself",
    prodId: { company: "iudex", product: "agenda", language: "EN" },
  });
  for (const entry of entries) {
    const allDay = entry.kind === "review";
    const start = new Date(entry.at);
    calendar.createEvent({
      id: `${entry.kind}-${entry.name}-${start.toISOString().replace(/[^0-9TZ]/g, "")}@iudex`,
      stamp: new Date(now),
      start: allDay ? start.toISOString().slice(0, 10) : start,
      ...(allDay ? { allDay } : { end: start }),
      summary: printable(`${entry.name} ${entry.words}`),
      description: printable(detailsOf(entry)),
      timezone: "UTC",
    });
  }
  return calendar.toString();
}

function detailsOf({ environments, flags, recurs, zone }: AgendaEntry): string {
  return [
    environments && `In ${environments.join(", ")}.`,
    flags.length > 0 && `Flags: ${flags.join(", ")}.`,
    recurs && `Opening hours: ${recurs}; this is the next change only.`,
    zone && `Written for ${zone}.`,
  ]
    .filter(Boolean)
    .join(" ");
}
