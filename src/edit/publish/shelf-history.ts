import { type EditionsOptions, placeOf, type Shelf } from "../../follow/index.ts";
import { compareSets, type PartChange } from "../../insight/index.ts";
import type { Definitions } from "../../model/index.ts";
import type { Edition } from "../../shelf/index.ts";
import { emptySet } from "./empty-set.ts";
import { ShelfReader } from "./shelf-reader.ts";

/** An edition, and what it changed. */
export interface ShelfEntry {
  readonly edition: Edition;
  /** Against the edition before it; undefined where that one does not stand any more. */
  readonly changes: readonly PartChange[] | undefined;
}

/**
 * The editions of a shelf by meaning, newest first: each is fetched and compared with the one before it.
 *
 * @throws as `Shelf.editions` does
 *
 * @example for await (const { edition, changes } of historyOfShelf(shelf, { most: 5 })) console.log(edition.number, changes);
 */
export async function* historyOfShelf(
  shelf: Shelf,
  { most = 20, keys }: EditionsOptions = {},
): AsyncGenerator<ShelfEntry> {
  const reader = new ShelfReader(shelf[placeOf], keys);
  try {
    let later: { readonly edition: Edition; readonly definitions: Definitions | undefined } | undefined;
    // One more than are given: the last of them is compared too.
    for await (const edition of shelf.editions({ most: most + 1, keys })) {
      const { definitions } = (await reader.read(edition)).loaded;
      if (later) yield { edition: later.edition, changes: changesOf(definitions, later.definitions) };
      later = { edition, definitions };
      if (edition.number === 1)
        yield { edition, changes: definitions && compareSets(emptySet(definitions), definitions) };
    }
  } finally {
    await reader.close();
  }
}

function changesOf(before: Definitions | undefined, after: Definitions | undefined): readonly PartChange[] | undefined {
  return before && after ? compareSets(before, after) : undefined;
}
