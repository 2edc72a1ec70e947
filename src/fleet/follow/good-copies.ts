import { reasonOf } from "../../folder/index.ts";
import type { Edition } from "../edition.ts";
import type { FileStore } from "./file-store.ts";
import { type KeptEditions, keepEditions, withEdition } from "./kept-editions.ts";

/** Keeps copies of good editions, from which a start succeeds while the shelf does not answer. */
export class GoodCopies {
  readonly #directory: string | undefined;
  readonly #store: FileStore;
  readonly #report: (message: string) => void;
  #editions: readonly Edition[];
  #failed = false;
  /** What is still to be kept. */
  #due: { readonly edition: Edition; readonly seen: number } | undefined;

  constructor(
    directory: string | undefined,
    store: FileStore,
    kept: KeptEditions | undefined,
    report: (message: string) => void,
  ) {
    this.#directory = directory;
    this.#store = store;
    this.#editions = kept?.editions ?? [];
    this.#report = report;
  }

  /** One copy after the other; a copy that cannot be kept is a problem, not a failure. */
  async keep(edition: Edition, seen: number): Promise<void> {
    this.#due = { edition, seen };
    await this.retry();
  }

  /** Tries again what could not be kept. */
  async retry(): Promise<void> {
    const due = this.#due;
    if (!due) return;
    const editions = withEdition(this.#editions, due.edition);
    try {
      if (this.#directory !== undefined) {
        await this.#store.keep(due.edition.files);
        await keepEditions(this.#directory, { seen: due.seen, confirmed: Date.now(), editions });
      }
      this.#editions = editions;
      this.#failed = false;
      if (this.#due === due) this.#due = undefined;
    } catch (error) {
      if (!this.#failed)
        this.#report(
          `No copy of edition ${due.edition.number} could be kept in “${this.#directory}”: ${reasonOf(error)}. It is tried again.`,
        );
      this.#failed = true;
      return;
    }
    const wanted = this.#directory === undefined ? [due.edition] : editions;
    await this.#store.forget(new Set(wanted.flatMap(({ files }) => files.map(({ sha256 }) => sha256)))).catch(() => {});
  }
}
