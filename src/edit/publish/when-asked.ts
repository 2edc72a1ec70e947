import type { Shelf } from "../../follow/index.ts";
import type { FolderRequest, Published, PublishRequest, StopRequest } from "./publish.ts";

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
 * Puts the content of an earlier edition out as a new one. What is suspended stays so: an emergency stop is not undone
 * by going back.
 *
 * @throws as `publishFolder` does
 *
 * @example await publishAgain(shelf, 41, { key, by: "Duty desk", note: "zone fares were wrong" });
 */
export async function publishAgain(shelf: Shelf, number: number, request: PublishRequest): Promise<Published> {
  return (await publishing()).publishAgain(shelf, number, request);
}

/**
 * The emergency stop at a shelf: publishes an edition that differs in nothing but the suspension, without a folder.
 *
 * @throws as `publishFolder` does; an edition that somebody else publishes in the meantime does not stop it
 *
 * @example await suspendAtShelf(shelf, { flag: "storm-mode", who: "Duty desk", note: "false alarm" }, { key, by: "Duty desk" });
 */
export async function suspendAtShelf(shelf: Shelf, stop: StopRequest, request: PublishRequest): Promise<Published> {
  return (await publishing()).suspendAtShelf(shelf, stop, request);
}

/** Ends a suspension at a shelf, in the same way. @throws as `publishFolder` does */
export async function reinstateAtShelf(shelf: Shelf, stop: StopRequest, request: PublishRequest): Promise<Published> {
  return (await publishing()).reinstateAtShelf(shelf, stop, request);
}
