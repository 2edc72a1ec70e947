import { data, defineCatalogue, number, text, yesNo } from "iudex";
import { z } from "zod";

const checkIn = z.object({
  lanes: z.number().int().min(1),
  "closes-minutes-before": z.number().int().min(0),
  ports: z.array(z.string()).min(1),
});

/** The flags of the booking service: a name or type that is not here does not compile. */
export const catalogue = defineCatalogue({
  "zone-fares": yesNo({ fallback: false }),
  "seat-map": text(["list", "deck-plan", "walk-through"], { fallback: "list" }),
  "hold-minutes": number({ fallback: 15 }),
  "duty-desk": yesNo({ fallback: false }),
  "winter-timetable": yesNo({ fallback: false }),
  "storm-mode": yesNo({ fallback: false }),
  "check-in": data(checkIn, { fallback: { lanes: 1, "closes-minutes-before": 30, ports: ["Ternhaven"] } }),
  "berth-view": yesNo({ fallback: false }),
});

export type BookingCatalogue = typeof catalogue;

/** What the page may see; everything else stays in the service. */
export const pageFlags = [
  "zone-fares",
  "seat-map",
  "hold-minutes",
  "duty-desk",
  "winter-timetable",
  "storm-mode",
  "berth-view",
] as const;
