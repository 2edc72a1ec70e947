import type { Shelf } from "../../follow/index.ts";
import type { StopRequest } from "../stops.ts";
import type { FolderRequest, Published, PublishRequest } from "./publish.ts";
import type { StopsPut, StopsRequest } from "./stops-at-shelf.ts";

// A follower of a shelf publishes nothing. So the publisher, which reads and edits YAML, is loaded when it is first used.
const publishing = () => import("./publish.ts");

/**
 * Publishes a definition folder as the next edition: checks it, shows the change, signs, puts the files and then the
 * list.
 *
 * @throws {ToolError} where somebody else was quicker, or what stands on the shelf is not to be trusted
 * @throws {NothingToChange} where the shelf holds the same already
 * @throws {ShelfFault} where the shelf does not answer
 *
 * @example await publishFolder(folderShelf("/srv/flags"), { folder: "./flags", key, by: "Nightly build", note: "Zone fares for all" });
 */
export async function publishFolder(shelf: Shelf, request: FolderRequest): Promise<Published> {
  return (await publishing()).publishFolder(shelf, request);
}

/**
 * Puts the content of an earlier edition out as a new one. What is stopped at the shelf stays so: an emergency stop is not
 * undone by going back.
 *
 * @throws as `publishFolder` does
 *
 * @example await publishAgain(shelf, 41, { key, by: "Duty desk", note: "zone fares were wrong" });
 */
export async function publishAgain(shelf: Shelf, number: number, request: PublishRequest): Promise<Published> {
  return (await publishing()).publishAgain(shelf, number, request);
}

// So is the stopper.
const stopping = () => import("./stops-at-shelf.ts");

/**
 * The emergency stop at a shelf: changes its list of stops, which stands beside the editions, and no edition ends it.
 *
 * @throws {ToolError} for a flag that there is not, for a key that followers would refuse, and where the stops that stand
 *   are not to be trusted
 * @throws {NothingToChange} where it is stopped there already
 * @throws {ShelfFault} where the shelf does not answer
 *
 * @example await suspendAtShelf(shelf, { flag: "storm-mode", who: "Duty desk", note: "false alarm" }, { key: stopKey, keys });
 */
export async function suspendAtShelf(shelf: Shelf, stop: StopRequest, request: StopsRequest): Promise<StopsPut> {
  return (await stopping()).suspendAtShelf(shelf, stop, request);
}

/** Ends a stop at a shelf, in the same way. @throws as `suspendAtShelf` does */
export async function reinstateAtShelf(
  shelf: Shelf,
  stop: Pick<StopRequest, "flag" | "environment">,
  request: StopsRequest,
): Promise<StopsPut> {
  return (await stopping()).reinstateAtShelf(shelf, stop, request);
}

/**
 * Signs the stops that stand once more, with another key; with those that a follower has kept, where a shelf was lost.
 *
 * @param request.kept a list of stops as it was signed, or a kept record of it
 * @throws as `suspendAtShelf` does
 */
export async function signStopsAgain(
  shelf: Shelf,
  request: StopsRequest & { readonly kept?: string | undefined },
): Promise<StopsPut> {
  return (await stopping()).signStopsAgain(shelf, request);
}
