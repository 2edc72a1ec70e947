import { defineCatalogue, number, text, yesNo } from "iudex/catalogue";

/** The version of the page; some flags are for newer ones only. */
export const pageVersion = "4.2.1";

/** The flags that the page may see, shared with it: neither Node nor schemas come along. */
export const pageCatalogue = defineCatalogue({
  "zone-fares": yesNo({ fallback: false }),
  "seat-map": text(["list", "deck-plan", "walk-through"], { fallback: "list" }),
  "hold-minutes": number({ fallback: 15 }),
  "duty-desk": yesNo({ fallback: false }),
  "winter-timetable": yesNo({ fallback: false }),
  "storm-mode": yesNo({ fallback: false }),
  "berth-view": yesNo({ fallback: false }),
});

export const pageFlags = Object.keys(pageCatalogue.entries) as (keyof typeof pageCatalogue.entries)[];
