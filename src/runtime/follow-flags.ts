import type { Definitions } from "../core.ts";
import { judgeContent, type Loaded, readFolder } from "../folder/index.ts";
import { loadCopy } from "../folder/last-good.ts";
import { settleRevision } from "../folder/revision.ts";
import { didYouMean, sentenceList } from "../values/names.ts";
import { FlagsError } from "./errors.ts";
import { type AskingOptions, Flags } from "./flags.ts";
import { FolderFeed } from "./folder-feed.ts";
import { DefinitionStore, type Origin, opened, withSuspensions } from "./store.ts";
import { summariseProblems } from "./summary.ts";
import type { WatchTimes } from "./watcher.ts";

export interface FlagsOptions<C = undefined> extends AskingOptions<C> {
  /** False leaves the files alone once they are read. True by default. */
  readonly watch?: boolean | Partial<WatchTimes> | undefined;
  /** A folder for copies of good sets, from which a start succeeds while the files are broken. */
  readonly lastGood?: string | undefined;
  /** The text of IUDEX_OVERRIDES; the process's own by default. */
  readonly overrides?: string | undefined;
}

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

/** @throws {FlagsError} where the set declares environments and this is none of them */
export function requireEnvironment(definitions: Definitions, environment: string | undefined, folder: string): void {
  const known = [...definitions.environments.keys()];
  if (known.length === 0 || (environment !== undefined && known.includes(environment))) return;
  if (environment === undefined) {
    const choice = sentenceList(
      known.map((name) => `"${name}"`),
      "or",
    );
    throw new FlagsError(
      `The definitions in “${folder}” declare environments; say which one is meant: environment: ${choice}.`,
    );
  }
  const help = didYouMean(environment, known);
  throw new FlagsError(
    `There is no environment “${environment}” in “${folder}”; ${help ? `${help} ` : ""}Declared: ${sentenceList(known)}.`,
  );
}
