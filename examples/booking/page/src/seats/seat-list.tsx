import { areas, Seat, type SeatChoice, seatsOf } from "./seat.tsx";

/** The plain look: every seat under the name of its area. */
export function SeatList(choice: SeatChoice) {
  return (
    <fieldset class="seats seat-list">
      <legend>
        <h2>Your seat</h2>
      </legend>
      {areas.map((area) => (
        <div key={area.letter}>
          <h3>{area.name}</h3>
          <div class="row">
            {seatsOf(area).map((name) => (
              <Seat key={name} name={name} {...choice} />
            ))}
          </div>
        </div>
      ))}
    </fieldset>
  );
}
