import { useEffect, useId, useState } from "preact/hooks";
import { ask, type Crossing, type Hold, Refused } from "./api.ts";
import { useFocus } from "./use-focus.ts";

interface HoldCardProps {
  readonly hold: Hold;
  readonly crossing: Crossing;
  readonly isStormy: boolean;
  readonly changed: (hold: Hold) => void;
  readonly bookAnother: () => void;
}

/** What is held, how long still, and what comes next. */
export function HoldCard({ hold, crossing, isStormy, changed, bookAnother }: HoldCardProps) {
  const [refused, setRefused] = useState<string>();
  const heading = useFocus<HTMLHeadingElement>();
  const left = useTimeLeft(hold.until);
  const isOver = hold.state === "held" && left <= 0;
  const reason = useId();

  async function next(step: "pay" | "check-in") {
    try {
      const { state, lane } = await ask<Hold>(`/api/holds/${hold.id}/${step}`, { body: {} });
      changed({ ...hold, state, ...(lane === undefined ? {} : { lane }) });
      setRefused(undefined);
      heading.current?.focus();
    } catch (error) {
      setRefused(error instanceof Refused ? error.message : "That did not work.");
    }
  }

  return (
    <section class="held" aria-label="Your booking">
      <h2 ref={heading} tabIndex={-1}>
        {crossing.from} to {crossing.to}
      </h2>
      <p class="when">
        {crossing.date}, {crossing.departs} to {crossing.arrives}
      </p>
      <dl>
        <div>
          <dt>Seat</dt>
          <dd>{hold.seat}</dd>
        </div>
        <div>
          <dt>Price</dt>
          <dd>{hold.crowns} crowns</dd>
        </div>
        <div>
          <dt>State</dt>
          <dd>
            <span role="status">{stateWords(hold, isOver)}</span>
          </dd>
        </div>
      </dl>
      {hold.state === "held" && (
        <p class="countdown" id={reason}>
          {isStormy && !isOver ? "Nothing is paid while the storm lasts. " : ""}
          {countdownWords(left)}
        </p>
      )}
      <p class="actions">
        {hold.state === "held" && !isOver && (
          <button type="button" disabled={isStormy} aria-describedby={reason} onClick={() => next("pay")}>
            Pay {hold.crowns} crowns
          </button>
        )}
        {hold.state === "paid" && (
          <button type="button" onClick={() => next("check-in")}>
            Check in
          </button>
        )}
        <button type="button" class="plain" onClick={bookAnother}>
          Book another
        </button>
      </p>
      {refused && <p role="alert">{refused}</p>}
    </section>
  );
}

function stateWords({ state, lane }: Hold, isOver: boolean): string {
  if (state === "checked-in") return `Checked in, lane ${lane}`;
  if (isOver) return "No longer held";
  return state === "paid" ? "Paid" : "Held for you";
}

/** Milliseconds until then, looked at every second. */
function useTimeLeft(until: number): number {
  const [left, setLeft] = useState(until - Date.now());
  useEffect(() => {
    const timer = setInterval(() => setLeft(until - Date.now()), 1_000);
    return () => clearInterval(timer);
  }, [until]);
  return left;
}

function countdownWords(left: number): string {
  const seconds = Math.round(left / 1_000);
  if (seconds <= 0) return "The time to pay has run out, and the seat is free again.";
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")} minutes left to pay`;
}
