import { useEffect, useId, useState } from "preact/hooks";
import { ask, type Crossing, type Hold, type PageFlags, Refused, type Session } from "./api.ts";
import { HoldCard } from "./hold-card.tsx";
import { SeatMap } from "./seats/seat-map.tsx";

const allPorts = ["Ternhaven", "Osprey Point", "Lower Gannet", "Kelpmoor"];

interface BookingProps {
  readonly session: Session;
  readonly flags: PageFlags;
  readonly revision: string;
}

/** From the search to the held seat. What is chosen stays chosen when flags change in between. */
export function Booking({ session, flags, revision }: BookingProps) {
  const [from, setFrom] = useState("Ternhaven");
  const [to, setTo] = useState("Lower Gannet");
  const [date, setDate] = useState(session.today);
  const [passengers, setPassengers] = useState(1);
  const [vehicle, setVehicle] = useState(session.traveller?.plan === "vehicle");
  const [chosen, setChosen] = useState<string>();
  const [seat, setSeat] = useState<string>();
  const [hold, setHold] = useState<Hold>();
  const [refused, setRefused] = useState<string>();
  const [turn, setTurn] = useState(0);
  const crossings = useCrossings(
    { from, to, date, passengers, vehicle },
    `${revision} ${turn} ${JSON.stringify(flags)}`,
  );
  const crossing = crossings?.find(({ id }) => id === chosen);
  const ids = { from: useId(), to: useId(), date: useId(), passengers: useId(), vehicle: useId() };

  async function holdSeat() {
    try {
      setHold(await ask<Hold>("/api/holds", { body: { crossing: chosen, seat, passengers, vehicle } }));
      setRefused(undefined);
    } catch (error) {
      setRefused(error instanceof Refused ? error.message : "That did not work.");
      setTurn((before) => before + 1);
    }
  }

  function bookAnother() {
    setHold(undefined);
    setSeat(undefined);
    setTurn((before) => before + 1);
  }

  if (hold && crossing) return <HoldCard hold={hold} crossing={crossing} changed={setHold} bookAnother={bookAnother} />;
  return (
    <section class="booking" aria-label="Your crossing">
      <form class="search" onSubmit={(event) => event.preventDefault()}>
        <PortField id={ids.from} label="From" value={from} change={setFrom} />
        <PortField id={ids.to} label="To" value={to} change={setTo} />
        <p>
          <label for={ids.date}>Day</label>
          <input id={ids.date} type="date" value={date} onInput={(event) => setDate(event.currentTarget.value)} />
        </p>
        <p>
          <label for={ids.passengers}>Passengers</label>
          <input
            id={ids.passengers}
            type="number"
            min="1"
            max="9"
            value={passengers}
            onInput={(event) => setPassengers(Number(event.currentTarget.value) || 1)}
          />
        </p>
        <p class="check">
          <input
            id={ids.vehicle}
            type="checkbox"
            checked={vehicle}
            onInput={(event) => setVehicle(event.currentTarget.checked)}
          />
          <label for={ids.vehicle}>with a car</label>
        </p>
      </form>
      <Crossings crossings={crossings} chosen={chosen} choose={setChosen} />
      {crossing && (
        <>
          <SeatMap kind={flags["seat-map"]} taken={crossing.taken} seat={seat} choose={setSeat} />
          <p class="hold">
            <button type="button" disabled={!seat || flags["storm-mode"]} onClick={holdSeat}>
              Hold {seat ? `seat ${seat}` : "a seat"} for {flags["hold-minutes"]} minutes
            </button>
            <span>
              {crossing.quote.crowns} crowns, by {crossing.quote.engine}
            </span>
          </p>
        </>
      )}
      {refused && <p role="alert">{refused}</p>}
    </section>
  );
}

interface Search {
  readonly from: string;
  readonly to: string;
  readonly date: string;
  readonly passengers: number;
  readonly vehicle: boolean;
}

/** The sailings of a search; the earlier ones are shown until the new ones are there. `reason` asks again. */
function useCrossings(search: Search, reason: string): readonly Crossing[] | undefined {
  const [crossings, setCrossings] = useState<readonly Crossing[]>();
  const query = new URLSearchParams({
    ...search,
    passengers: String(search.passengers),
    vehicle: search.vehicle ? "yes" : "",
  }).toString();
  useEffect(() => {
    let isWanted = true;
    ask<{ crossings: Crossing[] }>(`/api/crossings?${query}`).then(
      (answer) => isWanted && setCrossings(answer.crossings),
      () => isWanted && setCrossings([]),
    );
    return () => {
      isWanted = false;
    };
    // The reason is no part of the question, only why it is asked anew.
  }, [query, reason]);
  return crossings;
}

function PortField({
  id,
  label,
  value,
  change,
}: {
  id: string;
  label: string;
  value: string;
  change: (port: string) => void;
}) {
  return (
    <p>
      <label for={id}>{label}</label>
      <select id={id} value={value} onInput={(event) => change(event.currentTarget.value)}>
        {allPorts.map((port) => (
          <option key={port}>{port}</option>
        ))}
      </select>
    </p>
  );
}

interface CrossingsProps {
  readonly crossings: readonly Crossing[] | undefined;
  readonly chosen: string | undefined;
  readonly choose: (id: string) => void;
}

function Crossings({ crossings, chosen, choose }: CrossingsProps) {
  if (!crossings) return <p class="none">Asking for the sailings …</p>;
  if (crossings.length === 0) return <p class="none">No boat goes this way on that day.</p>;
  return (
    <fieldset class="crossings">
      <legend>
        <h2>Sailings</h2>
      </legend>
      {crossings.map(({ id, departs, arrives, quote }) => (
        <label key={id} class="crossing">
          <input type="radio" name="crossing" value={id} checked={id === chosen} onInput={() => choose(id)} />
          <span class="times">
            {departs}
            <span aria-hidden="true" class="way" />
            <span class="sr"> to </span>
            {arrives}
          </span>
          <span class="price">
            {quote.crowns} <small>crowns</small>
          </span>
        </label>
      ))}
    </fieldset>
  );
}
