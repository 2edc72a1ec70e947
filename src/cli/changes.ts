import { wrap } from "../files/index.ts";
import type { FlagReach, Given, Move, PartChange } from "../insight/index.ts";
import { ruleCalled } from "../model/index.ts";
import type { PeopleReach } from "../study/index.ts";
import { printable, show } from "../values/index.ts";
import { count, explanationPaint, number, type Output, shownPath, table } from "./output.ts";
import { readFaults } from "./people-faults.ts";

/** Changes by meaning, part by part. */
export function renderChanges(changes: readonly PartChange[], { colour }: Output): string {
  const paint = explanationPaint(colour);
  const marks = { added: paint.yes("+"), removed: paint.no("-"), changed: paint.open("~"), renamed: paint.open("~") };
  return changes
    .map(({ part, name, kind, words }) => {
      const called = part === "flag" || part === "suspension" ? name : `${part} ${name}`;
      const head = `${marks[kind]} ${paint.strong(printable(called))}`;
      if (words.length === 1 && words[0]!.length + called.length < 60) return `${head}  ${printable(words[0]!)}`;
      const lines = words.flatMap((each) => {
        const [first = "", ...rest] = wrap(printable(each), "");
        return [`    ${first}`, ...rest.map((line) => `      ${line}`)];
      });
      return [head, ...lines].join("\n");
    })
    .join("\n");
}

/** Whom a change reaches: how many, from what to what, by which rule, and the first of them. */
export function renderReach(
  reach: PeopleReach,
  { file, environment }: { readonly file: string; readonly environment?: string | undefined },
  { colour }: Output,
): string {
  const paint = explanationPaint(colour);
  const where = environment === undefined ? "" : `In ${printable(environment)} `;
  const reached = paint.strong(`${number(reach.reached)} of ${count(reach.people, "person", "people")}`);
  const head = `${where}${reached} in ${shownPath(file)} ${reach.reached === 1 ? "gets" : "get"} another value.`;
  const flags = reach.flags.map((flag) => renderFlag(flag, paint)).filter((text) => text !== "");
  return [head, ...flags, ...readFaults(reach.read)].join("\n");
}

function renderFlag({ flag, people, moves }: FlagReach, paint: ReturnType<typeof explanationPaint>): string {
  const rows = table(
    moves.map((move) => [number(move.people), `${shown(move.from)} → ${shown(move.to)}`]),
    [0],
  );
  const lines = moves.flatMap((move, i) => {
    const short = `    ${rows[i]}  ${reasons(move).join(", ")}`;
    const head = short.length <= widest ? [short] : [`    ${rows[i]}`, ...reasons(move).map((line) => `      ${line}`)];
    return [...head, ...names(move).map((line) => paint.faint(`      ${line}`))];
  });
  return [`  ${paint.strong(flag)}: ${count(people, "person", "people")}`, ...lines].join("\n");
}

const widest = 100;

function reasons({ from, to }: Move): string[] {
  return by(to) === by(from) ? [`by ${by(to)}`] : [`now by ${by(to)}`, `before by ${by(from)}`];
}

function names({ who, people }: Move): string[] {
  if (who.length === 0) return [];
  const more = people > who.length ? ` and ${number(people - who.length)} more` : "";
  return [`${printable(who.join(", "))}${more}`];
}

function shown({ value, variant }: Given): string {
  return printable(variant ?? show(value, 40));
}

function by({ cause, rule, ruleName }: Given): string {
  if (cause !== "rule") return cause === "withheld" ? "provided" : cause;
  return printable(ruleCalled({ number: rule ?? 0, name: ruleName }));
}
