import { useState } from "preact/hooks";
import type { HistoryAnswer } from "../../desk/index.ts";
import { now } from "../asking/clock.ts";
import { askFor } from "../definitions/asking.ts";
import { addChange, canChangeHere, type NotTaken } from "../definitions/draft.ts";
import { currentSet, versionBy } from "../definitions/versions.ts";
import { FaultWords } from "../parts/fault-words.tsx";
import { distance, showMoment, zoneOf } from "../parts/times.ts";
import { useAnswer } from "../parts/use-answer.ts";
import { session } from "../service/session.ts";
import { ChangeList } from "./review.tsx";

/** Earlier changes by meaning, newest first: of everything, or of one flag. Each can be looked at, and put back. */
export function History({ flag }: { readonly flag?: string }) {
  const files = versionBy("files").value;
  const version = files.state === "ready" ? files.set.version : "";
  const query: Readonly<Record<string, string>> = flag === undefined ? {} : { flag };
  const found = useAnswer<HistoryAnswer>("history", query, [version]);
  if (!session.value?.hasHistory)
    return <p class="whole">The folder lies in no repository, so that nothing is known of earlier.</p>;
  if (found === undefined) return <p class="whole">Looking back …</p>;
  if (typeof found === "string") return <p class="whole fault">{found}</p>;
  if (found.entries.length === 0) return <p class="whole">Nothing was changed before.</p>;
  const zone = zoneOf(currentSet()?.definitions);
  return (
    <section aria-label="What was">
      <ol class="agenda">
        {found.entries.map(({ commit, date, author, note, changes, broken }) => (
          <li class="row" key={commit}>
            <div class="margin">
              <h2>
                <time dateTime={date}>{showMoment(Date.parse(date), zone)}</time>
              </h2>
              <p class="owner">
                {author}, {distance(Date.parse(date) - now.value)}
              </p>
            </div>
            <div class="text">
              <p class="answer">{note.split("\n")[0]}</p>
              {broken && <p class="fault">The files of this revision could not be used.</p>}
              <ChangeList changes={changes} />
            </div>
            <div class="coming">
              <p>
                <button type="button" class="quiet" onClick={() => askFor({ by: `commit:${commit}` })}>
                  Answer by this
                </button>
              </p>
              {flag !== undefined && canChangeHere() && <PutBack flag={flag} commit={commit} />}
            </div>
          </li>
        ))}
      </ol>
    </section>
  );
}

/** Takes into the draft what makes a flag as it was after a commit. */
function PutBack({ flag, commit }: { readonly flag: string; readonly commit: string }) {
  const [fault, setFault] = useState<NotTaken>(undefined);
  return (
    <p>
      <button
        type="button"
        class="quiet"
        onClick={async () => setFault(await addChange({ change: "restore", flag, commit }))}
      >
        Put it back to this
      </button>
      <FaultWords fault={fault} />
    </p>
  );
}
