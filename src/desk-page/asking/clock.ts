import { computed, type ReadonlySignal, type Signal, signal } from "@preact/signals";
import type { Circumstances } from "./question.ts";

/** By how many milliseconds the clock of the desk differs from that of this browser. */
let ahead = 0;

/** The time at the desk, in epoch milliseconds, every second. */
export const now: Signal<number> = signal(Date.now());

/** Sets the page's clock by an instant that the desk has just told. */
export function setClock(atDesk: number): void {
  ahead = atDesk - Date.now();
  tick();
}

export function tick(): void {
  now.value = Date.now() + ahead;
}

/** What is judged by while the question says “now”: in steps, so that a list is not judged anew every second. */
const moment: ReadonlySignal<number> = computed(() => Math.floor(now.value / 5_000) * 5_000);

/** The instant of a question, in epoch milliseconds. */
export function instantOf({ at }: Circumstances): number {
  return at ?? moment.value;
}
