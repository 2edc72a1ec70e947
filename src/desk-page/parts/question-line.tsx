import { useSignal } from "@preact/signals";
import type { ComponentChildren } from "preact";
import { useEffect, useLayoutEffect, useRef } from "preact/hooks";
import { stopIn } from "../../model/index.ts";
import { now } from "../asking/clock.ts";
import { nameOfPerson } from "../asking/person.ts";
import type { Circumstances, Question, Shown } from "../asking/question.ts";
import { question } from "../asking/question-now.ts";
import { ask } from "../definitions/asking.ts";
import { currentSet } from "../definitions/versions.ts";
import { session } from "../service/session.ts";
import { AtPanel } from "./question/at-panel.tsx";
import { ByPanel, byWords } from "./question/by-panel.tsx";
import { ForPanel } from "./question/for-panel.tsx";
import { InPanel } from "./question/in-panel.tsx";
import { ShowPanel, shownWords } from "./question/show-panel.tsx";
import { StopFlag } from "./stop.tsx";
import { showMoment, zoneOf } from "./times.ts";
import { focusFirst } from "./use-focus.ts";

/** Keeps a word and the comma behind it together: a word joiner. */
const joined = "\u2060";

type Word = "for" | "in" | "at" | "by" | "show";

/** What stands open under the sentence. */
interface Open {
  readonly word: Word;
  readonly of: "asked" | "against";
}

/** The question of the page, as a sentence whose words can be changed; what changes one opens under the sentence. */
export function QuestionLine() {
  const open = useSignal<Open | undefined>(undefined);
  const panel = useRef<HTMLDivElement>(null);
  const { asked, against, shown } = question.value;
  const close = () => {
    const last = open.value;
    open.value = undefined;
    if (last) document.getElementById(`word-${last.of}-${last.word}`)?.focus();
  };
  useLayoutEffect(() => focusFirst(panel.current), [open.value]);
  useEffect(() => {
    // It stands over the page: a press beside it is meant for the page.
    const onPress = ({ target }: PointerEvent) => {
      if (!panel.current?.parentElement?.contains(target as Node)) open.value = undefined;
    };
    document.addEventListener("pointerdown", onPress);
    return () => document.removeEventListener("pointerdown", onPress);
  }, []);
  const word = (of: Open["of"], name: Word, text: string) => (
    <WordButton
      id={`word-${of}-${name}`}
      label={`${labels[name]}?`}
      isOpen={open.value?.of === of && open.value.word === name}
      turn={() => {
        const isSame = open.value?.of === of && open.value.word === name;
        open.value = isSame ? undefined : { of, word: name };
      }}
    >
      {text}
    </WordButton>
  );
  const named = shown.view === "flag" && session.value?.may.includes("suspend") ? shown.name : undefined;
  return (
    <section class="question" aria-label="The question" onKeyDown={(event) => event.key === "Escape" && close()}>
      <h1 class="sentence">
        Show {word("asked", "show", shownWords(shown))} <Clause of="asked" asked={asked} word={word} />
        {against ? (
          <span class="clause">
            {" "}
            compared with <Clause of="against" asked={against} word={word} />
          </span>
        ) : (
          <button
            type="button"
            class="word empty"
            aria-label="Compare with another question"
            onClick={() => ask({ against: asked })}
          >
            compare …
          </button>
        )}
      </h1>
      <div class="at-the-end">
        {named !== undefined && !isStopped(named, asked) && <StopFlag key={named} flag={named} />}
        {against && (
          <button type="button" class="quiet" onClick={() => ask({ against: undefined })}>
            Ask one question only
          </button>
        )}
      </div>
      {open.value && (
        <div class="panel" ref={panel}>
          <Panel open={open.value} question={question.value} close={close} />
          <button type="button" class="done" onClick={close}>
            Done
          </button>
        </div>
      )}
    </section>
  );
}

function isStopped(name: string, { environment }: Circumstances): boolean {
  const suspension = currentSet()?.definitions?.suspensions.get(name);
  return suspension !== undefined && stopIn(suspension, environment) !== undefined;
}

/** What the page answers, in words: the title of the page. */
export function titleWords(): string {
  const { asked, shown } = question.value;
  const where = asked.environment ?? "every environment";
  return `${upperFirst(shownWords(shown))} for ${whomWords(asked)}, in ${where}, ${atWords(asked)}`;
}

function upperFirst(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

const labels: Readonly<Record<Word, string>> = {
  for: "For whom",
  in: "In which environment",
  at: "At which instant",
  by: "By which definitions",
  show: "What is shown",
};

interface ClauseProps {
  readonly of: Open["of"];
  readonly asked: Circumstances;
  word(of: Open["of"], name: Word, text: string): ComponentChildren;
}

function Clause({ of, asked, word }: ClauseProps) {
  return (
    <span class="clause">
      {"for "}
      {word(of, "for", whomWords(asked))}
      {joined}, in {word(of, "in", asked.environment ?? "every environment")}
      {joined}, {word(of, "at", atWords(asked))}
      {joined}, by <span class="together">{word(of, "by", byWords(asked.by))}.</span>
    </span>
  );
}

function whomWords({ whom }: Circumstances): string {
  if (whom.kind === "everyone") return "everyone";
  if (whom.kind === "people") return `the people in ${whom.file}`;
  return nameOfPerson(whom.context, currentSet()?.definitions);
}

function atWords({ at }: Circumstances): string {
  const zone = zoneOf(currentSet()?.definitions);
  return at === undefined
    ? `now (${showMoment(now.value, zone).slice(-5)})`
    : `on ${withoutYear(showMoment(at, zone), showMoment(now.value, zone))}`;
}

/** The year is said where it is another than this one. */
function withoutYear(moment: string, today: string): string {
  const year = / \d{4}(?=,)/.exec(today)?.[0] ?? "";
  return year === "" ? moment : moment.replace(year, "");
}

interface WordButtonProps {
  readonly id: string;
  readonly label: string;
  readonly isOpen: boolean;
  readonly children: string;
  turn(): void;
}

function WordButton({ id, label, isOpen, turn, children }: WordButtonProps) {
  return (
    <button type="button" class="word" id={id} title={label} aria-expanded={isOpen} onClick={turn}>
      {children}
    </button>
  );
}

interface PanelProps {
  readonly open: Open;
  readonly question: Question;
  close(): void;
}

function Panel({ open: { word, of }, question: { asked, against }, close }: PanelProps) {
  const now = of === "asked" ? asked : (against ?? asked);
  const change = (part: Partial<Circumstances>) => ask({ [of]: { ...now, ...part } });
  switch (word) {
    case "for":
      return <ForPanel whom={now.whom} change={(whom) => change({ whom })} />;
    case "in":
      return <InPanel environment={now.environment} change={(environment) => change({ environment })} />;
    case "at":
      return <AtPanel at={now.at} change={(at) => change({ at })} />;
    case "by":
      return <ByPanel by={now.by} change={(by) => change({ by })} />;
    case "show":
      return (
        <ShowPanel
          show={(shown: Shown) => {
            ask({ shown });
            close();
          }}
        />
      );
  }
}
