import { type FolderContent, filesOfEdition, type Loaded, readSet, type StoredFile } from "../../files/index.ts";
import type { RefusedEdition, ShelfOptions } from "../../flags/index.ts";
import {
  claimedNumber,
  type Edition,
  EditionFault,
  type EditionFile,
  IncompleteFault,
  type Look,
  type Looked,
  type Place,
  payloadOf,
  readEdition,
  ShelfFault,
  within,
} from "../../shelf/index.ts";
import type { FileStore } from "./file-store.ts";
import type { KeptEditions } from "./kept-editions.ts";

/** How long a shelf may take to name its newest edition, in milliseconds. */
const lookTime = 10_000;

/** How long a file may send nothing, in milliseconds. */
const silenceTime = 10_000;

/** Files that are fetched at once. */
const filesAtOnce = 8;

/** An edition that was fetched whole and read. */
export interface ReadEdition {
  readonly edition: Edition;
  readonly loaded: Loaded;
  /** Its files, as they stand on this machine. */
  readonly stored: readonly StoredFile[];
}

export type Found = (
  | { readonly kind: "empty" }
  /** It is the one that was read last. */
  | { readonly kind: "same" }
  | ({ readonly kind: "edition" } & ReadEdition)
  /** It is not to be taken: unsigned, older than what was seen, of another set. */
  | ({ readonly kind: "refused" } & RefusedEdition)
) & {
  /** How long the shelf asks not to be looked at, in milliseconds. */
  readonly wait?: number | undefined;
};

/** Finds the newest edition of a shelf, verifies it, fetches what is not here yet, and reads it as a folder is read. */
export class EditionReader {
  readonly #place: Place;
  readonly #keys: ShelfOptions["keys"];
  readonly #store: FileStore;
  /** By which the edition that was read last is known again. */
  #mark: string | undefined;
  #set: string | undefined;
  #seen: number;
  /** What the edition of that number says, if it is known. */
  #payload: string | undefined;
  /** What the edition says that was read last from the shelf. */
  #read: string | undefined;
  #content: FolderContent | undefined;

  constructor(place: Place, keys: ShelfOptions["keys"], store: FileStore, kept: KeptEditions | undefined) {
    this.#place = place;
    this.#keys = keys;
    this.#store = store;
    const [newest] = kept?.editions ?? [];
    this.#set = place.set ?? newest?.set;
    this.#seen = kept?.seen ?? 0;
    this.#payload = newest?.number === this.#seen ? payloadOf(newest) : undefined;
  }

  /** The highest number that was seen and verified. */
  get seen(): number {
    return this.#seen;
  }

  /**
   * @param calledOff ends it at once
   * @throws {ShelfFault} where the shelf does not answer, or not with everything
   */
  async look(calledOff: AbortSignal): Promise<Found> {
    const { called } = this.#place;
    let looked: Looked | undefined;
    try {
      looked = await within(lookTime, called, calledOff, (signal) => this.#place.newest(this.#mark, signal));
      return { ...(await this.#found(looked, calledOff)), wait: looked.wait };
    } catch (error) {
      if (!(error instanceof EditionFault)) throw error;
      const edition = looked?.kind === "list" ? claimedNumber(looked.text) : undefined;
      return { kind: "refused", edition, why: error.message, wait: looked?.wait };
    }
  }

  async #found(looked: Looked, calledOff: AbortSignal): Promise<Found> {
    if (looked.kind === "same") this.#mark = looked.mark ?? this.#mark;
    if (looked.kind !== "list") return { kind: looked.kind };
    const edition = await this.#verified(looked);
    this.#seen = edition.number;
    this.#payload = payloadOf(edition);
    const isSame = this.#payload === this.#read;
    const stored = isSame ? undefined : await this.#fetch(edition.files, calledOff);
    const loaded = stored && (await this.#judged(stored));
    this.#mark = looked.mark;
    this.#read = this.#payload;
    return stored && loaded ? { kind: "edition", edition, loaded, stored } : { kind: "same" };
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

  /** Fetches and reads an edition of which the list is known and verified. */
  async readEdition(edition: Edition, calledOff: AbortSignal): Promise<ReadEdition> {
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

  async #verified({ text }: Look & { kind: "list" }): Promise<Edition> {
    const edition = await readEdition(text, this.#keys);
    this.#set ??= edition.set;
    if (edition.set !== this.#set)
      throw new EditionFault(`it is of the set “${edition.set}”, and “${this.#set}” is followed`);
    if (edition.number < this.#seen)
      throw new EditionFault(`its number is below ${this.#seen}, which has been seen already`);
    if (edition.number === this.#seen && this.#payload !== undefined && payloadOf(edition) !== this.#payload)
      throw new EditionFault("its number has been seen already, on another edition");
    return edition;
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

  /** The bytes of a file; given up when nothing comes for long. */
  async *#bytes(file: EditionFile, calledOff: AbortSignal): AsyncGenerator<Uint8Array> {
    const own = new AbortController();
    const pieces = this.#place.bytes(file, AbortSignal.any([own.signal, calledOff]))[Symbol.asyncIterator]();
    try {
      for (;;) {
        const { called } = this.#place;
        const next = await within(silenceTime, called, calledOff, () => pieces.next());
        if (next.done) return;
        yield next.value;
      }
    } finally {
      own.abort();
    }
  }
}
