import { data, defineCatalogue, number, text, yesNo } from "iudex/catalogue";

/** What the page may see, shared by the page and its service. */
export const catalogue = defineCatalogue({
  "storm-mode": yesNo({ fallback: false }),
  "seat-map": text(["list", "deck-plan", "walk-through"], { fallback: "list" }),
  "hold-minutes": number({ fallback: 15 }),
  "check-in": data({ fallback: { lanes: 1 } }),
});

export const pageFlags = ["storm-mode", "seat-map", "hold-minutes", "check-in"] as const;
