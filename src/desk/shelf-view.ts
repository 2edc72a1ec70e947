import { historyOfShelf, loadEdition } from "../edit/index.ts";
import type { Loaded } from "../files/index.ts";
import type { Shelf } from "../follow/index.ts";
import { EditionFault, isSilent, isUpToDate, ShelfFault } from "../shelf/index.ts";
import { DeskFault } from "./desk-fault.ts";
import type { DeskOptions } from "./options.ts";
import type { ShelfAnswer } from "./protocol.ts";

/** So many editions are told. */
const maxEditions = 30;

type ShelfOptions = Pick<DeskOptions<never>, "shelf" | "keys" | "record">;

/** A shelf, as a desk shows it: what stands there, and who follows. */
export class ShelfView {
  readonly #shelf: Shelf;
  readonly #keys: DeskOptions<never>["keys"];

  private constructor(shelf: Shelf, keys: DeskOptions<never>["keys"]) {
    this.#shelf = shelf;
    this.#keys = keys;
  }

  /** The shelf that a desk was given, or the one that it publishes to. */
  static of({ shelf, keys, record }: ShelfOptions): ShelfView | undefined {
    const found = shelf ?? (typeof record === "object" && "shelf" in record ? record.shelf : undefined);
    return found && new ShelfView(found, keys);
  }

  get called(): string {
    return this.#shelf.called;
  }

  /** @throws {DeskFault} where the shelf does not answer, or is not to be trusted */
  answer(): Promise<ShelfAnswer> {
    return this.#asked(async () => {
      const editions: ShelfAnswer["editions"][number][] = [];
      for await (const { edition, changes } of historyOfShelf(this.#shelf, { most: maxEditions, keys: this.#keys })) {
        const { number, published, by, note } = edition;
        editions.push({ number, published, by, note, ...(changes ? { changes } : {}) });
      }
      const stops = (await this.#shelf.stops(this.#keys))?.number ?? 0;
      const newest = { edition: editions[0]?.number ?? 0, stops };
      const followers = (await this.#shelf.followers())?.map((each) => ({
        ...each,
        isBehind: !isUpToDate(each, newest),
        isSilent: isSilent(each),
      }));
      return { called: this.called, editions, ...(followers ? { followers } : {}) };
    });
  }

  /** @throws {DeskFault} where there is no such edition */
  edition(number: number): Promise<Loaded> {
    return this.#asked(() => loadEdition(this.#shelf, number, this.#keys));
  }

  async #asked<T>(ask: () => Promise<T>): Promise<T> {
    try {
      return await ask();
    } catch (error) {
      if (error instanceof ShelfFault) throw new DeskFault(503, `The shelf does not answer: ${error.message}`);
      if (error instanceof EditionFault)
        throw new DeskFault(409, `What stands there is not to be trusted: ${error.message}.`);
      throw error;
    }
  }
}
