import type { Definitions } from "../core.ts";
import {
  currentSignature,
  type FolderContent,
  judgeContent,
  type Loaded,
  type LoadedFile,
  type LocatedProblem,
  readAhead,
  readFolder,
} from "../folder/index.ts";
import { keepCopy, loadCopy } from "../folder/last-good.ts";
import { type LocalOverrides, readLocalOverrides } from "../folder/local-overrides.ts";
import { settleRevision } from "../folder/revision.ts";
import { localOverridesFile } from "../folder/scan.ts";
import { inSlices } from "../folder/slices.ts";
import { compareInSteps, compareSets, type PartChange } from "../insight/change/compare.ts";
import { DefinitionSet } from "../model/definition-set.ts";
import { nearest, sentenceList } from "../values/names.ts";
import { FlagsError } from "./errors.ts";
import { type AskingOptions, Flags } from "./flags.ts";
import { History, type HistoryEntry } from "./history.ts";
import { readOverrideVariable } from "./override-variable.ts";
import { summarise, summariseProblems } from "./summary.ts";
import { FolderWatcher, usualTimes, type WatchTimes } from "./watcher.ts";

export interface FlagsOptions<C = undefined> extends AskingOptions<C> {
  /** False leaves the files alone once they are read. True by default. */
  readonly watch?: boolean | Partial<WatchTimes> | undefined;
  /** A folder for copies of good sets, from which a start succeeds while the files are broken. */
  readonly lastGood?: string | undefined;
  /** The text of IUDEX_OVERRIDES; the process's own by default. */
  readonly overrides?: string | undefined;
}

/** Where the definitions in force come from. */
export type Origin =
  | { readonly kind: "files"; readonly folder: string }
  | { readonly kind: "last-good"; readonly file: string; readonly savedAt: string }
  | { readonly kind: "history"; readonly revision: string };

/**
 * Opens a folder of definition files and keeps it in force: a saved file changes verdicts without a restart, a broken
 * one is refused and the old set goes on.
 *
 * @throws {FlagsError} with every problem, when the folder cannot be used at this first opening
 *
 * @example
 * const flags = await openFlags("./flags", { environment: "production" });
 * if (flags.value("zone-fares", { account: { id: "A-17" } })) quoteByZone();
 */
export async function openFlags<C = undefined>(folder: string, options: FlagsOptions<C> = {}): Promise<FolderFlags<C>> {
  const loaded = await judgeContent(await readFolder(folder));
  const start = await startingPoint(folder, loaded, options);
  requireEnvironment(start.definitions, options.environment, folder);
  const flags = new FolderFlags<C>(folder, loaded, start, options);
  await flags.start();
  return flags;
}

interface Start {
  readonly definitions: Definitions;
  readonly origin: Origin;
}

async function startingPoint<C>(folder: string, loaded: Loaded, options: FlagsOptions<C>): Promise<Start> {
  if (loaded.definitions) {
    await settleRevision(loaded.definitions);
    return { definitions: loaded.definitions, origin: { kind: "files", folder } };
  }
  const kept = options.lastGood === undefined ? undefined : await loadCopy(options.lastGood);
  if (kept?.loaded.definitions) {
    const { definitions } = kept.loaded;
    // The files' own suspensions hold even while the rest of them is broken.
    const suspended = loaded.content.scan.root === undefined ? undefined : loaded.suspensions;
    const set = suspended ? withSuspensions(definitions, suspended) : definitions;
    return { definitions: set, origin: { kind: "last-good", file: kept.file, savedAt: kept.savedAt } };
  }
  const errors = loaded.problems.filter((p) => p.severity === "error");
  throw new FlagsError(`The definitions in “${folder}” cannot be used.`, errors);
}

function withSuspensions(definitions: Definitions, suspensions: Definitions["suspensions"]): Definitions {
  return new DefinitionSet(definitions).withSuspensions(suspensions);
}

function requireEnvironment(definitions: Definitions, environment: string | undefined, folder: string): void {
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
  const near = nearest(environment, known);
  const hint = near ? `did you mean “${near}”? ` : "";
  throw new FlagsError(
    `There is no environment “${environment}” in “${folder}”; ${hint}Declared: ${sentenceList(known)}.`,
  );
}

/** The flags of one folder, which follow its files. */
export class FolderFlags<C = undefined> extends Flags<C> {
  readonly #folder: string;
  readonly #options: FlagsOptions<C>;
  readonly #watcher: FolderWatcher | undefined;
  readonly #history = new History();
  #content: FolderContent;
  /** Files that were parsed ahead of the next reload. */
  #ahead: ReadonlyMap<string, LoadedFile> | undefined;
  /** The definitions as the last good files say, which `goBackTo` leaves alone. */
  #fromFiles: Definitions;
  #origin: Origin;
  /** What there is to say before anybody can listen: listeners are put on when the opening has been awaited. */
  #held: (() => void)[] | undefined = [];
  #leftAlone = false;
  #keeping: Promise<void> = Promise.resolve();
  #closed = false;

  /** @internal */
  constructor(folder: string, loaded: Loaded, start: Start, options: FlagsOptions<C>) {
    super(start.definitions, options);
    if (this.mismatches.length > 0) {
      throw new FlagsError(
        `The definitions in “${folder}” do not fit the catalogue:\n${this.mismatches.map((m) => `  ${m}`).join("\n")}`,
      );
    }
    this.#folder = folder;
    this.#options = options;
    this.#content = loaded.content;
    this.#fromFiles = start.definitions;
    this.#origin = start.origin;
    this.#reportOpening(loaded, start);
    this.#history.add(start.definitions, "as opened");
    const { watch = true } = options;
    if (watch !== false) {
      const times = { ...usualTimes, ...(watch === true ? {} : watch) };
      const watched = {
        ahead: () => this.#readAhead(),
        settled: () => this.#reload(),
        inForce: () => this.#content.signature,
        now: () => currentSignature(folder, this.#content),
      };
      this.#watcher = new FolderWatcher(folder, watched, times);
    }
  }

  /** @internal */
  async start(): Promise<void> {
    const variable = readOverrideVariable(this.#options.overrides ?? process.env["IUDEX_OVERRIDES"] ?? "");
    this.overrides.useVariable(variable.values);
    for (const fault of variable.faults) this.report(fault);
    await this.#readLocalOverrides();
    await this.#watcher?.start();
    if (this.#origin.kind === "files") this.#keep();
    const held = this.#held ?? [];
    this.#held = undefined;
    setImmediate(() => {
      for (const tell of held) tell();
    });
  }

  /** Where the definitions in force come from: the files, a kept copy, or the history. */
  get origin(): Origin {
    return this.#origin;
  }

  /** The last revisions that were in force, newest first. */
  get history(): readonly HistoryEntry[] {
    return this.#history.entries;
  }

  /**
   * Puts an earlier revision back into force, until the files change again. Suspensions stay as the files say, since an
   * emergency stop must not be undone by going back.
   *
   * @throws {FlagsError} for a revision that the history does not hold
   */
  goBackTo(revision: string): void {
    const earlier = this.#history.find(revision);
    if (!earlier) {
      throw new FlagsError(
        `The history holds no revision “${revision}”; it holds ${sentenceList(this.history.map((h) => h.revision))}.`,
      );
    }
    this.#origin = { kind: "history", revision };
    const next = withSuspensions(earlier, this.#fromFiles.suspensions);
    this.#enforce(next, { changes: compareSets(this.definitions, next), why: "gone back" });
  }

  override async close(): Promise<void> {
    if (this.#closed) return;
    this.#closed = true;
    await this.#watcher?.close();
    await this.#keeping;
    await super.close();
  }

  protected override report(message: string, problems: readonly LocatedProblem[] = []): void {
    const tell = () => super.report(message, problems);
    if (this.#held) this.#held.push(tell);
    else tell();
  }

  #reportOpening(loaded: Loaded, { origin }: Start): void {
    const faults = loaded.problems.filter((p) => p.severity === "error");
    if (origin.kind === "last-good") {
      const message = `The files cannot be used, so the copy of ${origin.savedAt} is in force`;
      this.report(`${message}: ${summariseProblems(faults)}`, faults);
    } else if (faults.length > 0) {
      this.report(`Opened with faults: ${summariseProblems(faults)}`, faults);
    }
  }

  /** Parsing takes the longest, so it begins before it is certain that the writers are done. */
  async #readAhead(): Promise<void> {
    this.#ahead = await readAhead(this.#folder, this.#content).catch(() => undefined);
  }

  async #reload(): Promise<void> {
    try {
      const before = this.#content;
      const content = await readFolder(this.#folder, before, this.#ahead);
      this.#ahead = undefined;
      if (this.#closed) return;
      await this.#readLocalOverrides(content);
      if (content.signature === before.signature) return;
      this.#content = content;
      await this.#accept(await judgeContent(content));
    } catch (error) {
      this.report(`Reading “${this.#folder}” failed: ${error instanceof Error ? error.message : String(error)}`);
    }
  }

  async #accept(loaded: Loaded): Promise<void> {
    const usable = loaded.definitions && this.#fits(loaded.definitions) ? loaded.definitions : undefined;
    const suspensions = this.#suspensionsAfter(loaded);
    const base = usable ?? this.#fromFiles;
    const next = suspensions === base.suspensions ? base : withSuspensions(base, suspensions);
    await settleRevision(next);
    if (this.#closed) return;
    const before = this.definitions;
    const changes = next.revision === before.revision ? [] : await inSlices(compareInSteps(before, next));
    if (this.#closed) return;
    if (usable) this.#reportFaults(loaded.problems);
    else this.#reject(loaded.problems);
    if (next.revision === this.#fromFiles.revision && this.#origin.kind === "files") {
      this.#fromFiles = next;
      return;
    }
    this.#fromFiles = next;
    this.#origin = usable ? { kind: "files", folder: this.#folder } : this.#origin;
    // Somebody may have gone back in the meantime; then it is another set that is left.
    this.#enforce(next, { changes: before === this.definitions ? changes : compareSets(this.definitions, next) });
    if (usable) this.#keep();
  }

  /** Errors that leave a set usable: faults of the suspension file, mostly. */
  #reportFaults(problems: readonly LocatedProblem[]): void {
    const faults = problems.filter((p) => p.severity === "error");
    if (faults.length > 0) this.report(`Taken with faults: ${summariseProblems(faults)}`, faults);
  }

  /** An unreadable suspension file leaves the suspensions as they are; so does a folder that is gone. */
  #suspensionsAfter({ suspensions, content, definitions }: Loaded): Definitions["suspensions"] {
    if (suspensions === undefined || content.scan.root === undefined) return this.#fromFiles.suspensions;
    return definitions ? definitions.suspensions : suspensions;
  }

  #enforce(
    next: Definitions,
    { changes, why }: { readonly changes: readonly PartChange[]; readonly why?: string },
  ): void {
    const before = this.definitions;
    this.use(next);
    for (const message of this.mismatches) this.report(message);
    if (next.revision === before.revision) return;
    const summary = `definitions ${before.revision} → ${next.revision}${why ? ` (${why})` : ""}: ${summarise(changes)}`;
    this.#history.add(next, summary);
    this.events.emit("change", { from: before.revision, to: next.revision, at: new Date(), changes, summary });
  }

  /** A change that takes this program's environment away is refused like any other broken one. */
  #fits(definitions: Definitions): boolean {
    try {
      requireEnvironment(definitions, this.environment, this.#folder);
      return true;
    } catch (error) {
      this.report(error instanceof Error ? error.message : String(error));
      return false;
    }
  }

  #reject(problems: readonly LocatedProblem[]): void {
    const summary = `definitions ${this.revision} stay in force: ${summariseProblems(problems)}`;
    this.events.emit("rejected", { revision: this.revision, at: new Date(), problems, summary });
  }

  async #readLocalOverrides(content = this.#content): Promise<void> {
    const found = content.scan.localOverrides;
    if (!this.allowsLocalOverrides) {
      this.overrides.useLocalFile(new Map());
      if (found && !this.#leftAlone) {
        this.report(`${localOverridesFile} is left alone: this environment has no local-overrides.`);
      }
      this.#leftAlone = found !== undefined;
      return;
    }
    const { values, problems }: LocalOverrides = await readLocalOverrides(found);
    if (values) this.overrides.useLocalFile(values);
    if (problems.length > 0)
      this.report(`${localOverridesFile} cannot be used: ${summariseProblems(problems)}`, problems);
  }

  /** One copy after the other; a copy that cannot be kept is a problem, not a failure. */
  #keep(): void {
    const { lastGood } = this.#options;
    if (lastGood === undefined) return;
    const content = this.#content;
    this.#keeping = this.#keeping
      .then(() => keepCopy(lastGood, content))
      .catch((error: unknown) => {
        this.report(
          `No copy of the definitions could be kept in “${lastGood}”: ${error instanceof Error ? error.message : String(error)}`,
        );
      });
  }
}
