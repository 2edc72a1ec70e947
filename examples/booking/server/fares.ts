import type { Crossing } from "./timetable.js";

/** What a crossing costs, in crowns, and by which engine. */
export interface Quote {
  readonly crowns: number;
  readonly engine: "port pair" | "zone";
}

export interface Party {
  readonly passengers: number;
  readonly vehicle: boolean;
}

const byPair: Readonly<Record<string, number>> = {
  "Osprey Point–Ternhaven": 124,
  "Lower Gannet–Ternhaven": 182,
  "Kelpmoor–Ternhaven": 270,
  "Lower Gannet–Osprey Point": 98,
};

const zones: Readonly<Record<string, number>> = { Ternhaven: 1, "Osprey Point": 1, "Lower Gannet": 2, Kelpmoor: 3 };

/** The old engine: a price for every pair of ports. */
export function quoteByPortPair({ from, to }: Crossing, { passengers, vehicle }: Party): Quote {
  const pair = byPair[[from, to].sort().join("–")] ?? 0;
  return { crowns: pair * passengers + (vehicle ? 220 : 0), engine: "port pair" };
}

/** The new engine: zones that are crossed, and every second passenger at half the price. */
export function quoteByZone({ from, to }: Crossing, { passengers, vehicle }: Party): Quote {
  const crossed = Math.abs(zones[from]! - zones[to]!) + 1;
  const full = Math.ceil(passengers / 2);
  const half = passengers - full;
  return { crowns: 90 * crossed * full + 45 * crossed * half + (vehicle ? 190 : 0), engine: "zone" };
}
