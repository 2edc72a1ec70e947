import type { ShelfAnswer } from "../../desk/index.ts";
import { now } from "../asking/clock.ts";
import { askFor } from "../definitions/asking.ts";
import { currentSet } from "../definitions/versions.ts";
import { distance, showMoment, zoneOf } from "../parts/times.ts";
import { useAnswer } from "../parts/use-answer.ts";
import { ChangeList } from "./review.tsx";

/** How often the roll-call is looked at, in milliseconds. */
const lookEvery = 5_000;

/** What stands on the shelf, edition by edition and by meaning, and who follows it. */
export function ShelfSheet() {
  const found = useAnswer<ShelfAnswer>("shelf", {}, [], lookEvery);
  if (found === undefined) return <p class="whole">Looking at the shelf …</p>;
  if (typeof found === "string") return <p class="whole fault">{found}</p>;
  if (found.editions.length === 0) return <p class="whole">{found.called} holds no edition.</p>;
  const zone = zoneOf(currentSet()?.definitions);
  return (
    <section aria-label="The shelf">
      <Followers shelf={found} />
      <ol class="agenda">
        {found.editions.map(({ number, published, by, note, changes }) => (
          <li class="row" key={number}>
            <div class="margin">
              <h2>edition {number}</h2>
              <p class="owner">
                {by}, <time dateTime={published}>{showMoment(Date.parse(published), zone)}</time>
              </p>
            </div>
            <div class="text">
              {note && <p class="answer">{note}</p>}
              {changes ? (
                <ChangeList changes={changes} />
              ) : (
                <p class="about">The one before it does not stand any more.</p>
              )}
            </div>
            <div class="coming">
              <button type="button" class="quiet" onClick={() => askFor({ by: `edition:${number}` })}>
                Answer by this
              </button>
            </div>
          </li>
        ))}
      </ol>
    </section>
  );
}

function Followers({ shelf: { called, followers } }: { readonly shelf: ShelfAnswer }) {
  if (!followers) return <p class="part">Who follows {called} is not known: it has no roll-call.</p>;
  const behind = followers.filter(({ isBehind, isSilent }) => isBehind && !isSilent).length;
  const silent = followers.filter(({ isSilent }) => isSilent).length;
  return (
    <div class="part">
      <p>
        <b>
          {followers.length} {followers.length === 1 ? "process follows" : "processes follow"} {called}
        </b>
        {behind > 0 && `, ${behind} of them behind`}
        {silent > 0 && `, ${silent} of them not heard of for a minute`}
        {behind + silent === 0 ? ", all of them up to date by what they say." : "."}
      </p>
      <ul class="changes">
        {followers.map(
          ({ id, name, host, process, environment, edition, stops, since, refused, isBehind, isSilent, goneBack }) => (
            <li key={id} class={isBehind || isSilent ? "fault" : ""}>
              <b>{name}</b> on {host} ({process}){environment && `, ${environment}`}: edition {edition}, stops {stops},{" "}
              {distance(Date.parse(since) - now.value)}
              {goneBack && "; it was made to go back to an earlier one"}
              {isSilent && "; it has not been heard of for a minute"}
              {refused &&
                `; it refused ${refused.edition === undefined ? "the newest edition" : `edition ${refused.edition}`}: ${refused.why}`}
            </li>
          ),
        )}
      </ul>
    </div>
  );
}
