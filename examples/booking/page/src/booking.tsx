import { useEffect, useId, useRef, useState } from "preact/hooks";
import { ask, type Crossing, type Hold, Refused, type Session } from "./api.ts";
import type { PageValues } from "./flags.ts";
import { HoldCard } from "./hold-card.tsx";
import { SeatMap } from "./seats/seat-map.tsx";

const allPorts = ["Ternhaven", "Osprey Point", "Lower Gannet", "Kelpmoor"];

interface BookingProps {
  readonly session: Session;
  readonly flags: PageValues;
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
  // What is held stays on the page whatever becomes of the timetable that it was found in.
  const [held, setHeld] = useState<{ readonly hold: Hold; readonly crossing: Crossing }>();
  const [isBack, setIsBack] = useState(false);
  const [refused, setRefused] = useState<string>();
  const [turn, setTurn] = useState(0);
  const { crossings, isLost } = useCrossings(
    { from, to, date, passengers, vehicle },
    `${revision} ${turn} ${JSON.stringify(flags)}`,
  );
  const isTooMany = passengers < 1 || passengers > maxPassengers;
  const isPast = date < session.today;
  const reason = reasonAgainst({ isStormy: flags["storm-mode"], isPast, isTooMany, seat });
  const crossing = crossings?.find(({ id }) => id === chosen);
  const ids = { from: useId(), to: useId(), date: useId(), passengers: useId(), vehicle: useId(), reason: useId() };

  async function holdSeat() {
    if (!crossing) return;
    try {
      const hold = await ask<Hold & { readonly left: number }>("/api/holds", {
        body: { crossing: crossing.id, seat, passengers, vehicle },
      });
      setHeld({ hold: { ...hold, until: Date.now() + hold.left }, crossing });
      setRefused(undefined);
    } catch (error) {
      setRefused(error instanceof Refused ? error.message : "That did not work.");
      setTurn((before) => before + 1);
    }
  }

  function bookAnother() {
    setHeld(undefined);
    setIsBack(true);
    setSeat(undefined);
    setTurn((before) => before + 1);
  }

  if (held) {
    return (
      <HoldCard
        {...held}
        isStormy={flags["storm-mode"]}
        changed={(hold) => setHeld({ ...held, hold })}
        bookAnother={bookAnother}
      />
    );
  }
  return (
    <section class="booking" aria-label="Your crossing">
      <form class="search" onSubmit={(event) => event.preventDefault()}>
        <PortField id={ids.from} label="From" value={from} change={setFrom} hasFocus={isBack} />
        <PortField id={ids.to} label="To" value={to} change={setTo} />
        <p>
          <label for={ids.date}>Day</label>
          <input
            id={ids.date}
            type="date"
            min={session.today}
            value={date}
            onInput={(event) => setDate(event.currentTarget.value)}
          />
        </p>
        <p>
          <label for={ids.passengers}>Passengers</label>
          <input
            id={ids.passengers}
            type="number"
            min="1"
            max={maxPassengers}
            value={passengers}
            aria-describedby={isTooMany ? `${ids.passengers}-most` : undefined}
            onInput={(event) => setPassengers(Math.trunc(Number(event.currentTarget.value)) || 1)}
          />
          {isTooMany && (
            <small id={`${ids.passengers}-most`} role="alert">
              One to {maxPassengers} at once; ring us for more.
            </small>
          )}
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
      {isPast ? (
        <p class="none">That day is over. The next boats go today or later.</p>
      ) : isLost ? (
        <p class="none" role="alert">
          The timetable cannot be had just now.{" "}
          <button type="button" class="plain" onClick={() => setTurn((before) => before + 1)}>
            Ask again
          </button>
        </p>
      ) : (
        <Crossings crossings={crossings} chosen={chosen} choose={setChosen} />
      )}
      {crossing && !isPast && (
        <>
          <SeatMap kind={flags["seat-map"]} taken={crossing.taken} seat={seat} choose={setSeat} />
          <p class="hold">
            <button type="button" disabled={reason !== undefined} aria-describedby={ids.reason} onClick={holdSeat}>
              Hold {seat ? `seat ${seat}` : "a seat"} for {flags["hold-minutes"]} minutes
            </button>
            <span id={ids.reason}>{reason ?? `${crossing.quote.crowns} crowns, by ${crossing.quote.engine}`}</span>
          </p>
        </>
      )}
      {refused && <p role="alert">{refused}</p>}
    </section>
  );
}

const maxPassengers = 9;

/** Why nothing can be held, in words; undefined where it can. */
function reasonAgainst(now: {
  readonly isStormy: boolean;
  readonly isPast: boolean;
  readonly isTooMany: boolean;
  readonly seat: string | undefined;
}): string | undefined {
  if (now.isStormy) return "Booking is closed until the storm has passed.";
  if (now.isPast) return "That day is over.";
  if (now.isTooMany) return `We hold seats for one to ${maxPassengers} at once.`;
  return now.seat ? undefined : "Choose a seat first.";
}

interface Search {
  readonly from: string;
  readonly to: string;
  readonly date: string;
  readonly passengers: number;
  readonly vehicle: boolean;
}

/** The sailings of a search; the earlier ones are shown until the new ones are there. `reason` asks again. */
function useCrossings(
  search: Search,
  reason: string,
): { readonly crossings: readonly Crossing[] | undefined; readonly isLost: boolean } {
  const [crossings, setCrossings] = useState<readonly Crossing[]>();
  const [isLost, setIsLost] = useState(false);
  const query = new URLSearchParams({
    ...search,
    passengers: String(search.passengers),
    vehicle: search.vehicle ? "yes" : "",
  }).toString();
  useEffect(() => {
    let isWanted = true;
    ask<{ crossings: Crossing[] }>(`/api/crossings?${query}`).then(
      (answer) => {
        if (!isWanted) return;
        setCrossings(answer.crossings);
        setIsLost(false);
      },
      () => isWanted && setIsLost(true),
    );
    return () => {
      isWanted = false;
    };
    // The reason is no part of the question, only why it is asked anew.
  }, [query, reason]);
  return { crossings, isLost };
}

interface PortFieldProps {
  readonly id: string;
  readonly label: string;
  readonly value: string;
  readonly change: (port: string) => void;
  /** Whether it takes the focus when it appears. */
  readonly hasFocus?: boolean;
}

function PortField({ id, label, value, change, hasFocus = false }: PortFieldProps) {
  const select = useRef<HTMLSelectElement>(null);
  useEffect(() => {
    if (hasFocus) select.current?.focus();
  }, [hasFocus]);
  return (
    <p>
      <label for={id}>{label}</label>
      <select ref={select} id={id} value={value} onInput={(event) => change(event.currentTarget.value)}>
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
