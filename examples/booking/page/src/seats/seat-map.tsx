import type { PageValues } from "../flags.ts";
import { DeckPlan } from "./deck-plan.tsx";
import type { SeatChoice } from "./seat.tsx";
import { SeatList } from "./seat-list.tsx";
import { WalkThrough } from "./walk-through.tsx";

/** One of three looks; which one is the flag's affair. */
export function SeatMap({ kind, ...choice }: SeatChoice & { kind: PageValues["seat-map"] }) {
  switch (kind) {
    case "deck-plan":
      return <DeckPlan {...choice} />;
    case "walk-through":
      return <WalkThrough {...choice} />;
    case "list":
      return <SeatList {...choice} />;
  }
}
