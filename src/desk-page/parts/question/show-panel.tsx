import { allFlags, type Shown } from "../../asking/question.ts";
import { question } from "../../asking/question-now.ts";
import { addressTo } from "../../definitions/asking.ts";
import { session } from "../../service/session.ts";

/** What is shown, as the sentence calls it. */
export function shownWords(shown: Shown): string {
  switch (shown.view) {
    case "flags":
      return "all flags";
    case "flag":
      return shown.name;
    case "cohorts":
      return shown.name === undefined ? "the cohorts" : `the cohort ${shown.name}`;
    case "windows":
      return shown.name === undefined ? "the windows" : `the window ${shown.name}`;
    case "attributes":
      return "the attributes";
    case "coming":
      return "what comes";
    case "history":
      return "what was";
    case "problems":
      return "what is wrong";
    case "shelf":
      return "the shelf, and who follows";
    case "review":
      return "my draft for review";
  }
}

const sheets: readonly { readonly shown: Shown; readonly about: string }[] = [
  { shown: allFlags, about: "the answer for each" },
  { shown: { view: "cohorts", name: undefined }, about: "groups of people, and who is in them" },
  { shown: { view: "windows", name: undefined }, about: "spans of time, and whether they are open" },
  { shown: { view: "attributes", name: undefined }, about: "what conditions can ask of a person" },
  { shown: { view: "coming" }, about: "what will change by itself" },
  { shown: { view: "history" }, about: "earlier changes, by meaning" },
  { shown: { view: "shelf" }, about: "editions, and the processes that follow them" },
  { shown: { view: "problems" }, about: "what a check finds" },
];

/** What the answer is about. */
export function ShowPanel({ show }: { show(shown: Shown): void }) {
  const isThere: Readonly<Record<string, boolean>> = {
    history: session.value?.hasHistory === true,
    shelf: session.value?.shelf !== undefined,
  };
  const offered = sheets.filter(({ shown }) => isThere[shown.view] ?? true);
  return (
    <nav class="choices" aria-label="What is shown">
      <p class="legend">Show what?</p>
      {offered.map(({ shown, about }) => (
        <a
          key={shown.view}
          href={addressTo(shown)}
          aria-current={question.value.shown.view === shown.view ? "page" : undefined}
          onClick={(event) => {
            if (event.ctrlKey || event.metaKey || event.shiftKey) return;
            event.preventDefault();
            show(shown);
          }}
        >
          <b>{shownWords(shown)}</b> <i>{about}</i>
        </a>
      ))}
    </nav>
  );
}
