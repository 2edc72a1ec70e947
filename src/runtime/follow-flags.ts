import { judgeContent, type Loaded, loadCopy, readFolder, settleRevision } from "../folder/index.ts";
import type { Definitions } from "../model/index.ts";
import { FlagsError } from "./errors.ts";
import { Flags } from "./flags.ts";
import { FolderFeed } from "./folder-feed.ts";
import type { FlagsOptions } from "./options.ts";
import { requireEnvironment } from "./require-environment.ts";
import { DefinitionStore, type Origin, opened, withSuspensions } from "./store.ts";
import { summariseProblems } from "./summary.ts";

/**
 * Opens a folder of definition files and follows it: a saved file changes verdicts without a restart, a broken one is
 * refused and the old set goes on.
 *
 * @throws {FlagsError} with every problem, when the folder cannot be used at this first opening
 *
 * @example
 * const flags = await followFlags("./flags", { environment: "production" });
 * if (flags.value("zone-fares", { account: { id: "A-17" } })) quoteByZone();
 */
export async function followFlags<C = undefined>(folder: string, options: FlagsOptions<C> = {}): Promise<Flags<C>> {
  const loaded = await judgeContent(await readFolder(folder));
  const start = await startingPoint(folder, loaded, options);
  requireEnvironment(start.definitions, options.environment, folder);
  const store = new DefinitionStore(opened(start.definitions, start.origin));
  let feed: FolderFeed | undefined;
  const flags = Flags.of<C>(store, options, (feeding) => {
    feed = new FolderFeed(folder, loaded, options, feeding);
    return feed;
  });
  feed!.tellOpening(start.notes);
  await feed!.start();
  return flags.release();
}

interface Start {
  readonly definitions: Definitions;
  readonly origin: Origin;
  /** What there is to say of it. */
  readonly notes: readonly string[];
}

/** The files, or the newest kept copy; suspensions that cannot be read are those of the copy. */
async function startingPoint<C>(folder: string, loaded: Loaded, options: FlagsOptions<C>): Promise<Start> {
  const { definitions, suspensions } = loaded;
  const isWhole = definitions !== undefined && suspensions !== undefined;
  const kept = isWhole || options.lastGood === undefined ? undefined : await loadCopy(options.lastGood);
  const copy = kept?.loaded.definitions;
  if (definitions) {
    const set = isWhole || !copy ? definitions : withSuspensions(definitions, copy.suspensions);
    await settleRevision(set, loaded.content.tools.memory);
    const notes =
      isWhole || !copy ? [] : [`The suspensions cannot be read, so those of ${kept!.savedAt} are in force.`];
    return { definitions: set, origin: { kind: "files", folder }, notes };
  }
  const faults = loaded.problems.filter((p) => p.severity === "error");
  if (!copy) throw new FlagsError(`The definitions in “${folder}” cannot be used.`, faults);
  const { file, savedAt } = kept!;
  const note = `The files cannot be used, so the copy of ${savedAt} is in force: ${summariseProblems(faults)}`;
  // The files' own suspensions hold even while the rest of them is broken.
  const set = suspensions === undefined ? copy : withSuspensions(copy, suspensions);
  return { definitions: set, origin: { kind: "last-good", file, savedAt }, notes: [note] };
}
