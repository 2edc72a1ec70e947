import { type Keep, reasonOf } from "../../files/index.ts";
import type { Edition } from "../../shelf/index.ts";
import type { FileStore } from "./file-store.ts";
import { keepEdition } from "./kept-editions.ts";
import type { Seen } from "./newest-list.ts";
import type { KeptList } from "./starting-point.ts";

/** Keeps copies of good editions, from which a start succeeds while the shelf does not answer. */
export class GoodCopies {
  readonly #keep: Keep | undefined;
  readonly #store: FileStore;
  readonly #report: (message: string) => void;
  #failed = false;
  /** What is still to be kept. */
  #due: { readonly edition: Edition; readonly seen: Seen } | undefined;
  #stopsDue: KeptList | undefined;
  #keepingStops: Promise<void> = Promise.resolve();

  constructor(keep: Keep | undefined, store: FileStore, report: (message: string) => void) {
    this.#keep = keep;
    this.#store = store;
    this.#report = report;
  }

  /** One copy after the other; a copy that cannot be kept is a problem, not a failure. */
  async keep(edition: Edition, seen: Seen): Promise<void> {
    this.#due = { edition, seen };
    await this.retry();
  }

  /** A list of stops is kept as soon as it is in force, before the files of any edition. */
  keepStops(list: KeptList): Promise<void> {
    this.#stopsDue = list;
    this.#keepingStops = this.#keepingStops.then(async () => {
      const due = this.#stopsDue;
      if (!due || !this.#keep) return;
      try {
        await this.#keep.keepStopsList(due.number, due.text);
        if (this.#stopsDue === due) this.#stopsDue = undefined;
      } catch (error) {
        this.#tell(`note of list ${due.number} of the stops`, error);
      }
    });
    return this.#keepingStops;
  }

  #tell(what: string, error: unknown): void {
    if (!this.#failed)
      this.#report(`No ${what} could be kept in “${this.#keep?.directory}”: ${reasonOf(error)}. It is tried again.`);
    this.#failed = true;
  }

  /** Tries again what could not be kept. */
  async retry(): Promise<void> {
    if (this.#stopsDue) await this.keepStops(this.#stopsDue);
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
      this.#tell(`copy of edition ${due.edition.number}`, error);
      return;
    }
    await this.#store.forget(new Set(due.edition.files.map(({ sha256 }) => sha256))).catch(() => {});
  }
}
