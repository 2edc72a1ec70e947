import type { ShelfAnswer } from "../../desk/index.ts";
import { now } from "../asking/clock.ts";
import { askFor } from "../definitions/asking.ts";
import { standingSet } from "../definitions/versions.ts";
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
  const zone = zoneOf(standingSet()?.definitions);
  return (
    <section aria-label="The shelf">
      <Followers shelf={found} />
      <ol class="agenda">
        {found.editions.map(({ number, published, by, note, changes, suspending }) => (
          <li class="row" key={number}>
            <div class="margin">
              <h2>edition {number}</h2>
              <p class="owner">
                {by}, <time dateTime={published}>{showMoment(Date.parse(published), zone)}</time>
              </p>
              {suspending && <p class="mark">a stop</p>}
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

function Followers({ shelf: { called, editions, followers } }: { readonly shelf: ShelfAnswer }) {
  if (!followers) return <p class="part">Who follows {called} is not known: it has no roll-call.</p>;
  const newest = editions[0]!.number;
  const behind = followers.filter(({ edition }) => edition < newest);
  return (
    <div class="part">
      <p>
        <b>
          {followers.length} {followers.length === 1 ? "process follows" : "processes follow"} {called}
        </b>
        {behind.length === 0 ? ", all of them up to date." : `, ${behind.length} of them behind.`}
      </p>
      <ul class="changes">
        {followers.map(({ id, name, host, process, environment, edition, since, refused }) => (
          <li key={id} class={edition < newest ? "fault" : ""}>
            <b>{name}</b> on {host} ({process}){environment && `, ${environment}`}: edition {edition},{" "}
            {distance(Date.parse(since) - now.value)}
            {refused &&
              `; it refused ${refused.edition === undefined ? "the newest edition" : `edition ${refused.edition}`}: ${refused.why}`}
          </li>
        ))}
      </ul>
    </div>
  );
}
