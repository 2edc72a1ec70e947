import { useId } from "preact/hooks";
import type { Developer, Send } from "./developer.ts";
import { useWritten } from "./use-written.ts";

/** What time is it? The clock of the service can be moved; it goes on ticking. */
export function ClockPanel({ developer, send }: { developer: Developer; send: Send }) {
  const { now, moved } = developer.clock;
  const at = useWritten(now.slice(0, 16));
  const field = useId();
  const move = (to: string | null) => at.until(send("clock", { at: to }));
  return (
    <section>
      <h3>What time is it?</h3>
      <p>
        <label for={field}>Clock of the service (UTC)</label>
        <input
          id={field}
          type="datetime-local"
          value={at.text}
          onInput={(event) => at.write(event.currentTarget.value)}
        />
      </p>
      <p>
        <button type="button" onClick={() => move(`${at.text}Z`)}>
          Move the clock
        </button>{" "}
        {moved && (
          <button type="button" class="plain" onClick={() => move(null)}>
            Set it back
          </button>
        )}
      </p>
    </section>
  );
}
