import { type Signal, signal } from "@preact/signals";

/** The place of the one word that is open. */
export const hand: Signal<string | undefined> = signal(undefined);
/** What was kept last, for those who do not see it. */
export const said: Signal<string> = signal("");

/** The focus goes back to a word, also where the version that has just come draws it anew. */
export function focusWord(place: string, until = performance.now() + 2_000): void {
  const word = document.getElementById(idOf(place));
  const { activeElement } = document;
  if (activeElement !== document.body && activeElement !== null && activeElement !== word) return;
  if (word) word.focus();
  if (performance.now() < until) setTimeout(() => focusWord(place, until), 50);
}

export function idOf(place: string): string {
  return `word/${place}`;
}
