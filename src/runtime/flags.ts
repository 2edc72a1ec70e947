import { compareSets } from "../core/change/compare.ts";
import { type Definitions, type Explanation, explain, FlagSet, type Verdict } from "../core/index.ts";
import { nearest, sentenceList } from "../core/names.ts";
import { judgeContent, type Loaded, type LocatedProblem, readFolder, signatureOf } from "../files/index.ts";
import { FlagsError } from "./errors.ts";
import { Events, type FlagsEvents } from "./events.ts";
import { summarise, summariseProblems } from "./summary.ts";
import { FolderWatcher, type WatchTimes } from "./watcher.ts";

/** What calling code knows at the moment of asking: a plain object of attributes. */
export type Context = object;

export interface FlagsOptions {
  /** The environment; required when the set declares any. */
  readonly environment?: string | undefined;
  /** The time, as epoch milliseconds; `Date.now` by default. */
  readonly clock?: (() => number) | undefined;
  /** False leaves the files alone once they are read. True by default. */
  readonly watch?: boolean | Partial<WatchTimes> | undefined;
}

export type FlagValue = boolean | number | string | object;

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
export async function openFlags(folder: string, options: FlagsOptions = {}): Promise<Flags> {
  const content = await readFolder(folder);
  const loaded = judgeContent(content);
  if (!loaded.definitions) throw new FlagsError(`The definitions in “${folder}” cannot be used.`, errorsOf(loaded));
  requireEnvironment(loaded.definitions, options.environment, folder);
  const flags = new Flags(folder, loaded, loaded.definitions, options);
  await flags.start();
  return flags;
}

function errorsOf({ problems }: Loaded): LocatedProblem[] {
  return problems.filter((p) => p.severity === "error");
}

function requireEnvironment(definitions: Definitions, environment: string | undefined, folder: string): void {
  const known = [...definitions.environments.keys()];
  if (known.length === 0 || (environment !== undefined && known.includes(environment))) return;
  if (environment === undefined) {
    throw new FlagsError(
      `The definitions in “${folder}” declare environments; say which one is meant: environment: ${sentenceList(
        known.map((k) => `"${k}"`),
        "or",
      )}.`,
    );
  }
  const near = nearest(environment, known);
  throw new FlagsError(
    `There is no environment “${environment}” in “${folder}”${near ? `; did you mean “${near}”?` : ""} Declared: ${sentenceList(known)}.`,
  );
}

/** The flags of one folder, for one environment. */
export class Flags {
  readonly #folder: string;
  readonly #environment: string | undefined;
  readonly #clock: () => number;
  readonly #events = new Events<FlagsEvents>();
  readonly #watcher: FolderWatcher | undefined;
  readonly #unknown = new Set<string>();
  #loaded: Loaded;
  #set: FlagSet;
  #closed = false;

  /** @internal */
  constructor(folder: string, loaded: Loaded, definitions: Definitions, options: FlagsOptions) {
    this.#folder = folder;
    this.#environment = options.environment;
    this.#clock = options.clock ?? Date.now;
    this.#loaded = loaded;
    this.#set = new FlagSet(definitions, options.environment);
    const { watch = true } = options;
    if (watch !== false) {
      const times = { quiet: 200, longest: 5_000, poll: 1_000, ...(watch === true ? {} : watch) };
      this.#watcher = new FolderWatcher(folder, () => this.#reload(), times);
    }
  }

  /** @internal */
  async start(): Promise<void> {
    await this.#watcher?.start(signatureOf(this.#loaded.content.scan));
  }

  /** The revision of the definitions in force. */
  get revision(): string {
    return this.#set.revision;
  }

  /** The environment that the flags were opened for. */
  get environment(): string | undefined {
    return this.#environment;
  }

  /** The names of all flags, in order. */
  get names(): readonly string[] {
    return [...this.#set.definitions.flags.keys()].sort();
  }

  /**
   * The value of a flag for a context, or undefined for a flag that nobody defines. It never throws.
   *
   * @example const minutes = flags.value("hold-minutes", { account: { plan: "freight" } }) ?? 15;
   */
  value(flag: string, context: Context = {}): FlagValue | undefined {
    const outcome = this.#set.judge(flag, context, this.#clock);
    if (outcome === undefined) this.#reportUnknown(flag);
    return outcome?.value as FlagValue | undefined;
  }

  /** The value with its variant, cause, rule and revision. */
  verdict(flag: string, context: Context = {}): Verdict {
    const outcome = this.#set.judge(flag, context, this.#clock);
    if (outcome !== undefined) return outcome.verdict(this.#set.revision);
    this.#reportUnknown(flag);
    return {
      flag,
      value: undefined,
      variant: undefined,
      cause: "fallback",
      rule: undefined,
      revision: this.#set.revision,
      problem: "unknown-flag",
    };
  }

  /** The whole way to the verdict, as data; `formatExplanation` renders it. Undefined for an unknown flag. */
  explain(flag: string, context: Context = {}): Explanation | undefined {
    const explanation = explain(this.#set, flag, context, { at: this.#clock() });
    if (explanation === undefined) this.#reportUnknown(flag);
    return explanation;
  }

  /**
   * Listens. "change": other definitions came into force; "rejected": a change was refused and the old ones go on;
   * "problem": something that a person should look at.
   *
   * @returns a function that ends the listening
   * @example flags.on("change", (change) => log.info(change.summary));
   */
  on<K extends keyof FlagsEvents>(event: K, listener: (event: FlagsEvents[K]) => void): () => void {
    return this.#events.on(event, listener);
  }

  /** Ends the watching. Verdicts go on with the definitions as they are. */
  async close(): Promise<void> {
    if (this.#closed) return;
    this.#closed = true;
    await this.#watcher?.close();
    this.#events.clear();
  }

  [Symbol.asyncDispose](): Promise<void> {
    return this.close();
  }

  async #reload(): Promise<void> {
    try {
      const before = this.#loaded.content;
      const content = await readFolder(this.#folder, before);
      if (content.signature === before.signature || this.#closed) return;
      this.#accept(judgeContent(content));
    } catch (error) {
      this.#problem(`Reading “${this.#folder}” failed: ${error instanceof Error ? error.message : String(error)}`, []);
    }
  }

  #accept(loaded: Loaded): void {
    this.#loaded = loaded;
    const { definitions } = loaded;
    const usable = definitions && this.#fits(definitions);
    if (!definitions || !usable) return this.#reject(loaded);
    const before = this.#set;
    if (definitions.revision === before.revision) return;
    this.#set = new FlagSet(definitions, this.#environment);
    this.#unknown.clear();
    const changes = compareSets(before.definitions, definitions);
    const summary = `definitions ${before.revision} → ${definitions.revision}: ${summarise(changes)}`;
    this.#events.emit("change", { from: before.revision, to: definitions.revision, at: new Date(), changes, summary });
  }

  /** A change that takes this program's environment away is refused like any other broken one. */
  #fits(definitions: Definitions): boolean {
    try {
      requireEnvironment(definitions, this.#environment, this.#folder);
      return true;
    } catch (error) {
      this.#problem(error instanceof Error ? error.message : String(error), []);
      return false;
    }
  }

  #reject(loaded: Loaded): void {
    const problems = loaded.problems;
    const summary = `definitions ${this.#set.revision} stay in force: ${summariseProblems(problems)}`;
    this.#events.emit("rejected", { revision: this.#set.revision, at: new Date(), problems, summary });
  }

  #reportUnknown(flag: string): void {
    if (this.#unknown.has(flag) || this.#unknown.size > 1_000) return;
    this.#unknown.add(flag);
    const near = nearest(String(flag), this.#set.definitions.flags.keys());
    this.#problem(`There is no flag “${flag}”${near ? `; did you mean “${near}”?` : "."}`, []);
  }

  #problem(message: string, problems: readonly LocatedProblem[]): void {
    this.#events.emit("problem", { at: new Date(), message, problems });
  }
}
