export interface SeatChoice {
  readonly taken: readonly string[];
  readonly seat: string | undefined;
  readonly choose: (seat: string) => void;
}

export interface Area {
  readonly letter: string;
  readonly name: string;
  readonly about: string;
}

export const areas: readonly Area[] = [
  { letter: "F", name: "Forward lounge", about: "Big windows over the bow. You see every wave before it arrives." },
  { letter: "Q", name: "Quiet saloon", about: "Carpet, no engine noise, and nobody speaks above a murmur." },
  { letter: "S", name: "Sun deck", about: "Open air behind the wheelhouse, with blankets in the chest." },
];

export function seatsOf({ letter }: Area): string[] {
  return Array.from({ length: 8 }, (_, i) => `${letter}${i + 1}`);
}

/** A seat to choose, in whatever place the look gives it. */
export function Seat({ name, taken, seat, choose }: SeatChoice & { name: string }) {
  const isTaken = taken.includes(name);
  return (
    <label class={isTaken ? "seat taken" : "seat"}>
      <input
        type="radio"
        name="seat"
        value={name}
        checked={seat === name}
        disabled={isTaken}
        onInput={() => choose(name)}
      />
      <span>
        {name}
        {isTaken && <span class="sr"> (taken)</span>}
      </span>
    </label>
  );
}
