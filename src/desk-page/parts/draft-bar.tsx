import { question } from "../asking/question-now.ts";
import { askFor, show } from "../definitions/asking.ts";
import { draft, leftOut, unsent } from "../definitions/draft.ts";
import { said } from "../words/hand.ts";

/** At the foot of every page while there is a draft: what it holds, and the way to it. */
export function DraftBar() {
  const changes = draft.value?.changes ?? [];
  const waiting = unsent.value.length;
  if (changes.length === 0 && waiting === 0) return null;
  const unfit = changes.filter(({ fault }) => fault).length;
  const isBy = question.value.asked.by === "draft";
  return (
    <aside class="draft-bar" aria-label="My draft">
      <p role="status">
        <b>
          My draft holds {changes.length} {changes.length === 1 ? "change" : "changes"}.
        </b>{" "}
        {unfit > 0 && (
          <span class="fault">
            {unfit} of them no longer {unfit === 1 ? "fits" : "fit"} the files.{" "}
          </span>
        )}
        {waiting > 0 && <span class="fault">{waiting} more wait for the desk to be in reach. </span>}
        <span class="said">{said.value} </span>
        {leftOut.value.length > 0 && <span>Left out, being private: {leftOut.value.join(", ")}. </span>}
      </p>
      <p>
        <button type="button" class="quiet" onClick={() => askFor({ by: isBy ? "files" : "draft" })}>
          {isBy ? "Answer by the files" : "Answer by my draft"}
        </button>
        {question.value.shown.view !== "review" && (
          <button type="button" class="act" onClick={() => show({ view: "review" })}>
            Look it through
          </button>
        )}
      </p>
    </aside>
  );
}
