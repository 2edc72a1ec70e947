import { type Signal, signal } from "@preact/signals";
import type { ListedAnswer, SetAnswer } from "../../desk/index.ts";
import { idText, readPath } from "../../judge/index.ts";
import type { Circumstances } from "../asking/question.ts";
import { question } from "../asking/question-now.ts";
import { get, post, Refused } from "../service/ask.ts";
import { ReadSet } from "./read-set.ts";

/** A version of the definitions, while it is fetched, when it has been, and where it cannot be. */
export type Held =
  | { readonly state: "loading"; readonly before: ReadSet | undefined }
  | { readonly state: "ready"; readonly set: ReadSet }
  | { readonly state: "failed"; readonly reason: string; readonly before: ReadSet | undefined };

const held = new Map<string, Signal<Held>>();
/** The first fetching of each version. */
const fetching = new Map<string, Promise<void>>();

type Context = Readonly<Record<string, unknown>>;

/** How many versions are kept in the browser. */
const maxHeld = 6;

/** A version of the definitions; it is fetched when it is first asked for. */
export function versionBy(by: string): Signal<Held> {
  let found = held.get(by);
  if (!found) {
    found = signal<Held>({ state: "loading", before: undefined });
    held.set(by, found);
    for (const [key] of held) if (held.size > maxHeld && key !== "files" && key !== by) held.delete(key);
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
export function currentSet(): ReadSet | undefined {
  return usable(versionBy("files").value);
}

/** Fetches a version, or fetches it anew. */
export async function fetchVersion(by: string, into: Signal<Held>): Promise<void> {
  const before = into.value.state === "ready" ? into.value.set : into.value.before;
  try {
    const set = new ReadSet(await get<SetAnswer>("set", { by }));
    const { asked, against } = question.peek();
    // What is known a moment later is not shown as open first.
    const looking = [asked, against]
      .filter((each) => each?.by === by)
      .map((each) => learn(into, set, by, peopleIn(each!)));
    await Promise.race([Promise.all(looking), new Promise((resolve) => setTimeout(resolve, patience))]);
    into.value = { state: "ready", set };
  } catch (error) {
    const help = error instanceof Refused && error.help ? ` ${error.help}` : "";
    into.value = { state: "failed", reason: `${(error as Error).message}${help}`, before };
  }
}

/** The first fetching of a version, if it was asked for. */
export function fetched(by: string): Promise<void> | undefined {
  return fetching.get(by);
}

/** A version, if it was asked for. */
export function heldVersion(by: string): Signal<Held> | undefined {
  return held.get(by);
}

/** How long a version waits for what its lists say of the person in question, in milliseconds. */
const patience = 300;

/** Asks the desk about the person in question for lists that are too long to be here. */
async function askLongLists(set: ReadSet, by: string, people: readonly Context[]): Promise<boolean> {
  const asked = people.flatMap((context) => set.unknown((path) => idText(readPath(context, path))));
  if (asked.length === 0) return false;
  const { answers } = await post<ListedAnswer>("listed", { by, asked });
  set.learn(answers);
  return true;
}

/** Learns what must be known of the person in question, as far as a version is there already. */
export async function learnOf(asked: Circumstances): Promise<void> {
  const found = versionBy(asked.by);
  const set = usable(found.peek());
  if (!set) return;
  await learn(found, set, asked.by, peopleIn(asked));
}

/** Learns what must be known of other people, such as those of examples. */
export async function learnOfPeople(by: string, people: readonly Context[]): Promise<void> {
  const found = versionBy(by);
  const set = usable(found.peek());
  if (set) await learn(found, set, by, people);
}

function peopleIn({ whom }: Circumstances): readonly Context[] {
  return whom.kind === "person" ? [whom.context] : [];
}

/** Looks people up in the long lists, and says so while it looks, and where it cannot. Those that are left are asked for again. */
async function learn(into: Signal<Held>, set: ReadSet, by: string, people: readonly Context[]): Promise<void> {
  set.lookup.value = { state: "looking" };
  try {
    const learnt = await askLongLists(set, by, people);
    for (const each of people) set.left.delete(each);
    if (set.left.size === 0) set.lookup.value = { state: "done" };
    const now = into.peek();
    if (learnt && now.state === "ready" && now.set === set) into.value = { state: "ready", set };
  } catch (error) {
    for (const each of people) set.left.add(each);
    const again = () => void learn(into, set, by, [...set.left]);
    set.lookup.value = { state: "failed", reason: (error as Error).message, again };
  }
}
