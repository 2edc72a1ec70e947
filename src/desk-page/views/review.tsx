import { useEffect, useState } from "preact/hooks";
import type { ChangedAnswer, ReachLine, RecordWords, ReviewAnswer, WriteRequest } from "../../desk/index.ts";
import type { Given, PartChange } from "../../insight/index.ts";
import { ruleCalled } from "../../model/index.ts";
import { instantOf } from "../asking/clock.ts";
import { allFlags } from "../asking/question.ts";
import { question } from "../asking/question-now.ts";
import { environmentsOf, valueWords } from "../definitions/answers.ts";
import { ask } from "../definitions/asking.ts";
import { clearDraft, draft, dropChange, mayChange } from "../definitions/draft.ts";
import { setFor, versionBy } from "../definitions/versions.ts";
import { FlagLink } from "../parts/flag-link.tsx";
import { useAnswer } from "../parts/use-answer.ts";
import { post, postLines } from "../service/ask.ts";
import { draftNumber, session, unrecorded } from "../service/session.ts";

/** The draft before it is written: what it means, whom it reaches, what speaks against it, and why it is made. */
export function Review() {
  return mayChange() ? <DraftReview /> : <p class="whole">You may look here, and not change anything.</p>;
}

function DraftReview() {
  const files = versionBy("files").value;
  const version = files.state === "ready" ? files.set.version : "";
  const [done, setDone] = useState<ChangedAnswer | undefined>(undefined);
  const review = useAnswer<ReviewAnswer>("draft/review", {}, [version, draftNumber.value, draft.value?.number]);
  if (done) return <Written done={done} />;
  if (review === undefined) return <p class="whole">Working the draft out …</p>;
  if (typeof review === "string") return <p class="whole fault">The draft could not be worked out: {review}</p>;
  if (draft.value?.changes.length === 0)
    return (
      <div class="whole">
        <h2>The draft is empty.</h2>
        <p>Change a flag or a cohort, and what you change is gathered here.</p>
      </div>
    );
  return (
    <article class="one" aria-label="My draft for review">
      <Steps />
      <div class="text">
        <Meaning review={review} />
        <Against review={review} />
        <Reached review={review} />
        <Write review={review} done={setDone} />
      </div>
    </article>
  );
}

/** The changes of the draft, each of which can be taken back. */
function Steps() {
  const changes = draft.value?.changes ?? [];
  return (
    <div class="margin">
      <h2>My draft</h2>
      <ol class="steps-of-draft">
        {changes.map(({ id, about, words, fault }) => (
          <li key={id} class={fault ? "unfit" : ""}>
            <b>{about}</b>: {words}
            {fault && (
              <p class="fault">
                It no longer fits: {fault.message} {fault.help}
              </p>
            )}
            <button
              type="button"
              class="quiet"
              aria-label={`Take back: ${about}, ${words}`}
              onClick={() => void dropChange(id)}
            >
              Take back
            </button>
          </li>
        ))}
      </ol>
      <button type="button" class="quiet" onClick={() => void clearDraft()}>
        Throw the draft away
      </button>
    </div>
  );
}

function Meaning({ review }: { readonly review: ReviewAnswer }) {
  return (
    <section class="part" aria-label="What it means">
      <h3>What it means</h3>
      {review.changes.length === 0 && <p>Nothing changes in what the definitions mean.</p>}
      <ChangeList changes={review.changes} />
    </section>
  );
}

/** Changes by meaning, part by part. */
export function ChangeList({ changes }: { readonly changes: readonly PartChange[] }) {
  return (
    <ul class="changes">
      {changes.map(({ part, name, kind, words }) => (
        <li key={`${part} ${name}`}>
          <b>{part === "flag" || part === "suspension" ? <FlagLink name={name} /> : `${part} ${name}`}</b>
          {kind === "renamed" && <i> renamed</i>}
          {words.length === 1 ? (
            `: ${words[0]}`
          ) : (
            <ul>
              {words.map((each) => (
                <li key={each}>{each}</li>
              ))}
            </ul>
          )}
        </li>
      ))}
    </ul>
  );
}

function Against({ review: { refused, warnings, left } }: { readonly review: ReviewAnswer }) {
  if (refused.length + warnings.length + left.length === 0)
    return (
      <section class="part" aria-label="What speaks against it">
        <h3>What speaks against it</h3>
        <p>Nothing: every example holds, and a check finds nothing new.</p>
      </section>
    );
  return (
    <section class="part" aria-label="What speaks against it">
      <h3>What speaks against it</h3>
      <ul class="changes">
        {refused.map(({ message, file, line, help }) => (
          <li key={`${file} ${line} ${message}`} class="fault">
            <b>It would not be written:</b> {message} {help} <i>{`${file}:${line}`}</i>
          </li>
        ))}
        {left.map(({ id, about, words, fault }) => (
          <li key={id}>
            <b>It stays in the draft:</b> {about}, {words}: {fault?.message}
          </li>
        ))}
        {warnings.map(({ message, file, line, help }) => (
          <li key={`${file} ${line} ${message}`}>
            <b>Warning:</b> {message} {help} <i>{`${file}:${line}`}</i>
          </li>
        ))}
      </ul>
    </section>
  );
}

type Reach = Extract<ReachLine, { reach: unknown }>["reach"];

/** Whom it reaches in a file of people, by rule. */
function Reached({ review }: { readonly review: ReviewAnswer }) {
  const files = session.value?.people ?? [];
  const { asked } = question.value;
  const [file, setFile] = useState(asked.whom.kind === "people" ? asked.whom.file : files[0]);
  const [reach, setReach] = useState<Reach | string | undefined>(undefined);
  useEffect(() => {
    if (file === undefined || review.changes.length === 0) return;
    let isOver = false;
    const definitions = setFor(asked)?.definitions;
    const request = { file, at: instantOf(asked), environments: definitions ? environmentsOf(asked, definitions) : [] };
    postLines<ReachLine>("draft/reach", request, (line) => {
      if (isOver) return;
      if ("progress" in line) setReach(`Counting ${file} … ${Math.round(line.progress * 100)}%`);
      else if ("failed" in line) setReach(`${file} could not be counted: ${line.failed}`);
      else setReach(line.reach);
    }).catch((error: Error) => !isOver && setReach(error.message));
    return () => {
      isOver = true;
    };
  }, [file, review.number, review.version, asked.environment, asked.at]);
  if (file === undefined || review.changes.length === 0) return null;
  return (
    <section class="part" aria-label="Whom it reaches">
      <h3>
        Whom it reaches{" "}
        {files.length > 1 && (
          <select aria-label="File of people" value={file} onChange={(event) => setFile(event.currentTarget.value)}>
            {files.map((each) => (
              <option key={each}>{each}</option>
            ))}
          </select>
        )}
      </h3>
      {typeof reach === "string" ? (
        <p role="status">{reach}</p>
      ) : (
        reach?.map((each) => <ReachedIn key={each.environment ?? ""} reach={each} file={file} />)
      )}
    </section>
  );
}

function ReachedIn({
  reach: { environment, people, reached, flags },
  file,
}: {
  readonly reach: Reach[number];
  readonly file: string;
}) {
  return (
    <div>
      <p>
        {environment && <span class="where">In {environment}: </span>}
        <b>
          {reached.toLocaleString("en")} of {people.toLocaleString("en")} people
        </b>{" "}
        in {file} get another value.
      </p>
      <ul class="changes">
        {flags
          .flatMap(({ flag, moves }) => moves.map((move) => ({ flag, move })))
          .map(({ flag, move }) => (
            <li key={`${flag} ${JSON.stringify([move.from, move.to])}`}>
              <b>{flag}</b>: {move.people.toLocaleString("en")} go from {valueWords(move.from as never)} to{" "}
              {valueWords(move.to as never)}, now by {by(move.to)}{" "}
              {move.who.length > 0 && (
                <i>
                  ({move.who.join(", ")}
                  {move.people > move.who.length ? ", …" : ""})
                </i>
              )}
            </li>
          ))}
      </ul>
    </div>
  );
}

function by({ cause, rule, ruleName }: Given): string {
  return cause === "rule" ? ruleCalled({ number: rule ?? 0, name: ruleName }) : cause;
}

interface WriteProps {
  readonly review: ReviewAnswer;
  done(answer: ChangedAnswer): void;
}

/** The note, and the writing. */
function Write({ review, done }: WriteProps) {
  const [note, setNote] = useState("");
  const [state, setState] = useState<string | undefined>(undefined);
  const isRefused = review.refused.length > 0 || review.files.length === 0;
  const write = async (event: Event) => {
    event.preventDefault();
    setState("Writing …");
    const { number, version } = review;
    try {
      const answer = await post<ChangedAnswer>("draft/write", { number, version, note } satisfies WriteRequest);
      unrecorded.value = answer.unrecorded;
      done(answer);
    } catch (error) {
      const { message, help } = error as Error & { help?: string };
      setState(`Nothing was lost, and the draft is as it was: ${message} ${help ?? ""}`);
    }
  };
  return (
    <form class="part change-form" onSubmit={write}>
      <label>
        Why is it changed?
        <textarea name="note" rows={2} required value={note} onInput={(event) => setNote(event.currentTarget.value)} />
      </label>
      <p class="about">
        {recordWords(review.record)} {review.files.length > 0 && `Changed: ${review.files.join(", ")}.`}
      </p>
      <p class="buttons">
        <button type="submit" class="act" disabled={isRefused || state === "Writing …"}>
          Write it
        </button>
        {isRefused && <span class="fault">It cannot be written as it is.</span>}
      </p>
      {state && <p role="alert">{state}</p>}
    </form>
  );
}

function recordWords(record: RecordWords): string {
  switch (record.as) {
    case "files":
      return "Writing it changes the files.";
    case "commit":
      return "Writing it changes the files, and commits them in your name.";
    case "branch":
      return `Writing it commits on a branch of its own under ${record.branch}/; the files stay as they are.`;
    case "edition":
      return `Writing it changes the files, and publishes them to ${record.shelf}.`;
  }
}

function Written({ done: { changes, commit, branch, edition } }: { readonly done: ChangedAnswer }) {
  return (
    <div class="whole" role="status">
      <h2>{branch ? `It is on the branch ${branch}.` : "It is written."}</h2>
      {commit && <p>Commit {commit.slice(0, 10)}.</p>}
      {edition !== undefined && <p>It is edition {edition}.</p>}
      <ChangeList changes={changes} />
      <button
        type="button"
        class="quiet"
        onClick={() => ask({ asked: { ...question.value.asked, by: "files" }, shown: allFlags })}
      >
        Back to all flags
      </button>
    </div>
  );
}
