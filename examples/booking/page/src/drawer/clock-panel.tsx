import { useEffect, useId, useState } from "preact/hooks";
import type { Developer, Send } from "./developer.ts";

/** What time is it? The clock of the service can be moved; it goes on ticking. */
export function ClockPanel({ developer, send }: { developer: Developer; send: Send }) {
  const { now, moved } = developer.clock;
  const [at, setAt] = useState(now.slice(0, 16));
  const field = useId();
  useEffect(() => setAt(now.slice(0, 16)), [now]);
  return (
    <section>
      <h3>What time is it?</h3>
      <p>
        <label for={field}>Clock of the service (UTC)</label>
        <input id={field} type="datetime-local" value={at} onInput={(event) => setAt(event.currentTarget.value)} />
      </p>
      <p>
        <button type="button" onClick={() => send("clock", { at: `${at}Z` })}>
          Move the clock
        </button>{" "}
        {moved && (
          <button type="button" class="plain" onClick={() => send("clock", { at: null })}>
            Back to now
          </button>
        )}
      </p>
    </section>
  );
}
