import { effect, type Signal, signal } from "@preact/signals";
import type { AddRequest, Change, DraftAnswer } from "../../desk/index.ts";
import { parsePath } from "../../language/index.ts";
import { putAt } from "../../model/index.ts";
import { attributesOf } from "../asking/address.ts";
import { isPrivateIn } from "../asking/private.ts";
import { question } from "../asking/question-now.ts";
import { get, post, Unreachable } from "../service/ask.ts";
import { connection, draftNumber, session } from "../service/session.ts";
import { askFor } from "./asking.ts";
import { currentSet } from "./versions.ts";

/** The draft as the desk worked it out last; undefined where there is none to be had. */
export const draft: Signal<DraftAnswer | undefined> = signal(undefined);
/** Changes that could not be sent yet; the browser keeps them until they are. */
export const unsent: Signal<readonly Change[]> = signal([]);
/** What the draft had to leave out of an example. */
export const leftOut: Signal<readonly string[]> = signal([]);

/** What was left before it could be kept, and why it was not. */
export const unkept: Signal<string | undefined> = signal(undefined);

/** Why a change was not taken; nothing where it was. */
export type NotTaken = { readonly message: string; readonly help: string | undefined } | undefined;

/** Begins to keep the draft: it is read whenever the desk tells of another one, and what waits is sent when it is back. */
export function keepDraft(): void {
  unsent.value = restored();
  effect(() => {
    localStorage.setItem(storageKey(), JSON.stringify(unsent.value));
  });
  effect(() => {
    void draftNumber.value;
    if (connection.value === "open" && mayChange()) void refresh();
  });
}

/** Whether what is shown can be changed: the files while there is no draft, else the draft. */
export function canChangeHere(): boolean {
  const { by } = question.value.asked;
  return mayChange() && (by === "draft" || (by === "files" && (draft.value?.changes.length ?? 0) === 0));
}

export function mayChange(): boolean {
  return session.value?.may.includes("change") === true;
}

async function refresh(): Promise<void> {
  const waiting = unsent.peek();
  if (waiting.length > 0) {
    unsent.value = [];
    for (const change of waiting) await addChange(change);
  }
  draft.value = await get<DraftAnswer>("draft").catch(() => draft.peek());
}

/** Takes a change into the draft. Where the desk is out of reach it waits in the browser. */
export async function addChange(change: Change): Promise<NotTaken> {
  try {
    const answer = await post<DraftAnswer>("draft/add", { change } satisfies AddRequest);
    draft.value = answer;
    leftOut.value = answer.leftOut ?? [];
    // From here on it is the draft that is being changed.
    if (question.peek().asked.by === "files") askFor({ by: "draft" });
    return undefined;
  } catch (error) {
    if (error instanceof Unreachable) {
      unsent.value = [...unsent.value, withoutPrivate(change)];
      return undefined;
    }
    const { message, help } = error as Error & { help?: string };
    return { message, help };
  }
}

/** What waits is kept by the browser, on disk, where private attributes have no place. */
function withoutPrivate(change: Change): Change {
  if (change.change !== "example" || !change.as || change.isMadeUp) return change;
  const isPrivate = isPrivateIn(currentSet()?.definitions);
  const as: Record<string, unknown> = {};
  for (const [attribute, value] of attributesOf(change.as)) {
    const { path } = parsePath(attribute);
    if (path && !isPrivate(attribute)) putAt(as, path, value);
  }
  return { ...change, as };
}

export async function dropChange(id: number): Promise<void> {
  draft.value = await post<DraftAnswer>("draft/drop", { id });
}

export async function clearDraft(): Promise<void> {
  draft.value = await post<DraftAnswer>("draft/clear", {});
}

/** The address of a desk may hold a secret of its own, so that what is kept is told apart by who and what it is. */
function storageKey(): string {
  return `desk unsent ${session.peek()?.name ?? ""} ${session.peek()?.folder ?? ""}`;
}

function restored(): readonly Change[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(storageKey()) ?? "[]");
    return Array.isArray(kept) ? (kept as Change[]) : [];
  } catch {
    return [];
  }
}
