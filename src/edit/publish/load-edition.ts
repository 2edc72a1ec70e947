import type { Loaded } from "../../files/index.ts";
import type { ShelfOptions } from "../../flags/index.ts";
import { placeOf, type Shelf } from "../../follow/index.ts";
import { ShelfReader } from "./shelf-reader.ts";

/**
 * The definitions of an edition, as a folder's are loaded.
 *
 * @throws {ToolError} where it does not stand, or is not to be trusted
 * @throws {ShelfFault} where the shelf does not answer
 */
export async function loadEdition(shelf: Shelf, number: number, keys: ShelfOptions["keys"]): Promise<Loaded> {
  const reader = new ShelfReader(shelf[placeOf], keys);
  try {
    return (await reader.earlier(number)).loaded;
  } finally {
    await reader.close();
  }
}
