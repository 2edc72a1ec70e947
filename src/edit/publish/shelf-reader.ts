import { type Loaded, type StoredFile, ToolError } from "../../files/index.ts";
import type { ShelfOptions } from "../../flags/index.ts";
import { EditionReader, FileStore, type ReadEdition } from "../../follow/index.ts";
import { type Edition, EditionFault, endless, type Place, readEdition } from "../../shelf/index.ts";

export interface CurrentEdition {
  readonly edition: Edition;
  readonly loaded: Loaded;
  readonly stored: readonly StoredFile[];
}

/** What stands on a shelf when somebody is about to publish. */
export interface Found {
  /** The newest edition; undefined where there is none, or it is not to be trusted. */
  readonly standing: CurrentEdition | undefined;
  /** The number of the newest, trusted or not; undefined where there is none. */
  readonly base: number | undefined;
  /** Why it is not to be trusted. */
  readonly fault: string | undefined;
}

/** Reads what a shelf holds, for those who publish. */
export class ShelfReader {
  readonly #place: Place;
  readonly #keys: ShelfOptions["keys"];
  /** Nobody calls it off; a signal of its own, since each piece of work listens to it. */
  readonly #never = endless();
  readonly #store = new FileStore(undefined);
  readonly #reader: EditionReader;

  constructor(place: Place, keys: ShelfOptions["keys"]) {
    this.#place = place;
    this.#keys = keys;
    this.#reader = new EditionReader(place, keys, this.#store, undefined);
  }

  /** @throws {ShelfFault} where the shelf does not answer */
  async newest(): Promise<Found> {
    const found = await this.#reader.look(this.#never);
    if (found.kind === "edition") return { standing: found, base: found.edition.number, fault: undefined };
    if (found.kind === "refused") return { standing: undefined, base: found.edition, fault: found.why };
    return { standing: undefined, base: undefined, fault: undefined };
  }

  /** An earlier edition with its files. @throws {ToolError} where it does not stand, or is not to be trusted */
  async earlier(number: number): Promise<ReadEdition> {
    return this.read(await this.edition(number));
  }

  /** What an earlier edition lists. @throws {ToolError} where it does not stand, or is not to be trusted */
  async edition(number: number): Promise<Edition> {
    const text = await this.#place.list(number, this.#never);
    if (text === undefined)
      throw new ToolError(`${this.#place.called} holds no edition ${number}.`, "iudex shelf lists those that stand");
    try {
      return await readEdition(text, this.#keys);
    } catch (error) {
      if (!(error instanceof EditionFault)) throw error;
      throw new ToolError(`Edition ${number} is not to be trusted: ${error.message}.`);
    }
  }

  /** Fetches and reads an edition of which the list is known and verified. */
  read(edition: Edition): Promise<ReadEdition> {
    return this.#reader.readEdition(edition, this.#never);
  }

  async close(): Promise<void> {
    this.#reader.close();
    await this.#store.close();
  }
}
