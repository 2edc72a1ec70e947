import { createRequire } from "node:module";

export interface CalendarEvent {
  readonly uid: string;
  readonly summary: string;
  readonly startDate: { readonly isDate: boolean; toJSDate(): Date; toString(): string };
}

/** What is used of the parser, whose own types need a looser compiler than ours. */
interface Parser {
  parse(text: string): unknown;
  Component: new (parsed: unknown) => { getAllSubcomponents(name: string): unknown[] };
  Event: new (component: unknown) => CalendarEvent;
}

const parser = createRequire(import.meta.url)("ical.js") as Parser;

/** The events of an iCalendar file, as a real parser reads them; it throws for what is not a calendar. */
export function eventsOf(text: string): CalendarEvent[] {
  return new parser.Component(parser.parse(text)).getAllSubcomponents("vevent").map((each) => new parser.Event(each));
}
