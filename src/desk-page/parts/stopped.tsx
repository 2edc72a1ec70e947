import { standingSet } from "../definitions/versions.ts";
import { session } from "../service/session.ts";
import { FlagLink } from "./flag-link.tsx";
import { StartAgain } from "./stop.tsx";

/** The flags that are stopped, on every page, until somebody starts them again. */
export function Stopped() {
  const stops = [...(standingSet()?.definitions?.suspensions.values() ?? [])];
  if (stops.length === 0) return null;
  return (
    <section class="stopped" aria-label="Stopped flags">
      {stops.map(({ flag, since, who, note, in: environments }) => (
        <div class="stop" key={flag}>
          <p>
            <FlagLink name={flag} /> <b>is stopped{environments ? ` in ${environments.join(", ")}` : ""}</b> and gives
            its safe value.{" "}
            <i>
              {[since && `Since ${since.replace("T", " ")}`, who && `by ${who}`].filter(Boolean).join(" ")}
              {note && `: ${note}`}
            </i>
          </p>
          {session.value?.may.includes("suspend") && <StartAgain flag={flag} />}
        </div>
      ))}
    </section>
  );
}
