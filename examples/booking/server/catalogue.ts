import { data, defineCatalogue } from "iudex";
import { z } from "zod";
import { pageCatalogue } from "./page-catalogue.js";

const checkIn = z.object({
  lanes: z.number().int().min(1),
  "closes-minutes-before": z.number().int().min(0),
  ports: z.array(z.string()).min(1),
});

/** The flags of the booking service: a name or type that is not here does not compile. */
export const catalogue = defineCatalogue({
  ...pageCatalogue.entries,
  "check-in": data(checkIn, { fallback: { lanes: 1, "closes-minutes-before": 30, ports: ["Ternhaven"] } }),
});

export type BookingCatalogue = typeof catalogue;
