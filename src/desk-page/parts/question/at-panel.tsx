import { useState } from "preact/hooks";
import { readInstant } from "../../../calendar/index.ts";
import { now } from "../../asking/clock.ts";
import { currentSet } from "../../definitions/versions.ts";
import { fieldOf, zoneOf } from "../times.ts";

interface AtPanelProps {
  readonly at: number | undefined;
  change(at: number | undefined): void;
}

/** Which instant is asked for: now, going on, or one that stands still. */
export function AtPanel({ at, change }: AtPanelProps) {
  const zone = zoneOf(currentSet()?.definitions);
  const [fault, setFault] = useState<string | undefined>(undefined);
  const pick = (text: string) => {
    if (text === "") return;
    const instant = readInstant(text, zone);
    if (typeof instant === "number") {
      setFault(undefined);
      change(instant);
    } else setFault(`${text.replace("T", " ")} does not exist in ${zone}, or comes twice: write another minute.`);
  };
  return (
    <fieldset class="choices">
      <legend>At which instant?</legend>
      <label>
        <input type="radio" name="instant" checked={at === undefined} onChange={() => change(undefined)} />
        <span>
          <b>now</b> <i>and it goes on</i>
        </span>
      </label>
      <label>
        <input type="radio" name="instant" checked={at !== undefined} onChange={() => change(at ?? now.peek())} />
        <span>
          <b>at</b>{" "}
          <input
            type="datetime-local"
            aria-label={`Date and time, ${zone}`}
            value={fieldOf(at ?? now.peek(), zone)}
            onChange={(event) => pick(event.currentTarget.value)}
          />{" "}
          <i>{zone} time</i>
        </span>
      </label>
      {fault && <p class="fault">{fault}</p>}
    </fieldset>
  );
}
