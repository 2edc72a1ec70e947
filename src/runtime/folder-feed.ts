import {
  currentSignature,
  type FolderContent,
  judgeContent,
  keepCopy,
  keepSuspensions,
  type Loaded,
  type LoadedFile,
  putTextsAway,
  readAhead,
  readFolder,
  readSuspended,
} from "../folder/index.ts";
import { compareSets } from "../insight/index.ts";
import type { Definitions } from "../model/index.ts";
import type { Feeding } from "./feed.ts";
import type { StartedFeed } from "./followable.ts";
import { LocalLayers } from "./local-layers.ts";
import type { FlagsOptions } from "./options.ts";
import { errorsIn, putIntoForce } from "./put-into-force.ts";
import { type State, sameSuspensions, suspended } from "./store.ts";
import { summariseProblems } from "./summary.ts";
import { FolderWatcher, usualTimes } from "./watcher.ts";

type Options = Pick<FlagsOptions<unknown>, "environment" | "watch" | "lastGood" | "overrides">;

/** Feeds flags from a folder: reads it again when it changes, and hands what it says to the store. */
export class FolderFeed implements StartedFeed {
  readonly #folder: string;
  readonly #options: Options;
  readonly #feeding: Feeding;
  readonly #notes: readonly string[];
  readonly #local: LocalLayers;
  readonly #watcher: FolderWatcher | undefined;
  #content: FolderContent;
  /** What the files held when they were in force last. */
  #good: FolderContent | undefined;
  #loaded: Loaded;
  /** Files that were parsed ahead of the next reload. */
  #ahead: ReadonlyMap<string, LoadedFile> | undefined;
  /** How often the suspensions were looked at for themselves, ahead of a reading of everything. */
  #suspendedLooks = 0;
  /** The stamp of the `suspended.yaml` that was read last, on its own or with the rest. */
  #suspendedStamp: string | undefined;
  #keeping: Promise<void> = Promise.resolve();
  /** What was suspended when it was kept last; not known where that failed. */
  #suspendedKept: Definitions["suspensions"] | undefined;
  #keepingSuspended: Promise<void> = Promise.resolve();
  #closed = false;

  /** @param notes what there is to say of the opening */
  constructor(folder: string, loaded: Loaded, options: Options, feeding: Feeding, notes: readonly string[] = []) {
    this.#folder = folder;
    this.#notes = notes;
    this.#options = options;
    this.#feeding = feeding;
    this.#local = new LocalLayers(feeding);
    this.#loaded = loaded;
    this.#content = loaded.content;
    this.#good = loaded.definitions ? loaded.content : undefined;
    this.#suspendedStamp = loaded.content.scan.suspended?.stamp;
    const { watch = true } = options;
    if (watch === false) return;
    this.#watcher = new FolderWatcher(
      folder,
      {
        noticed: () => this.#lookAtSuspended(),
        ahead: () => this.#readAhead(),
        settled: (restless) => this.#reload(restless),
        inForce: () => this.#content.signature,
        now: () => currentSignature(folder, this.#content),
      },
      { ...usualTimes, ...(watch === true ? {} : watch) },
    );
  }

  async start(): Promise<void> {
    this.#tellOpening();
    this.#local.useVariable(this.#options.overrides);
    await this.#local.useFile(this.#content.scan.localOverrides);
    await this.#watcher?.start();
    if (this.#loaded.suspensions) this.#settleSuspended();
    if (this.#loaded.definitions) this.#settle(this.#loaded.content);
  }

  async close(): Promise<void> {
    this.#closed = true;
    await this.#watcher?.close();
    await this.#keepingSuspended;
    await this.#keeping;
    this.#content.tools.aside.close();
  }

  #tellOpening(): void {
    const faults = errorsIn(this.#loaded.problems);
    for (const note of this.#notes) this.#feeding.report(note, faults);
    if (this.#notes.length === 0 && faults.length > 0)
      this.#feeding.report(`Opened with faults: ${summariseProblems(faults)}`, faults);
  }

  get #state(): State {
    return this.#feeding.store.state;
  }

  /** The emergency stop does not wait for the rest of the folder to come to rest, nor for its being sound. */
  async #lookAtSuspended(): Promise<void> {
    const read = await readSuspended(this.#folder, this.#suspendedStamp).catch(() => undefined);
    if (read === undefined || this.#closed) return;
    this.#suspendedLooks++;
    this.#suspendedStamp = read.stamp;
    if (read.suspensions) this.#suspend(read.suspensions);
  }

  #suspend(suspensions: Definitions["suspensions"]): void {
    const next = suspended(this.#state, suspensions);
    if (next === this.#state) return;
    this.#feeding.advance(next, compareSets(this.#state.inForce, next.inForce));
    this.#settleSuspended();
  }

  /** Parsing takes the longest, so it begins before it is certain that the writers are done. */
  async #readAhead(): Promise<void> {
    this.#ahead = await readAhead(this.#folder, this.#content).catch(() => undefined);
  }

  async #reload(restless: ReadonlySet<string>): Promise<void> {
    try {
      const before = this.#content;
      const looks = this.#suspendedLooks;
      const content = await readFolder(this.#folder, before, { ahead: this.#ahead, restless, good: this.#good });
      this.#ahead = undefined;
      if (this.#closed) return;
      if (content.signature !== before.signature) {
        this.#content = content;
        if (!holdsTheSame(content, before)) await this.#take(await judgeContent(content), looks);
      }
      // A folder that is away says nothing of them, nor of anything else.
      if (content.scan.root !== undefined && !this.#closed) await this.#local.useFile(content.scan.localOverrides);
    } catch (error) {
      this.#feeding.report(`Reading “${this.#folder}” failed: ${messageOf(error)}`);
    }
  }

  /** @param looks how often the suspensions had been looked at for themselves when reading began */
  async #take(loaded: Loaded, looks: number): Promise<void> {
    this.#loaded = loaded;
    if (this.#suspendedLooks === looks) this.#suspendedStamp = loaded.content.scan.suspended?.stamp;
    const outcome = await putIntoForce(this.#feeding, {
      loaded,
      called: this.#folder,
      environment: this.#options.environment,
      // What was looked at since is newer than what this reading found, and must not be undone by it.
      suspensions: () => (this.#suspendedLooks === looks ? loaded.suspensions : undefined),
      origin: () => ({ kind: "files", folder: this.#folder }),
      isClosed: () => this.#closed,
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
      await this.#keep("copy of the definitions", (directory) =>
        keepCopy(directory, content, this.#state.files.suspensions),
      );
      putTextsAway(content);
    });
  }

  /** What is suspended is kept for itself as soon as it changes, whatever the rest of the files is like. */
  #settleSuspended(): void {
    const { suspensions } = this.#state.files;
    if (this.#suspendedKept && sameSuspensions(suspensions, this.#suspendedKept)) return;
    this.#suspendedKept = suspensions;
    this.#keepingSuspended = this.#keepingSuspended.then(async () => {
      const isKept = await this.#keep("note of what is suspended", (directory) =>
        keepSuspensions(directory, suspensions),
      );
      if (!isKept) this.#suspendedKept = undefined;
    });
  }

  /** What cannot be kept is a problem, not a failure. */
  async #keep(what: string, keep: (directory: string) => Promise<void>): Promise<boolean> {
    const { lastGood } = this.#options;
    if (lastGood === undefined) return true;
    try {
      await keep(lastGood);
      return true;
    } catch (error) {
      this.#feeding.report(`No ${what} could be kept in “${lastGood}”: ${messageOf(error)}`);
      return false;
    }
  }
}

function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}

/** Was everything read again and found to be the same? */
function holdsTheSame(one: FolderContent, other: FolderContent): boolean {
  if (one.files.size !== other.files.size || one.lists.size !== other.lists.size) return false;
  if (one.scan.suspendedIsGone !== other.scan.suspendedIsGone) return false;
  if (JSON.stringify(one.scan.problems) !== JSON.stringify(other.scan.problems)) return false;
  if (JSON.stringify([...one.schemas]) !== JSON.stringify([...other.schemas])) return false;
  for (const [file, { document }] of one.files) if (other.files.get(file)?.document !== document) return false;
  for (const [key, { result }] of one.lists) if (other.lists.get(key)?.result !== result) return false;
  return one.scan.root === other.scan.root;
}
