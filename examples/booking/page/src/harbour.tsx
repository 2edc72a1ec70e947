import { useEffect, useState } from "preact/hooks";
import { ask } from "./api.ts";
import type { PageValues } from "./flags.ts";

interface CheckIn {
  readonly lanes: number;
  readonly "closes-minutes-before": number;
  readonly ports: readonly string[];
}

interface Berth {
  readonly berth: string;
  readonly boat: string;
  readonly draught: string;
}

/** What is going on at the quay. */
export function Harbour({ flags, revision }: { flags: PageValues; revision: string }) {
  const checkIn = useAnswer<CheckIn>("/api/check-in", `${revision} ${JSON.stringify(flags)}`);
  return (
    <aside class="harbour" aria-label="At the harbour">
      <section class="desk">
        <h2>Duty desk</h2>
        {flags["duty-desk"] ? (
          <p>
            <strong class="on">Somebody is there.</strong> Ring 0440 and ask.
          </p>
        ) : flags["storm-mode"] ? (
          <p>
            <strong>Nobody is there while the storm lasts.</strong> Everybody is out at the moorings.
          </p>
        ) : (
          <p>
            <strong>Nobody is there now.</strong> Monday to Friday 7 to 19, Saturday 9 to 13, but for holidays.
          </p>
        )}
      </section>
      {checkIn && (
        <section>
          <h2>Check-in</h2>
          <p>
            {checkIn.lanes} lanes, closing {checkIn["closes-minutes-before"]} minutes before the boat goes. We call at{" "}
            {checkIn.ports.join(", ")}.
          </p>
        </section>
      )}
      {flags["berth-view"] && <Berths />}
    </aside>
  );
}

function Berths() {
  const berths = useAnswer<readonly Berth[]>("/api/berths", "");
  return (
    <section class="berths">
      <h2>Berths</h2>
      <table>
        <thead>
          <tr>
            <th scope="col">Berth</th>
            <th scope="col">Boat</th>
            <th scope="col">Draught</th>
          </tr>
        </thead>
        <tbody>
          {berths?.map(({ berth, boat, draught }) => (
            <tr key={berth}>
              <td>{berth}</td>
              <td>{boat}</td>
              <td>{draught}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** What the service answers; the earlier answer stays until the next is there. */
export function useAnswer<T>(path: string, reason: string): T | undefined {
  const [answer, setAnswer] = useState<T>();
  useEffect(() => {
    let isWanted = true;
    ask<T>(path).then(
      (given) => isWanted && setAnswer(given),
      () => {},
    );
    return () => {
      isWanted = false;
    };
  }, [path, reason]);
  return answer;
}
