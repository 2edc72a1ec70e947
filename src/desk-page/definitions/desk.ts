import { computed, type ReadonlySignal, type Signal, signal } from "@preact/signals";
import type { ListedAnswer, SessionAnswer, SetAnswer, StandingEvent } from "../../desk/index.ts";
import { idText, readPath } from "../../judge/index.ts";
import { addressOf, questionIn } from "../asking/address.ts";
import { isPrivateIn } from "../asking/private.ts";
import { allFlags, type Circumstances, everyone, type Question, type Shown } from "../asking/question.ts";
import { get, openSession, post, Refused } from "../service/ask.ts";
import { ReadSet } from "./read-set.ts";

/** A version of the definitions, while it is fetched, when it has been, and where it cannot be. */
export type Held =
  | { readonly state: "loading"; readonly before: ReadSet | undefined }
  | { readonly state: "ready"; readonly set: ReadSet }
  | { readonly state: "failed"; readonly reason: string; readonly before: ReadSet | undefined };

/** Whether the page hears of changes. */
export type Connection = "opening" | "open" | "lost";

const first: Question = {
  asked: { whom: everyone, environment: undefined, at: undefined, by: "files" },
  against: undefined,
  shown: allFlags,
};

/** Who the page serves; undefined until that is known. */
export const session: Signal<SessionAnswer | undefined> = signal(undefined);
export const connection: Signal<Connection> = signal<Connection>("opening");
export const question: Signal<Question> = signal(first);
/** Epoch milliseconds, every second. */
export const now: Signal<number> = signal(Date.now());
/** Why the desk cannot be opened at all. */
export const closed: Signal<string | undefined> = signal(undefined);
/** The number of the draft that the desk knows; it grows with every change. */
export const draftNumber: Signal<number> = signal(0);

/** What is judged by while the question says “now”: in steps, so that a list is not judged anew every second. */
const moment: ReadonlySignal<number> = computed(() => Math.floor(now.value / 5_000) * 5_000);

const held = new Map<string, Signal<Held>>();
/** The first fetching of each version. */
const fetching = new Map<string, Promise<void>>();

/** How many versions are kept in the browser. */
const mostHeld = 6;

/** The instant of a question, in epoch milliseconds. */
export function instantOf({ at }: Circumstances): number {
  return at ?? moment.value;
}

/** A version of the definitions; it is fetched when it is first asked for. */
export function versionBy(by: string): Signal<Held> {
  let found = held.get(by);
  if (!found) {
    found = signal<Held>({ state: "loading", before: undefined });
    held.set(by, found);
    for (const [key] of held) if (held.size > mostHeld && key !== "files" && key !== by) held.delete(key);
    fetching.set(by, fetchVersion(by, found));
  }
  return found;
}

/** What can be shown of a version: what is there, or what was there before. */
export function usable(found: Held): ReadSet | undefined {
  const set = found.state === "ready" ? found.set : found.before;
  return set?.definitions ? set : undefined;
}

/** The set by which a question is answered; undefined while there is none. */
export function setFor({ by }: Circumstances): ReadSet | undefined {
  return usable(versionBy(by).value);
}

/** Who is stopped is seen on every page, by the files as they stand. */
export function standingSet(): ReadSet | undefined {
  return usable(versionBy("files").value);
}

async function fetchVersion(by: string, into: Signal<Held>): Promise<void> {
  const before = into.value.state === "ready" ? into.value.set : into.value.before;
  try {
    const set = new ReadSet(await get<SetAnswer>("set", { by }));
    await askLongLists(by, set, question.value.asked);
    into.value = { state: "ready", set };
  } catch (error) {
    const help = error instanceof Refused && error.help ? ` ${error.help}` : "";
    into.value = { state: "failed", reason: `${(error as Error).message}${help}`, before };
  }
}

/** Asks the desk about the person in question for lists that are too long to be here. */
async function askLongLists(by: string, set: ReadSet, { whom }: Circumstances): Promise<boolean> {
  if (whom.kind !== "person") return false;
  const asked = set.unknown((path) => idText(readPath(whom.context, path)));
  if (asked.length === 0) return false;
  const { answers } = await post<ListedAnswer>("listed", { by, asked });
  set.learn(answers);
  return true;
}

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
  return addressOf({ ...question.value, shown }, isPrivateIn(standingSet()?.definitions));
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
function writeNow(): void {
  clearTimeout(timer);
  if (waiting !== undefined) history.replaceState(null, "", waiting);
  waiting = undefined;
}

function go(next: Question): void {
  const before = question.value;
  question.value = next;
  const address = addressOf(next, isPrivateIn(standingSet()?.definitions));
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

async function learnOf(asked: Circumstances): Promise<void> {
  const found = versionBy(asked.by);
  const set = usable(found.peek());
  if (!set) return;
  const learnt = await askLongLists(asked.by, set, asked).catch(() => false);
  if (learnt && found.peek().state === "ready") found.value = { state: "ready", set };
}

/** The questions asked since the page was opened, by their addresses, which leave private attributes out. */
const earlier = new Map<string, Question>();

/** An address that was asked before is the question that was asked: going back loses nothing of a person. */
function arrive(): void {
  question.value = earlier.get(location.hash) ?? questionIn(location.hash, firstEnvironment());
  void learnOf(question.value.asked);
}

function firstEnvironment(): string | undefined {
  const environments = [...(standingSet()?.definitions?.environments.keys() ?? [])];
  const wanted = session.value?.environment;
  return wanted !== undefined && (environments.length === 0 || environments.includes(wanted))
    ? wanted
    : environments.at(-1);
}

/** Opens the page: who it serves, the definitions, and what happens to them from now on. */
export async function openDesk(): Promise<void> {
  // Both are asked for at once: the second takes the longer.
  versionBy("files");
  try {
    session.value = await openSession();
  } catch (error) {
    closed.value = error instanceof Refused ? error.message : "The desk cannot be reached. It is tried again.";
    setTimeout(() => void openDesk(), 2_000);
    return;
  }
  closed.value = undefined;
  const files = versionBy("files");
  await fetching.get("files");
  // It was asked for before anybody was let in.
  if (files.peek().state === "failed") await fetchVersion("files", files);
  arrive();
  addEventListener("click", writeNow, { capture: true });
  addEventListener("hashchange", arrive);
  addEventListener("popstate", arrive);
  setInterval(() => {
    now.value = Date.now();
  }, 1_000);
  hear();
}

/** Hears of changes; where the desk is gone, it is asked for until it is back. */
function hear(): void {
  const events = new EventSource("api/events");
  events.addEventListener("standing", ({ data }) => {
    connection.value = "open";
    void take(JSON.parse(data as string) as StandingEvent);
  });
  events.addEventListener("error", () => {
    connection.value = "lost";
    if (events.readyState !== EventSource.CLOSED) return;
    setTimeout(() => {
      void openSession()
        .then((opened) => {
          session.value = opened;
        })
        .catch(() => {})
        .finally(hear);
    }, 2_000);
  });
}

async function take({ version, draft }: StandingEvent): Promise<void> {
  const files = versionBy("files");
  const standing = files.peek();
  const known = standing.state === "ready" ? standing.set.version : undefined;
  const isNew = known !== version;
  if (isNew) await fetchVersion("files", files);
  const drafted = held.get("draft");
  if (drafted && (isNew || draft !== draftNumber.peek())) await fetchVersion("draft", drafted);
  draftNumber.value = draft;
}
