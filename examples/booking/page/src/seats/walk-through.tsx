import { useState } from "preact/hooks";
import { areas, Seat, type SeatChoice, seatsOf } from "./seat.tsx";

/** A walk through the boat, an area at a time. */
export function WalkThrough(choice: SeatChoice) {
  const [here, setHere] = useState(0);
  const area = areas[here]!;
  return (
    <fieldset class="seats walk-through">
      <legend>
        <h2>Walk through the boat</h2>
      </legend>
      <h3>{area.name}</h3>
      <p>{area.about}</p>
      <div class="row">
        {seatsOf(area).map((name) => (
          <Seat key={name} name={name} {...choice} />
        ))}
      </div>
      <p class="steps">
        <button type="button" class="plain" disabled={here === 0} onClick={() => setHere(here - 1)}>
          Back
        </button>
        <span>
          {here + 1} of {areas.length}
        </span>
        <button type="button" class="plain" disabled={here === areas.length - 1} onClick={() => setHere(here + 1)}>
          Go on
        </button>
      </p>
    </fieldset>
  );
}
