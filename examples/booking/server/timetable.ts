/** One sailing of one day. Times are local to the harbours. */
export interface Crossing {
  readonly id: string;
  readonly from: string;
  readonly to: string;
  /** `2026-12-02` */
  readonly date: string;
  /** `08:00` */
  readonly departs: string;
  readonly arrives: string;
}

interface Leg {
  readonly ends: readonly [string, string];
  readonly minutes: number;
}

const legs: readonly Leg[] = [
  { ends: ["Ternhaven", "Osprey Point"], minutes: 45 },
  { ends: ["Ternhaven", "Lower Gannet"], minutes: 80 },
  { ends: ["Ternhaven", "Kelpmoor"], minutes: 130 },
  { ends: ["Osprey Point", "Lower Gannet"], minutes: 40 },
];

const summer = ["07:00", "09:30", "12:00", "14:30", "17:00", "19:30"];
const winter = ["08:00", "12:00", "16:00"];

/** The sailings of a day between two ports; none where no boat goes, or where a port is not called at. */
export function crossingsOf(
  { from, to, date }: { readonly from: string; readonly to: string; readonly date: string },
  { inWinter, ports }: { readonly inWinter: boolean; readonly ports: readonly string[] },
): Crossing[] {
  const leg = legs.find(({ ends }) => ends.includes(from) && ends.includes(to) && from !== to);
  if (!leg || !ports.includes(from) || !ports.includes(to)) return [];
  return (inWinter ? winter : summer).map((departs) => ({
    id: [date, departs, from, to].join("_").replaceAll(" ", "-"),
    from,
    to,
    date,
    departs,
    arrives: later(departs, leg.minutes),
  }));
}

/** The sailing that an id names, whatever the timetable is now. */
export function crossingBy(id: string): Crossing | undefined {
  const [date, departs, from, to] = id.split("_").map((part) => part.replace(/^([A-Z][a-z]+)-([A-Z][a-z]+)$/, "$1 $2"));
  if (!date || !departs || !from || !to || !/^[0-9]{4}-[0-9]{2}-[0-9]{2}$/.test(date)) return undefined;
  const leg = legs.find(({ ends }) => ends.includes(from) && ends.includes(to));
  if (!leg || ![...summer, ...winter].includes(departs)) return undefined;
  return { id, from, to, date, departs, arrives: later(departs, leg.minutes) };
}

function later(time: string, minutes: number): string {
  const [hour, minute] = time.split(":").map(Number) as [number, number];
  const total = hour * 60 + minute + minutes;
  return `${String(Math.floor(total / 60) % 24).padStart(2, "0")}:${String(total % 60).padStart(2, "0")}`;
}
