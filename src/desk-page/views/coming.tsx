import type { AgendaEntry } from "../../insight/index.ts";
import { agendaOf } from "../../insight/index.ts";
import { instantOf } from "../asking/clock.ts";
import { question } from "../asking/question-now.ts";
import { askFor } from "../definitions/asking.ts";
import type { ReadSet } from "../definitions/read-set.ts";
import { FlagLink } from "../parts/flag-link.tsx";
import { distance, showDay, showMoment, zoneOf } from "../parts/times.ts";

/** What will change by itself, and what is to be looked at again, in order. */
export function Coming({ set }: { readonly set: ReadSet }) {
  const definitions = set.definitions!;
  const { asked } = question.value;
  const zone = zoneOf(definitions);
  const from = instantOf(asked);
  const entries = agendaOf(definitions, { from, environment: asked.environment });
  if (entries.length === 0) return <p class="whole">Nothing will change by itself.</p>;
  return (
    <section aria-label="What comes">
      <ol class="agenda">
        {entries.map((entry) => (
          <li key={`${entry.at} ${entry.name} ${entry.words}`} class="row">
            <div class="margin">
              <h2>
                <time dateTime={new Date(entry.at).toISOString()}>
                  {entry.kind === "review" ? showDay(entry.at, "UTC") : showMoment(entry.at, entry.zone ?? zone)}
                </time>
              </h2>
              <p class="owner">{entry.kind === "review" && entry.at < from ? "today" : distance(entry.at - from)}</p>
            </div>
            <div class="text">
              <p class="answer">
                {entry.part === "flag" ? <FlagLink name={entry.name} /> : <b>{entry.name}</b>} {entry.words}
                {entry.environments && entry.environments.length > 0 && ` in ${entry.environments.join(", ")}`}.
              </p>
              <Touched entry={entry} />
            </div>
            <div class="coming">
              {entry.kind !== "review" && (
                <button type="button" class="quiet" onClick={() => askFor({ at: entry.at })}>
                  Ask at this instant
                </button>
              )}
            </div>
          </li>
        ))}
      </ol>
    </section>
  );
}

function Touched({ entry: { flags, recurs } }: { readonly entry: AgendaEntry }) {
  return (
    <>
      {flags.length > 0 && (
        <p class="about">
          {flags.map((flag, i) => (
            <span key={flag}>
              {i > 0 && ", "}
              <FlagLink name={flag} />
            </span>
          ))}{" "}
          {flags.length === 1 ? "goes" : "go"} by it.
        </p>
      )}
      {recurs && <p class="about">Only its next change is told; its hours are {recurs}.</p>}
    </>
  );
}
