import { judgeContent, type Loaded, loadKept, parsedBefore, readFolder, settleRevision } from "../folder/index.ts";
import type { Definitions } from "../model/index.ts";
import { FlagsError } from "./errors.ts";
import { Flags } from "./flags.ts";
import { FolderFeed } from "./folder-feed.ts";
import { type Followable, type Opened, open, type StartedFeed } from "./followable.ts";
import { checkFolderOptions, checkShelfOptions } from "./option-shapes.ts";
import type { FlagsOptions, ShelfOptions } from "./options.ts";
import { requireEnvironment } from "./require-environment.ts";
import { DefinitionStore, type Origin, opened, withSuspensions } from "./store.ts";
import { summariseProblems } from "./summary.ts";

/**
 * Opens a folder of definition files, or a shelf, and follows it: a saved file or a published edition changes verdicts
 * without a restart, a broken one is refused and the old set goes on.
 *
 * @throws {FlagsError} with every problem, when the folder or the shelf cannot be used at this first opening; for an option
 *   that there is not, or that cannot be meant
 *
 * @example
 * const flags = await followFlags("./flags", { environment: "production" });
 * if (flags.value("zone-fares", { account: { id: "A-17" } })) quoteByZone();
 */
export function followFlags<C = undefined>(folder: string, options?: FlagsOptions<C>): Promise<Flags<C>>;
/**
 * @param shelf from `iudex/fleet`: `webShelf(…)`, `redisShelf(…)`, `postgresShelf(…)` or `folderShelf(…)`
 *
 * @example
 * const shelf = webShelf("https://config.ternhaven.example/flags/");
 * const flags = await followFlags(shelf, { environment: "production", keys, lastGood: "./var/flags" });
 */
export function followFlags<C = undefined>(shelf: Followable, options?: ShelfOptions<C>): Promise<Flags<C>>;
export async function followFlags<C = undefined>(
  source: string | Followable,
  options: FlagsOptions<C> & ShelfOptions<C> = {},
): Promise<Flags<C>> {
  const { definitions, origin, feed } =
    typeof source === "string" ? await openFolder(source, options) : await openShelf(source, options);
  const store = new DefinitionStore(opened(definitions, origin));
  let started: StartedFeed | undefined;
  const flags = Flags.of<C>(store, options, (feeding) => {
    started = feed(feeding);
    return started;
  });
  await started!.start();
  return flags.release();
}

async function openShelf<C>(source: Followable, options: ShelfOptions<C>): Promise<Opened> {
  if (typeof source?.[open] !== "function")
    throw new FlagsError("What is to be followed is neither the path of a folder nor a shelf made by iudex/fleet.");
  checkShelfOptions(options);
  return source[open](options);
}

async function openFolder<C>(folder: string, options: FlagsOptions<C>): Promise<Opened> {
  checkFolderOptions(options);
  const { lastGood } = options;
  const known = lastGood === undefined ? undefined : await parsedBefore(lastGood);
  const loaded = await judgeContent(await readFolder(folder, undefined, { parsedBefore: known }));
  const { definitions, origin, notes } = await startingPoint(folder, loaded, options);
  requireEnvironment(definitions, options.environment, folder);
  return { definitions, origin, feed: (feeding) => new FolderFeed(folder, loaded, options, feeding, notes) };
}

interface Start {
  readonly definitions: Definitions;
  readonly origin: Origin;
  /** What there is to say of it. */
  readonly notes: readonly string[];
}

/** The files, or the newest kept copy; suspensions that cannot be read are those that were kept last. */
async function startingPoint<C>(folder: string, loaded: Loaded, options: FlagsOptions<C>): Promise<Start> {
  const { definitions, suspensions } = loaded;
  const isWhole = definitions !== undefined && suspensions !== undefined;
  const kept = isWhole || options.lastGood === undefined ? undefined : await loadKept(options.lastGood);
  // The files' own suspensions hold even while the rest of them is broken.
  const inForce = suspensions ?? kept?.suspended?.suspensions;
  const suspended = (set: Definitions) => (inForce ? withSuspensions(set, inForce) : set);
  if (definitions) {
    const set = suspended(definitions);
    await settleRevision(set, loaded.content.tools.memory);
    const notes = kept?.suspended
      ? [`The suspensions cannot be read, so those of ${kept.suspended.savedAt} are in force.`]
      : [];
    return { definitions: set, origin: { kind: "files", folder }, notes };
  }
  const faults = loaded.problems.filter((p) => p.severity === "error");
  if (!kept?.copy) throw new FlagsError(`The definitions in “${folder}” cannot be used.`, faults);
  const { file, savedAt } = kept.copy;
  const note = `The files cannot be used, so the copy of ${savedAt} is in force: ${summariseProblems(faults)}`;
  return { definitions: suspended(kept.copy.definitions), origin: { kind: "last-good", file, savedAt }, notes: [note] };
}
