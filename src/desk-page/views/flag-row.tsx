import type { FlagDefinition } from "../../model/index.ts";
import { instantOf } from "../asking/clock.ts";
import type { Circumstances } from "../asking/question.ts";
import { question } from "../asking/question-now.ts";
import { overdueSince, type Part, partsOf, sayOtherwise, stopOf } from "../definitions/answers.ts";
import { outlookOf } from "../definitions/flag-index.ts";
import type { ReadSet } from "../definitions/read-set.ts";
import { setFor } from "../definitions/versions.ts";
import { CountedBars } from "../parts/counted-bars.tsx";
import { FlagLink } from "../parts/flag-link.tsx";
import { LookedUp } from "../parts/looked-up.tsx";
import { distance, showMoment, zoneOf } from "../parts/times.ts";

/** A flag in the list: its name in the margin, the answer, and what comes. */
export function FlagRow({ flag, set }: { readonly flag: FlagDefinition; readonly set: ReadSet }) {
  const { asked, against } = question.value;
  const { name, source } = flag;
  const other = against && setFor(against);
  const parts = partsOf(name, asked, set);
  const others = against && other ? partsOf(name, against, other) : undefined;
  const isDifferent = others !== undefined && sayOtherwise(parts, others);
  const stop = stopOf(name, asked, set.definitions!);
  const kind = [stop && "is-stopped", isDifferent && "is-different"].filter(Boolean).join(" ");
  return (
    <article class={`row ${kind}`} aria-label={name}>
      <div class="margin">
        <h2>
          <FlagLink name={name} />
        </h2>
        {source.owner && <p class="owner">{source.owner}</p>}
        {stop && <p class="mark">stopped</p>}
        {isDifferent && <p class="mark">differs</p>}
      </div>
      <div class="text">
        <Answer name={name} asked={asked} parts={parts} set={set} />
        {isDifferent && (
          <div class="other">
            <p class="lead">By the other question:</p>
            <Answer name={name} asked={against!} parts={others} set={other!} />
          </div>
        )}
        {source.about && <p class="about">{source.about}</p>}
      </div>
      <Coming flag={flag} set={set} at={instantOf(asked)} />
    </article>
  );
}

interface AnswerProps {
  readonly name: string;
  readonly asked: Circumstances;
  readonly parts: readonly Part[];
  readonly set: ReadSet;
}

/** The answer of a flag to a question: a value and why, a sentence, or how many people get what. */
export function Answer({ name, asked, parts, set }: AnswerProps) {
  if (parts.length === 0) return <p class="answer">It is not defined there.</p>;
  if (asked.whom.kind === "people") return <CountedBars flag={name} file={asked.whom.file} asked={asked} set={set} />;
  return (
    <>
      {parts.map(({ environments, value, words, open }) => (
        <p class="answer" key={environments?.join() ?? ""}>
          {environments && <span class="where">In {environments.join(", ")}: </span>}
          {value === undefined ? words : <ValueAndCause value={value} words={words} />}
          {open === "value" && <LookedUp set={set} />}
        </p>
      ))}
    </>
  );
}

function ValueAndCause({ value, words }: { readonly value: string; readonly words: string }) {
  return (
    <>
      <b class="value">{value}</b> <span class="cause">– {words}</span>
    </>
  );
}

function Coming({ flag, set, at }: { readonly flag: FlagDefinition; readonly set: ReadSet; readonly at: number }) {
  const definitions = set.definitions!;
  const zone = zoneOf(definitions);
  const next = outlookOf(definitions, at).byFlag.get(flag.name);
  const overdue = overdueSince(flag, at);
  return (
    <div class="coming">
      {next && (
        <p>
          <b>{distance(next.at - at)}</b> {next.part === "window" ? `${next.name} ` : ""}
          {next.words} <i>{showMoment(next.at, zone)}</i>
        </p>
      )}
      {overdue && (
        <p class="mark">
          to be looked at again since <b>{overdue}</b>
        </p>
      )}
      {flag.source.lifespan === "passing" && !overdue && flag.source["review-by"] && (
        <p>
          <i>
            passing; review by <span class="day">{flag.source["review-by"]}</span>
          </i>
        </p>
      )}
    </div>
  );
}
