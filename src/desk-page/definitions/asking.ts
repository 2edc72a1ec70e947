import { addressOf, questionIn } from "../asking/address.ts";
import { isPrivateIn } from "../asking/private.ts";
import type { Circumstances, Question, Shown } from "../asking/question.ts";
import { question } from "../asking/question-now.ts";
import { session } from "../service/session.ts";
import { currentSet, learnOf } from "./versions.ts";

/** Asks something else; the address follows. */
export function ask(change: Partial<Question>): void {
  go({ ...question.value, ...change });
}

/** Changes parts of the first question. */
export function askFor(change: Partial<Circumstances>): void {
  ask({ asked: { ...question.value.asked, ...change } });
}

export function show(shown: Shown): void {
  ask({ shown });
}

/** The address of something to show, under the question as it is. */
export function addressTo(shown: Shown): string {
  return addressOf({ ...question.value, shown }, isPrivateIn(currentSet()?.definitions));
}

/** The address that is not written yet. */
let waiting: string | undefined;
let timer: ReturnType<typeof setTimeout> | undefined;

function writeLater(address: string): void {
  waiting = address;
  clearTimeout(timer);
  timer = setTimeout(writeNow, 200);
}

/** Before anything leads elsewhere: what was asked here stays in the history. */
export function writeNow(): void {
  clearTimeout(timer);
  if (waiting !== undefined) history.replaceState(null, "", waiting);
  waiting = undefined;
}

function go(next: Question): void {
  const before = question.value;
  question.value = next;
  if (placeOf(before.shown) !== placeOf(next.shown)) window.scrollTo({ top: 0 });
  const address = addressOf(next, isPrivateIn(currentSet()?.definitions));
  earlier.set(address, next);
  const isTyping = before.shown.view === "flags" && next.shown.view === "flags";
  // The address can wait until one has typed.
  if (isTyping) writeLater(address);
  else {
    writeNow();
    if (address !== location.hash) history.pushState(null, "", address);
  }
  void learnOf(next.asked);
  if (next.against) void learnOf(next.against);
}

/** What is shown from its beginning where it was not shown before. */
function placeOf(shown: Shown): string {
  return `${shown.view} ${"name" in shown ? shown.name : ""}`;
}

/** The questions asked since the page was opened, by their addresses, which leave private attributes out. */
const earlier = new Map<string, Question>();

/** An address that was asked before is the question that was asked: going back loses nothing of a person. */
export function arrive(): void {
  question.value = earlier.get(location.hash) ?? questionIn(location.hash, firstEnvironment());
  void learnOf(question.value.asked);
}

function firstEnvironment(): string | undefined {
  const environments = [...(currentSet()?.definitions?.environments.keys() ?? [])];
  const wanted = session.value?.environment;
  return wanted !== undefined && (environments.length === 0 || environments.includes(wanted))
    ? wanted
    : environments.at(-1);
}
