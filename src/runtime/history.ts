import type { Definitions } from "../core.ts";

/** A revision that has been in force. */
export interface HistoryEntry {
  readonly revision: string;
  readonly at: Date;
  /** What the change to it meant, in one line. */
  readonly summary: string;
}

const mostKept = 10;

/** The last revisions, newest first, with what is needed to go back to them. */
export class History {
  readonly #entries: { readonly entry: HistoryEntry; readonly definitions: Definitions }[] = [];

  add(definitions: Definitions, summary: string): void {
    this.#entries.unshift({ entry: { revision: definitions.revision, at: new Date(), summary }, definitions });
    this.#entries.length = Math.min(this.#entries.length, mostKept);
  }

  get entries(): readonly HistoryEntry[] {
    return this.#entries.map(({ entry }) => entry);
  }

  find(revision: string): Definitions | undefined {
    return this.#entries.find(({ entry }) => entry.revision === revision)?.definitions;
  }
}
