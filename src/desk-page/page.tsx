import type { Signal } from "@preact/signals";
import { question } from "./asking/question-now.ts";
import { addressTo } from "./definitions/asking.ts";
import { unkept } from "./definitions/draft.ts";
import type { ReadSet } from "./definitions/read-set.ts";
import { type Held, setFor, versionBy } from "./definitions/versions.ts";
import { DaysLine } from "./parts/days-line.tsx";
import { DraftBar } from "./parts/draft-bar.tsx";
import { QuestionLine, titleWords } from "./parts/question-line.tsx";
import { StopByName } from "./parts/stop.tsx";
import { Stopped } from "./parts/stopped.tsx";
import { closed, connection, session, unrecorded } from "./service/session.ts";
import { Problems } from "./views/problems.tsx";
import { Sheet } from "./views/sheet.tsx";

/** The whole page: the question, the days, what is stopped, and what answers the question. */
export function Page() {
  if (closed.value !== undefined) return <Whole title="The desk is closed.">{closed.value}</Whole>;
  if (!session.value) return <Whole title="Opening the desk …">It asks who you are.</Whole>;
  const { asked } = question.value;
  const held = versionBy(asked.by).value;
  const set = setFor(asked);
  document.title = `${titleWords()} – ${session.value.folder}`;
  return (
    <>
      <button type="button" class="skip" onClick={() => document.getElementById("answer")?.focus()}>
        To the answer
      </button>
      <header class="top">
        <QuestionLine />
        {set && <DaysLine set={set} />}
      </header>
      <Notices />
      <main id="answer" tabIndex={-1}>
        <Stopped />
        <Shown set={set} held={held} />
      </main>
      <DraftBar />
    </>
  );
}

function Whole({ title, children }: { readonly title: string; readonly children: string }) {
  return (
    <main class="whole">
      <h1>{title}</h1>
      <p>{children}</p>
    </main>
  );
}

/** What must be known of the page itself before any of its answers is believed. */
function Notices() {
  const { asked } = question.value;
  const held = versionBy(asked.by).value;
  const isLost = connection.value === "lost";
  const broken = held.state === "ready" && held.set.broken && held.set.definitions !== undefined;
  return (
    <div class="notices" role="status">
      {isLost && (
        <p class="notice">
          <b>The desk is out of reach.</b> What is shown is what stood when it was last heard of. It is tried again by
          itself.
        </p>
      )}
      <Seen title="Something is left to be done by hand." words={unrecorded} />
      <Seen title="It was not kept." words={unkept} />
      {broken && (
        <p class="notice">
          <b>The files cannot be used as they stand</b> ({count(held.set.errors, "error")}). What is shown is what could
          be used last; stopping a flag works all the same.{" "}
          <a href={addressTo({ view: "problems" })}>See what is wrong</a>
        </p>
      )}
      {held.state === "failed" && held.before && (
        <p class="notice">
          <b>This version could not be fetched anew.</b> {held.reason}
        </p>
      )}
    </div>
  );
}

/** A notice that stands until somebody has seen it. */
function Seen({ title, words }: { readonly title: string; readonly words: Signal<string | undefined> }) {
  if (words.value === undefined) return null;
  return (
    <p class="notice">
      <b>{title}</b> {words.value}{" "}
      <button
        type="button"
        class="quiet"
        onClick={() => {
          words.value = undefined;
        }}
      >
        I have seen it
      </button>
    </p>
  );
}

interface ShownProps {
  readonly set: ReadSet | undefined;
  readonly held: Held;
}

/** What is wrong can be looked at while nothing else can. */
function Shown({ set, held }: ShownProps) {
  if (question.value.shown.view === "problems") return <Problems />;
  return set ? <Sheet set={set} /> : <NothingToShow held={held} />;
}

function NothingToShow({ held }: { readonly held: Held }) {
  if (held.state === "loading") return <p class="whole">Reading the definitions …</p>;
  if (held.state === "failed")
    return (
      <div class="whole">
        <h2>There is no such version to answer by.</h2>
        <p>{held.reason}</p>
      </div>
    );
  if (held.set.errors === 0)
    return (
      <div class="whole">
        <h2>No flag is defined here yet.</h2>
        <p>
          The folder <b>{session.value?.folder}</b> holds no definitions. <code>iudex new</code> makes a beginning.
        </p>
      </div>
    );
  return (
    <div class="whole">
      <h2>The definitions cannot be used.</h2>
      <p>
        {count(held.set.errors, "error")} in <b>{session.value?.folder}</b>.{" "}
        <a href={addressTo({ view: "problems" })}>See what is wrong</a>
      </p>
      {session.value?.may.includes("suspend") && <StopByName />}
    </div>
  );
}

function count(n: number, word: string): string {
  return `${n.toLocaleString("en")} ${n === 1 ? word : `${word}s`}`;
}
