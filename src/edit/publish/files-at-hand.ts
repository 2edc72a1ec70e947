import type { Entry, Files, StoredFile } from "../../files/index.ts";
import { type Store, verified } from "../../follow/index.ts";
import type { EditionFile } from "../../shelf/index.ts";

/**
 * Files of an edition of which the publisher has most already, from their own folder. Those are held against what stands on
 * the shelf, and not laid aside and read a second time.
 */
export class FilesAtHand implements Store {
  readonly #store: Store;
  #atHand: ReadonlyMap<string | undefined, Entry> = new Map();

  /** @param store takes the others */
  constructor(store: Store) {
    this.#store = store;
  }

  /** @param files those of the publisher; their stamps are their digests */
  has({ entries }: Files): void {
    this.#atHand = new Map([...entries.values()].map((entry) => [entry.stamp, entry]));
  }

  find(file: EditionFile): Promise<StoredFile | undefined> {
    return this.#store.find(file);
  }

  async take(file: EditionFile, fetch: () => AsyncIterable<Uint8Array>): Promise<StoredFile> {
    const entry = this.#atHand.get(file.sha256);
    if (!entry) return this.#store.take(file, fetch);
    for await (const _ of verified(file, fetch()));
    return { file: file.path, sha256: file.sha256, size: entry.size, bytes: () => entry.bytes() };
  }
}
