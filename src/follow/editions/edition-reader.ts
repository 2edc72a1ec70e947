import { type FolderContent, filesOfEdition, type Loaded, readSet, type StoredFile } from "../../files/index.ts";
import { type Edition, type EditionFile, IncompleteFault, type Place, ShelfFault, within } from "../../shelf/index.ts";
import type { Store } from "./file-store.ts";

/** How long a file may send nothing, in milliseconds. */
const silenceTime = 10_000;

/** How long a file may take: so many milliseconds, and one more for so many bytes. */
const fileTime = 30_000;
const bytesPerMillisecond = 100;

/** Files that are fetched at once. */
const filesAtOnce = 8;

/** An edition that was fetched whole and read. */
export interface ReadEdition {
  readonly edition: Edition;
  readonly loaded: Loaded;
  /** Its files, as they stand on this machine. */
  readonly stored: readonly StoredFile[];
}

/** Fetches what is not here yet of an edition, and reads it as a folder is read. */
export class EditionReader {
  readonly #place: Place;
  readonly #store: Store;
  #content: FolderContent | undefined;

  constructor(place: Place, store: Store) {
    this.#place = place;
    this.#store = store;
  }

  /** Reads an edition of which this machine has every file still; undefined where it does not. */
  async readKept(edition: Edition): Promise<ReadEdition | undefined> {
    const stored: StoredFile[] = [];
    for (const file of edition.files) {
      const found = await this.#store.find(file);
      if (!found) return undefined;
      stored.push(found);
    }
    return { edition, stored, loaded: await this.#judged(stored) };
  }

  /**
   * Fetches and reads an edition of which the list is verified. Files that are whole stay, whatever becomes of the others.
   *
   * @param calledOff ends it at once
   * @throws {ShelfFault} where the shelf does not answer, or not with everything
   */
  async read(edition: Edition, calledOff: AbortSignal): Promise<ReadEdition> {
    const stored = await this.#fetch(edition.files, calledOff);
    return { edition, stored, loaded: await this.#judged(stored) };
  }

  close(): void {
    this.#content?.tools.worker.close();
  }

  async #judged(stored: readonly StoredFile[]): Promise<Loaded> {
    const loaded = await readSet(filesOfEdition(stored), { before: this.#content });
    this.#content = loaded.content;
    return loaded;
  }

  async #fetch(files: readonly EditionFile[], calledOff: AbortSignal): Promise<StoredFile[]> {
    const stored = new Map<string, StoredFile>();
    const left = [...files];
    const worker = async () => {
      for (let file = left.shift(); file; file = left.shift()) {
        const here = await this.#store.find(file);
        stored.set(file.path, here ?? (await this.#store.take(file, () => this.#bytes(file!, calledOff))));
      }
    };
    try {
      await Promise.all(Array.from({ length: filesAtOnce }, worker));
    } catch (error) {
      throw error instanceof ShelfFault ? new IncompleteFault(error.message, error) : error;
    }
    return files.map(({ path }) => stored.get(path)!);
  }

  /** The bytes of a file; given up when nothing comes for long, or too little. */
  async *#bytes(file: EditionFile, calledOff: AbortSignal): AsyncGenerator<Uint8Array> {
    const { called } = this.#place;
    const own = new AbortController();
    const until = performance.now() + fileTime + file.bytes / bytesPerMillisecond;
    const pieces = this.#place.bytes(file, AbortSignal.any([own.signal, calledOff]))[Symbol.asyncIterator]();
    let isWhole = false;
    try {
      for (;;) {
        if (performance.now() > until) throw new ShelfFault(`${called} sends “${file.path}” too slowly.`);
        const next = await within(silenceTime, called, calledOff, () => pieces.next());
        isWhole = next.done === true;
        if (next.done) return;
        yield next.value;
      }
    } finally {
      // What it has open is closed; what hangs is not waited for.
      if (!isWhole) {
        own.abort();
        pieces.return?.().catch(() => {});
      }
    }
  }
}
