import {
  currentSignature,
  type FolderContent,
  inSlices,
  judgeContent,
  keepCopy,
  type Loaded,
  type LoadedFile,
  type LocalOverrides,
  type LocatedProblem,
  localOverridesFile,
  readAhead,
  readFolder,
  readLocalOverrides,
  readSuspended,
  settleRevision,
} from "../folder/index.ts";
import { compareInSteps, compareSets } from "../insight/index.ts";
import type { Definitions } from "../model/index.ts";
import { shortRevision } from "../model/index.ts";
import { printable } from "../values/index.ts";
import type { Feed, Feeding } from "./feed.ts";
import type { FlagsOptions } from "./options.ts";
import { readOverrideVariable } from "./override-variable.ts";
import { requireEnvironment } from "./require-environment.ts";
import { accepted, rejected, type State, suspended, withSuspensions } from "./store.ts";
import { summariseProblems } from "./summary.ts";
import { FolderWatcher, usualTimes } from "./watcher.ts";

type Options = Pick<FlagsOptions<unknown>, "environment" | "watch" | "lastGood" | "overrides">;

/** Feeds flags from a folder: reads it again when it changes, and hands what it says to the store. */
export class FolderFeed implements Feed {
  readonly #folder: string;
  readonly #options: Options;
  readonly #feeding: Feeding;
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
  #leftAlone = false;
  #keeping: Promise<void> = Promise.resolve();
  #closed = false;

  constructor(folder: string, loaded: Loaded, options: Options, feeding: Feeding) {
    this.#folder = folder;
    this.#options = options;
    this.#feeding = feeding;
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

  /** Tells what the opening was like. */
  tellOpening(notes: readonly string[]): void {
    const faults = errorsIn(this.#loaded.problems);
    for (const note of notes) this.#feeding.report(note, faults);
    if (notes.length === 0 && faults.length > 0)
      this.#feeding.report(`Opened with faults: ${summariseProblems(faults)}`, faults);
  }

  async start(): Promise<void> {
    const variable = readOverrideVariable(this.#options.overrides ?? process.env["IUDEX_OVERRIDES"] ?? "");
    this.#feeding.overrides.useVariable(variable.values);
    for (const fault of variable.faults) this.#feeding.report(fault);
    await this.#readLocalOverrides(this.#content);
    await this.#watcher?.start();
    if (this.#loaded.definitions) this.#keep(this.#loaded);
  }

  async close(): Promise<void> {
    this.#closed = true;
    await this.#watcher?.close();
    await this.#keeping;
    this.#content.tools.aside.close();
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
    if (next !== this.#state) this.#feeding.advance(next, compareSets(this.#state.inForce, next.inForce));
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
      await this.#readLocalOverrides(content);
      if (content.signature === before.signature) return;
      this.#content = content;
      if (!holdsTheSame(content, before)) await this.#take(await judgeContent(content), looks);
    } catch (error) {
      this.#feeding.report(`Reading “${this.#folder}” failed: ${messageOf(error)}`);
    }
  }

  /** @param looks how often the suspensions had been looked at for themselves when reading began */
  async #take(loaded: Loaded, looks: number): Promise<void> {
    this.#loaded = loaded;
    // What was looked at since is newer than what this reading found, and must not be undone by it.
    const suspensions = () => (this.#suspendedLooks === looks ? loaded.suspensions : undefined);
    if (this.#suspendedLooks === looks) this.#suspendedStamp = loaded.content.scan.suspended?.stamp;
    const definitions = await this.#usable(loaded, suspensions());
    const step = (state: State) => this.#next(state, definitions, suspensions());
    const before = this.#state;
    const next = step(before);
    await settleRevision(next.inForce, loaded.content.tools.memory);
    const changes = await inSlices(compareInSteps(before.inForce, next.inForce));
    if (this.#closed) return;
    if (definitions) this.#reportFaults(loaded.problems);
    else this.#reject(loaded.problems);
    // Somebody may have gone back in the meantime; then it is another set that is left.
    const now = this.#state === before ? next : step(this.#state);
    this.#feeding.advance(now, this.#state === before ? changes : compareSets(this.#state.inForce, now.inForce));
    if (definitions) {
      this.#good = loaded.content;
      this.#keep(loaded);
    }
    // Which of the two was newer is not known; the file tells.
    if (this.#suspendedLooks !== looks) await this.#lookAtSuspended();
  }

  /** The set with the suspensions of now, its revision worked out; undefined where the files cannot be used here. */
  async #usable(
    { definitions, content }: Loaded,
    suspensions: Loaded["suspensions"],
  ): Promise<Definitions | undefined> {
    if (!definitions || !this.#fits(definitions)) return undefined;
    const set = withSuspensions(definitions, suspensions ?? this.#state.files.suspensions);
    await settleRevision(set, content.tools.memory);
    return set;
  }

  #next(
    state: State,
    definitions: Definitions | undefined,
    suspensions: Definitions["suspensions"] | undefined,
  ): State {
    if (!definitions) return rejected(state, suspensions);
    const set = withSuspensions(definitions, suspensions ?? state.files.suspensions);
    return accepted(state, set, { kind: "files", folder: this.#folder });
  }

  /** Errors that leave a set usable: faults of the suspension file, mostly. */
  #reportFaults(problems: readonly LocatedProblem[]): void {
    const faults = errorsIn(problems);
    if (faults.length > 0) this.#feeding.report(`Taken with faults: ${summariseProblems(faults)}`, faults);
  }

  /** A change that takes this program's environment away is refused like any other broken one. */
  #fits(definitions: Definitions): boolean {
    try {
      requireEnvironment(definitions, this.#options.environment, this.#folder);
      return true;
    } catch (error) {
      this.#feeding.report(messageOf(error));
      return false;
    }
  }

  #reject(problems: readonly LocatedProblem[]): void {
    const { revision } = this.#state.inForce;
    const summary = printable(`definitions ${shortRevision(revision)} stay in force: ${summariseProblems(problems)}`);
    this.#feeding.emit("rejected", { revision, at: new Date(), problems, summary });
  }

  async #readLocalOverrides({ scan: { localOverrides: found } }: FolderContent): Promise<void> {
    const { overrides, report } = this.#feeding;
    if (!this.#feeding.allowsLocalOverrides()) {
      overrides.useLocalFile(new Map());
      if (found && !this.#leftAlone)
        report(`${localOverridesFile} is left alone: this environment has no local-overrides.`);
      this.#leftAlone = found !== undefined;
      return;
    }
    const { values, problems }: LocalOverrides = await readLocalOverrides(found);
    if (values) overrides.useLocalFile(values);
    if (problems.length > 0) report(`${localOverridesFile} cannot be used: ${summariseProblems(problems)}`, problems);
  }

  /** One copy after the other; a copy that cannot be kept is a problem, not a failure. */
  #keep({ content, suspensions }: Loaded): void {
    const { lastGood } = this.#options;
    if (lastGood === undefined || suspensions === undefined) return;
    this.#keeping = this.#keeping
      .then(() => keepCopy(lastGood, content))
      .catch((error: unknown) => {
        this.#feeding.report(`No copy of the definitions could be kept in “${lastGood}”: ${messageOf(error)}`);
      });
  }
}

function errorsIn(problems: readonly LocatedProblem[]): readonly LocatedProblem[] {
  return problems.filter(({ severity }) => severity === "error");
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
