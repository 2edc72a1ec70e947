import { areas, Seat, type SeatChoice, seatsOf } from "./seat.tsx";

/** The boat from above, bow to the right. */
export function DeckPlan(choice: SeatChoice) {
  return (
    <fieldset class="seats deck-plan">
      <legend>
        <h2>Your seat on the deck plan</h2>
      </legend>
      <div class="boat">
        {[...areas].reverse().map((area) => (
          <div key={area.letter} class="area">
            <h3>{area.name}</h3>
            <div class="grid">
              {seatsOf(area).map((name) => (
                <Seat key={name} name={name} {...choice} />
              ))}
            </div>
          </div>
        ))}
      </div>
    </fieldset>
  );
}
