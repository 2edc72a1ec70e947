import type { Catalogue } from "../catalogue/index.ts";
import { heldAfter } from "./answers.ts";
import type { Note } from "./notes.ts";
import { outside } from "./outside.ts";
import type { PageSnapshot, Told } from "./page-flags.ts";

/** What holds, and whoever wants to hear of changes. */
export interface Held {
  snapshot(): PageSnapshot;
  /** What was told last. */
  last(): Told | undefined;
  take(told: Told | undefined): void;
  subscribe(listener: () => void): () => unknown;
}

/** @param note hears of flags that were told a value of another type */
export function held(catalogue: Catalogue | undefined, note: Note): Held {
  const unfit = (name: string, value: unknown) =>
    note("value", `${name}: found ${JSON.stringify(value)}, against the catalogue`, name);
  const listeners = new Set<() => void>();
  let last: Told | undefined;
  let snapshot = heldAfter(undefined, last, catalogue, unfit);
  return {
    snapshot: () => snapshot,
    last: () => last,
    take(told) {
      const before = snapshot;
      last = told;
      snapshot = heldAfter(before, told, catalogue, unfit);
      if (snapshot !== before) listeners.forEach(outside);
    },
    subscribe(listener) {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
  };
}
