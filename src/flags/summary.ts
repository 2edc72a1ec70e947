import { countOf, type LocatedProblem } from "../files/index.ts";
import type { PartChange } from "../insight/index.ts";
import { shortRevision } from "../model/index.ts";
import { printable } from "../values/index.ts";
import type { ChangeEvent } from "./events.ts";

/** `zone-fares: otherwise false → true; storm-mode: new` */
export function summarise(changes: readonly PartChange[]): string {
  if (changes.length === 0) return "nothing that changes a value";
  const shown = changes.slice(0, 5).map(({ part, name, words }) => {
    const called = part === "flag" || part === "suspension" ? name : `${part} ${name}`;
    return `${called}: ${words.slice(0, 3).join(", ")}${words.length > 3 ? ` and ${words.length - 3} more` : ""}`;
  });
  if (changes.length > 5) shown.push(`and ${changes.length - 5} more`);
  return shown.join("; ");
}

/** `2 errors, the first in fares.yaml:12:9: There is no cohort “crw”.` */
export function summariseProblems(problems: readonly LocatedProblem[]): string {
  const errors = problems.filter((p) => p.severity === "error");
  const [first] = errors;
  if (!first) return "no errors";
  const all = countOf(errors);
  const count = all === 1 ? "1 error" : `${all.toLocaleString("en")} errors, the first`;
  return `${count} in ${first.file}:${first.line}:${first.column}: ${first.message}`;
}

/** What there is to tell of a change. @param why where it is not what the files say now */
export function changeEvent(
  from: string,
  to: string,
  changes: readonly PartChange[],
  why: string | undefined,
): ChangeEvent {
  const gone = why ? ` (${why})` : "";
  const summary = printable(`definitions ${shortRevision(from)} → ${shortRevision(to)}${gone}: ${summarise(changes)}`);
  return { from, to, at: new Date(), changes, summary };
}
