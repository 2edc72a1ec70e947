import { useEffect, useState } from "preact/hooks";
import { ask, type Crossing, type Hold, Refused } from "./api.ts";

interface HoldCardProps {
  readonly hold: Hold;
  readonly crossing: Crossing;
  readonly changed: (hold: Hold) => void;
  readonly bookAnother: () => void;
}

/** What is held, how long still, and what comes next. */
export function HoldCard({ hold, crossing, changed, bookAnother }: HoldCardProps) {
  const [refused, setRefused] = useState<string>();

  async function next(step: "pay" | "check-in") {
    try {
      changed({ ...hold, ...(await ask<Hold>(`/api/holds/${hold.id}/${step}`, { body: {} })) });
    } catch (error) {
      setRefused(error instanceof Refused ? error.message : "That did not work.");
    }
  }

  return (
    <section class="held" aria-label="Your booking">
      <h2>
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
            <span role="status">{stateWords(hold)}</span>
          </dd>
        </div>
      </dl>
      {hold.state === "held" && <Countdown until={hold.until} />}
      <p class="actions">
        {hold.state === "held" && (
          <button type="button" onClick={() => next("pay")}>
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

function stateWords({ state, lane }: Hold): string {
  if (state === "checked-in") return `Checked in, lane ${lane}`;
  return state === "paid" ? "Paid" : "Held for you";
}

function Countdown({ until }: { until: number }) {
  const [left, setLeft] = useState(until - Date.now());
  useEffect(() => {
    const timer = setInterval(() => setLeft(until - Date.now()), 1_000);
    return () => clearInterval(timer);
  }, [until]);
  const seconds = Math.max(0, Math.round(left / 1_000));
  if (seconds > 24 * 3_600) return <p class="countdown">The hold ends when the clock of the desk says so.</p>;
  const text = `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
  return <p class="countdown">{text} minutes left to pay</p>;
}
