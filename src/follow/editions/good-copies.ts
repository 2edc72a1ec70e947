import { type Keep, reasonOf } from "../../files/index.ts";
import type { Edition } from "../../shelf/index.ts";
import type { FileStore } from "./file-store.ts";
import { keepEdition } from "./kept-editions.ts";

/** Keeps copies of good editions, from which a start succeeds while the shelf does not answer. */
export class GoodCopies {
  readonly #keep: Keep | undefined;
  readonly #store: FileStore;
  readonly #report: (message: string) => void;
  #failed = false;
  /** What is still to be kept. */
  #due: { readonly edition: Edition; readonly seen: number } | undefined;

  constructor(keep: Keep | undefined, store: FileStore, report: (message: string) => void) {
    this.#keep = keep;
    this.#store = store;
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
    try {
      if (this.#keep) {
        await this.#store.keep(due.edition.files);
        await keepEdition(this.#keep, due.edition, due.seen);
      }
      this.#failed = false;
      if (this.#due === due) this.#due = undefined;
    } catch (error) {
      if (!this.#failed)
        this.#report(
          `No copy of edition ${due.edition.number} could be kept in “${this.#keep?.directory}”: ${reasonOf(error)}. It is tried again.`,
        );
      this.#failed = true;
      return;
    }
    await this.#store.forget(new Set(due.edition.files.map(({ sha256 }) => sha256))).catch(() => {});
  }
}
