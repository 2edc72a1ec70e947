import { whereStopped } from "../../insight/index.ts";
import type { Stop } from "../../model/index.ts";
import { currentSet } from "../definitions/versions.ts";
import { session } from "../service/session.ts";
import { FlagLink } from "./flag-link.tsx";
import { StartAgain } from "./stop.tsx";

/** The flags that are stopped, on every page, until somebody starts them again. */
export function Stopped() {
  const suspensions = [...(currentSet()?.definitions?.suspensions.values() ?? [])];
  if (suspensions.length === 0) return null;
  return (
    <section class="stopped" aria-label="Stopped flags">
      {suspensions.map(({ flag, stops }) => (
        <div class="stop" key={flag}>
          {stops.map((stop, i) => (
            <p key={JSON.stringify(stop)}>
              <FlagLink name={flag} />{" "}
              <b>
                {i === 0 ? "is stopped" : "and stopped"}
                {whereStopped(stop)}
              </b>
              {i === 0 && " and gives its safe value"}. <i>{byWhom(stop)}</i>
            </p>
          ))}
          {session.value?.may.includes("suspend") && <StartAgain flag={flag} />}
        </div>
      ))}
    </section>
  );
}

function byWhom({ since, who, note }: Stop): string {
  const made = [since && `Since ${since.replace("T", " ")}`, who && `by ${who}`].filter(Boolean).join(" ");
  return note ? `${made}: ${note}` : made;
}
