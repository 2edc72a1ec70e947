import {
  type Disk,
  type FileName,
  type Files,
  type FolderContent,
  judgeContent,
  type Keep,
  keepSet,
  type Loaded,
  localOverridesFile,
  putTextsAway,
  readSuspended,
  reasonOf,
  suspendedFile,
} from "../files/index.ts";
import {
  defaultTimes,
  type Feeding,
  type FlagsOptions,
  type StartedFeed,
  type State,
  sameSuspensions,
  summariseProblems,
  suspended,
} from "../flags/index.ts";
import { compareSets } from "../insight/index.ts";
import type { Definitions } from "../model/index.ts";
import { FolderFollower } from "./folder-follower.ts";
import { LocalLayers } from "./local-layers.ts";
import { errorsIn, healthProblems, putIntoForce } from "./put-into-force.ts";

type Options = Pick<FlagsOptions<unknown>, "environment" | "watch" | "lastGood" | "overrides">;

/** How long a file may be written before that is told, in milliseconds. */
const longWriting = 5_000;

/** Feeds flags from a folder: reads it again when it changes, and hands what it says to the store. */
export class FolderFeed implements StartedFeed {
  readonly #disk: Disk;
  readonly #keep: Keep | undefined;
  readonly #options: Options;
  readonly #feeding: Feeding;
  readonly #notes: readonly string[];
  readonly #local: LocalLayers;
  readonly #follower: FolderFollower;
  /** What the files held when they were in force last. */
  #good: FolderContent | undefined;
  #loaded: Loaded;
  /** How often the suspensions were looked at for themselves, ahead of a reading of everything. */
  #suspendedLooks = 0;
  /** The mark of the `suspended.yaml` that was read last, on its own or with the rest. */
  #suspendedMark: string | undefined;
  /** Files that are being written for so long that it was said. */
  readonly #toldUnsettled = new Set<FileName>();
  #keeping: Promise<void> = Promise.resolve();
  /** What was suspended when it was kept last; not known where that failed. */
  #suspendedKept: Definitions["suspensions"] | undefined;
  #keepingSuspended: Promise<void> = Promise.resolve();

  /** @param opening what there is to say of it, and where good sets are kept */
  constructor(
    disk: Disk,
    loaded: Loaded,
    options: Options,
    feeding: Feeding,
    { notes = [], keep }: { readonly notes?: readonly string[]; readonly keep?: Keep | undefined } = {},
  ) {
    this.#keep = keep;
    this.#disk = disk;
    this.#notes = notes;
    this.#options = options;
    this.#feeding = feeding;
    this.#local = new LocalLayers(feeding);
    this.#loaded = loaded;
    this.#good = loaded.definitions ? loaded.content : undefined;
    this.#suspendedMark = markIn(loaded.content);
    const { watch = true } = options;
    const news = {
      noticed: () => this.#lookAtSuspended(),
      good: () => this.#good,
      changed: (content: FolderContent) => this.#take(content),
      read: (files: Files) => this.#readLocalOverrides(files),
      unsettled: (names: ReadonlyMap<FileName, number>) => this.#tellUnsettled(names),
      failed: (error: unknown) => {
        const message = `Reading “${disk.folder}” failed: ${reasonOf(error)}`;
        feeding.report(message);
        feeding.unsound([{ message }]);
      },
    };
    const times = { ...defaultTimes, ...(watch === true ? {} : watch) };
    this.#follower = new FolderFollower(disk, loaded.content, news, watch === false ? undefined : times);
  }

  async start(): Promise<void> {
    this.#tellOpening();
    this.#local.useVariable(this.#options.overrides);
    await this.#readLocalOverrides(this.#follower.content.source);
    await this.#follower.start();
    if (this.#loaded.suspensions) this.#settleSuspended();
    if (this.#loaded.definitions) this.#settle(this.#loaded.content);
  }

  async close(): Promise<void> {
    await this.#follower.close();
    await this.#keepingSuspended;
    await this.#keeping;
  }

  get #isClosed(): boolean {
    return this.#follower.closing.aborted;
  }

  /** A folder that is away, or going, says nothing of them, nor of anything else. */
  async #readLocalOverrides({ entries, faults, root, isListed }: Files): Promise<void> {
    const entry = entries.get(localOverridesFile);
    const isGone = root !== undefined && isListed && !faults.some(({ file }) => file === localOverridesFile);
    if (entry || isGone) await this.#local.useFile(entry);
  }

  #tellUnsettled(names: ReadonlyMap<FileName, number>): void {
    for (const name of this.#toldUnsettled) if (!names.has(name)) this.#toldUnsettled.delete(name);
    for (const [name, writing] of names) {
      if (writing < longWriting || this.#toldUnsettled.has(name)) continue;
      this.#toldUnsettled.add(name);
      this.#feeding.report(
        `“${name}” is still being written. Until that ends, what was read of it last stays in force.`,
      );
    }
  }

  #tellOpening(): void {
    const faults = errorsIn(this.#loaded.problems);
    for (const note of this.#notes) this.#feeding.report(note, faults);
    const isSound = this.#loaded.definitions !== undefined && this.#loaded.suspensions !== undefined;
    if (!isSound) this.#feeding.unsound(healthProblems(faults, this.#notes[0] ?? "The files cannot be used."));
    if (this.#notes.length === 0 && faults.length > 0)
      this.#feeding.report(`Opened with faults: ${summariseProblems(faults)}`, faults);
  }

  get #state(): State {
    return this.#feeding.store.state;
  }

  /** The emergency stop does not wait for the rest of the folder to come to rest, nor for its being sound. */
  async #lookAtSuspended(): Promise<void> {
    const read = await readSuspended(this.#disk, this.#suspendedMark).catch(() => undefined);
    if (read === undefined || this.#isClosed) return;
    this.#suspendedLooks++;
    this.#suspendedMark = read.mark;
    if (read.suspensions) this.#suspend(read.suspensions);
  }

  #suspend(suspensions: Definitions["suspensions"]): void {
    const next = suspended(this.#state, suspensions);
    if (next === this.#state) return;
    this.#feeding.advance(next, compareSets(this.#state.inForce, next.inForce));
    this.#settleSuspended();
  }

  async #take(content: FolderContent): Promise<void> {
    const looks = this.#suspendedLooks;
    const signal = this.#follower.closing;
    const loaded = await judgeContent(content, { signal });
    this.#loaded = loaded;
    if (this.#suspendedLooks === looks) this.#suspendedMark = markIn(content);
    const outcome = await putIntoForce(this.#feeding, {
      loaded,
      called: this.#disk.folder,
      environment: this.#options.environment,
      // What was looked at since is newer than what this reading found, and must not be undone by it.
      suspensions: () => (this.#suspendedLooks === looks ? loaded.suspensions : undefined),
      origin: () => ({ kind: "files", folder: this.#disk.folder }),
      closing: this.#follower.closing,
    });
    if (outcome === "closed") return;
    if (loaded.suspensions) this.#settleSuspended();
    if (outcome === "taken") {
      this.#good = loaded.content;
      this.#settle(loaded.content);
    }
    // Which of the two was newer is not known; the file tells.
    if (this.#suspendedLooks !== looks) await this.#lookAtSuspended();
  }

  /** What came into force is kept as a copy, one after the other; its texts are then put away. */
  #settle(content: FolderContent): void {
    this.#keeping = this.#keeping.then(async () => {
      await this.#keepOr("copy of the definitions", (keep) => keepSet(keep, content, this.#state.files.suspensions));
      putTextsAway(content);
    });
  }

  /** What is suspended is kept for itself as soon as it changes, whatever the rest of the files is like. */
  #settleSuspended(): void {
    const { suspensions } = this.#state.files;
    if (this.#suspendedKept && sameSuspensions(suspensions, this.#suspendedKept)) return;
    this.#suspendedKept = suspensions;
    this.#keepingSuspended = this.#keepingSuspended.then(async () => {
      const isKept = await this.#keepOr("note of what is suspended", (keep) => keep.keepSuspended(suspensions));
      if (!isKept) this.#suspendedKept = undefined;
    });
  }

  /** What cannot be kept is a problem, not a failure. */
  async #keepOr(what: string, keep: (keep: Keep) => Promise<void>): Promise<boolean> {
    if (!this.#keep) return true;
    try {
      await keep(this.#keep);
      return true;
    } catch (error) {
      this.#feeding.report(`No ${what} could be kept in “${this.#keep.directory}”: ${reasonOf(error)}`);
      return false;
    }
  }
}

function markIn({ files }: FolderContent): string | undefined {
  return files.get(suspendedFile)?.entry.mark;
}
