import { computed, type ReadonlySignal, type Signal, signal } from "@preact/signals";
import type { Circumstances } from "./question.ts";

/** Epoch milliseconds, every second. */
export const now: Signal<number> = signal(Date.now());

/** What is judged by while the question says “now”: in steps, so that a list is not judged anew every second. */
const moment: ReadonlySignal<number> = computed(() => Math.floor(now.value / 5_000) * 5_000);

/** The instant of a question, in epoch milliseconds. */
export function instantOf({ at }: Circumstances): number {
  return at ?? moment.value;
}
