import { resolve } from "node:path";
import {
  Disk,
  filesOfKept,
  judgeContent,
  Keep,
  type KeptSet,
  type Loaded,
  parsedBefore,
  readAtRest,
  readSet,
  settleRevision,
} from "../files/index.ts";
import {
  checkFolderOptions,
  checkShelfOptions,
  DefinitionStore,
  Flags,
  FlagsError,
  type FlagsOptions,
  type Followable,
  type Opened,
  type Origin,
  open,
  opened,
  requireEnvironment,
  type ShelfOptions,
  type StartedFeed,
  summariseProblems,
  withSuspensions,
} from "../flags/index.ts";
import type { Definitions } from "../model/index.ts";
import { FolderFeed } from "./folder-feed.ts";

/**
 * Opens a folder of definition files, or a shelf, and follows it: a saved file or a published edition changes verdicts
 * without a restart. If a change is broken, it is refused, and the old set stays in force.
 *
 * @param source the path of a folder; or a shelf from `iudex/fleet`: `webShelf(…)`, `redisShelf(…)`, `postgresShelf(…)` or
 *   `folderShelf(…)`
 * @throws {FlagsError} with every problem, if the folder or the shelf cannot be used at this first opening; for an unknown
 *   option, and for one that cannot be meant
 *
 * @example
 * const flags = await followFlags("./flags", { environment: "production" });
 * if (flags.value("zone-fares", { account: { id: "A-17" } })) quoteByZone();
 * @example
 * const shelf = webShelf("https://config.ternhaven.example/flags/");
 * const flags = await followFlags(shelf, { environment: "production", keys, lastGood: "./var/flags" });
 */
export async function followFlags<C = undefined, Source extends string | Followable = string | Followable>(
  source: Source,
  options?: Source extends string ? FlagsOptions<C> : ShelfOptions<C>,
): Promise<Flags<C>> {
  const given: FlagsOptions<C> | ShelfOptions<C> = options ?? {};
  const { definitions, stops, origin, feed } =
    typeof source === "string"
      ? await openFolder(source, given as FlagsOptions<C>)
      : await openShelf(source, given as ShelfOptions<C>);
  const store = new DefinitionStore(opened(definitions, origin, stops));
  let started: StartedFeed | undefined;
  const flags = Flags.of<C>(store, given, (feeding) => {
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
  const keep = lastGood === undefined ? undefined : new Keep(lastGood, { kind: "folder", called: resolve(folder) });
  const known = keep && (await parsedBefore(keep));
  const disk = new Disk(folder);
  const loaded = await judgeContent(await readAtRest(disk, { parsedBefore: known }));
  const { definitions, origin, notes } = await startingPoint(folder, loaded, keep);
  requireEnvironment(definitions, options.environment, folder);
  return { definitions, origin, feed: (feeding) => new FolderFeed(disk, loaded, options, feeding, { notes, keep }) };
}

interface Start {
  readonly definitions: Definitions;
  readonly origin: Origin;
  /** What there is to say of it. */
  readonly notes: readonly string[];
}

/** The files, or the newest kept copy; suspensions that cannot be read are those that were kept last. */
async function startingPoint(folder: string, loaded: Loaded, keep: Keep | undefined): Promise<Start> {
  const { definitions, suspensions } = loaded;
  const isWhole = definitions !== undefined && suspensions !== undefined;
  const kept = isWhole ? undefined : await keptIn(keep);
  const faults = () => keep?.faults ?? [];
  // The files' own suspensions hold even while the rest of them is broken.
  const inForce = suspensions ?? kept?.suspended?.suspensions;
  const suspended = (set: Definitions) => (inForce ? withSuspensions(set, inForce) : set);
  if (definitions) {
    const set = suspended(definitions);
    await settleRevision(set, loaded.content.tools.memory);
    const notes = kept?.suspended
      ? [`The suspensions cannot be read, so those of ${kept.suspended.savedAt} are in force.`]
      : [];
    return { definitions: set, origin: { kind: "files", folder }, notes: [...notes, ...faults()] };
  }
  const errors = loaded.problems.filter((p) => p.severity === "error");
  if (!kept?.copy) {
    const why = faults().map((fault) => ` ${fault}`);
    throw new FlagsError(`The definitions in “${folder}” cannot be used.${why.join("")}`, errors);
  }
  const { savedAt } = kept.copy;
  const note = `The files cannot be used, so the copy of ${savedAt} is in force: ${summariseProblems(errors)}`;
  const origin = { kind: "last-good", file: keep!.directory, savedAt } as const;
  return { definitions: suspended(kept.copy.definitions), origin, notes: [note, ...faults()] };
}

/** The newest set that is kept and still good, and what was suspended last; where that is lost, what was then. */
async function keptIn(keep: Keep | undefined) {
  if (!keep) return undefined;
  const copy = await newestGood(keep, (await keep.record())?.sets ?? []);
  const withCopy = copy && { suspensions: copy.definitions.suspensions, savedAt: copy.savedAt };
  return { copy, suspended: (await keep.suspended()) ?? withCopy };
}

async function newestGood(keep: Keep, sets: readonly KeptSet[]) {
  for (const set of sets) {
    const { definitions, content } = await readSet(filesOfKept(keep, set));
    content.tools.worker.close();
    if (definitions) return { definitions, savedAt: set.savedAt };
  }
  return undefined;
}
