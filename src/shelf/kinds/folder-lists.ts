import { NotRegularFault, readRegular, reasonOf } from "../../files/index.ts";
import { EditionFault, ShelfFault } from "../faults.ts";
import { longestList, tooLong } from "../list-text.ts";
import type { ListName } from "../place.ts";

/** Where every list of a kind stands. */
export const shelved: { readonly [N in ListName]: string } = { edition: "editions", stops: "stops" };

/** Only regular files are opened: a pipe or a device would keep a follower waiting. */
export async function listAt(path: string): Promise<string | undefined> {
  try {
    return (await readRegular(path, longestList, undefined, { links: true })).toString("utf8");
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "ENOENT") return undefined;
    if (error instanceof NotRegularFault && error.isTooLarge) throw new EditionFault(tooLong);
    throw unreadable(path, error);
  }
}

export function unreadable(path: string, error: unknown): Error {
  return error instanceof ShelfFault || error instanceof EditionFault
    ? error
    : new ShelfFault(`“${path}” cannot be read: ${reasonOf(error)}.`);
}
