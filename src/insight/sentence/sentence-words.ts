import { writtenDate } from "../../calendar/index.ts";
import { type Definitions, partsOf, rangeAt, type Share, type Split } from "../../model/index.ts";
import { printable, sentenceList, show, showPercent, showRange } from "../../values/index.ts";
import { conditionWords, peopleWords, whenWords } from "./condition-words.ts";
import { type Clause, type Gets, givesTheSame, isEverybody, type Telling } from "./telling.ts";

/** Puts what a flag gives into a sentence without its first capital and its full stop. */
export function sentenceWords({ provided, clauses, safe, isSuspended }: Telling, definitions: Definitions, at: number) {
  const inside = joined(clauses, definitions, at);
  if (isSuspended) return `${inside}: it is suspended`;
  if (provided === undefined) return inside;
  return `only where ${conditionWords(provided)}: ${inside}; where not, everybody gets ${getsWords(safe)}`;
}

/** "during duty hours, testers get": what stands before the value, and the verb. */
export function clauseWords(clause: Clause, definitions: Definitions, at: number): string {
  return headWords([clause], definitions, at);
}

/** "deck (25%) or tour (75%)", or a value. */
export function getsWords(gets: Gets): string {
  return "split" in gets ? splitWords(gets.split) : valueWords(gets.value);
}

/**
 * One clause after the other, in the order in which they are asked. What holds only at some time is parted from what comes
 * behind it, so that nobody takes its time for that of the rest.
 */
function joined(found: readonly Clause[], definitions: Definitions, at: number): string {
  const said: string[] = [];
  for (let i = 0; i < found.length; i++) {
    const clause = found[i]!;
    const lead = i === 0 ? "" : isTimed(found[i - 1]!) || isTimed(clause) ? "; otherwise " : ", ";
    const gets = getsWords(clause.gets);
    if (i > 0 && isEverybody(clause)) {
      said.push(lastWords(found.slice(0, i), lead, gets));
      continue;
    }
    const alike = [clause];
    while (!isTimed(clause) && isAlike(found[i + 1], clause)) alike.push(found[++i]!);
    said.push(`${lead}${headWords(alike, definitions, at)} ${gets}`);
  }
  return said.join("");
}

function headWords(alike: readonly Clause[], definitions: Definitions, at: number): string {
  const [{ when }] = alike as [Clause];
  const during = whenWords(when, definitions);
  const verb = alike.length === 1 && isAll(alike[0]!) ? "gets" : "get";
  return `${during ? `${during}, ` : ""}${listOfPeople(alike.map((clause) => whoWords(clause, at)))} ${verb}`;
}

function whoWords({ people: { traits, having, part } }: Clause, at: number): string {
  if (part === undefined) return peopleWords(traits, having);
  const whole = traits.length === 0 ? "all people" : peopleWords(traits, undefined, false);
  return `${showRange(part.rises ? rangeAt(part.steps, at) : part.steps[0]!)} of ${whole}${later(part, at)}`;
}

function isTimed({ when }: Clause): boolean {
  return when.length > 0;
}

/** True for everybody, though perhaps at some time only. */
function isAll({ people }: Clause): boolean {
  return isEverybody({ people, when: [] });
}

/** What everybody else gets. */
function lastWords(before: readonly Clause[], lead: string, gets: string): string {
  if (before.every(isAll)) return `; otherwise ${gets}`;
  return lead === ", " ? `, everybody else ${gets}` : `; otherwise everybody gets ${gets}`;
}

/** Groups of people with something said behind their names are parted by commas, so that they are not read as one. */
function listOfPeople(groups: readonly string[]): string {
  const [first] = groups;
  if (groups.length === 1) return first!;
  if (groups.every((group) => !/ (?:who|of|and|while)/.test(group))) return sentenceList(groups);
  return `${groups.slice(0, -1).join(", ")}, and ${groups.at(-1)},`;
}

/** Rules that give the same, one after the other, are told in one breath. */
function isAlike(next: Clause | undefined, { gets }: Clause): boolean {
  return next !== undefined && givesTheSame(next.gets, gets) && !isTimed(next) && !isEverybody(next);
}

/** The steps to come, as people write dates. */
function later({ steps, rises, zone }: Share, at: number): string {
  const coming = rises ? steps.filter(({ from }) => from > at) : [];
  if (coming.length === 0) return "";
  const words = coming.map(({ high, from }) => `${showPercent(high)} from ${writtenDate(from, zone)}`);
  return ` (${words.join(", ")}${zone === undefined ? "" : `, ${zone} time`})`;
}

function splitWords(split: Split): string {
  const parts = partsOf(split).map(({ variant, fraction }) => `${variant} (${showPercent(round(fraction * 100))})`);
  return sentenceList(parts, "or");
}

function round(percent: number): number {
  return Number(percent.toFixed(1));
}

/** A text that could be taken for words of the sentence stands in quotes. */
function valueWords(given: unknown): string {
  if (typeof given === "string" && /^[\p{L}\p{N}][\p{L}\p{N}._-]*$/u.test(given)) return given;
  return printable(show(given, 40));
}
