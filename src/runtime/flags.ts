import { type Definitions, describeFlag, type Explanation, explain, FlagSet, type Verdict } from "../core.ts";
import { idText, readPath } from "../judge/context/subject.ts";
import { Outcome } from "../judge/outcome.ts";
import type { Overrides } from "../judge/question.ts";
import { parsePath } from "../language/parser.ts";
import { printPath } from "../language/print.ts";
import { nearest } from "../values/names.ts";
import { type Binding, BoundFlags } from "./bound.ts";
import type { Catalogue, NameOf, ValueOf } from "./catalogue.ts";
import { FlagsError } from "./errors.ts";
import { Events, type FlagsEvents } from "./events.ts";
import { Guard, valuesOf } from "./guard.ts";
import { fromCode, type Variant } from "./overrides.ts";
import { type Pass, type PassKeys, readPass } from "./pass.ts";
import { Scopes } from "./scope.ts";
import { StandingOverrides } from "./standing-overrides.ts";
import { type VerdictEvent, type VerdictOptions, verdictFilter } from "./verdict-events.ts";

/** What calling code knows at the moment of asking: a plain object of attributes. */
export type Context = object;

export interface AskingOptions<C = undefined> {
  /** The environment; required when the set declares any. */
  readonly environment?: string | undefined;
  /** The flags that this program uses; it types `value` and is held against the set. */
  readonly catalogue?: C | undefined;
  /** The time, as epoch milliseconds; `Date.now` by default. */
  readonly clock?: (() => number) | undefined;
  /** True throws for an unknown flag, for tests and development. */
  readonly strict?: boolean | undefined;
  /** The keys by which passes are verified. */
  readonly passKeys?: PassKeys | undefined;
}

export interface BindOptions {
  /** A verified pass; see `verifyPass`. */
  readonly pass?: Pass | undefined;
}

/** Values by flag, or variants by name: `{ "seat-map": variant("deck") }`. */
export type CodeOverrides<C = undefined> = { readonly [N in NameOf<C>]?: ValueOf<C, N> | Variant };

/** Overrides that are on until they are undone; also for `using`. */
export interface OverrideBlock extends Disposable {
  undo(): void;
}

/** Asks a set of flags for one environment, whatever the set comes from. */
export class Flags<C = undefined> {
  protected readonly events = new Events<FlagsEvents>();
  protected readonly overrides: StandingOverrides;
  readonly #options: AskingOptions<C>;
  readonly #clock: () => number;
  readonly #scopes = new Scopes();
  readonly #unknown = new Set<string>();
  #set: FlagSet;
  #guard: Guard;
  #verdictListeners = 0;

  /** @internal */
  constructor(definitions: Definitions, options: AskingOptions<C>) {
    this.#options = options;
    this.#clock = safeClock(options.clock, (message) => this.report(message));
    this.#guard = new Guard(this.#catalogue, definitions);
    this.#set = this.#compile(definitions, this.#guard);
    this.overrides = new StandingOverrides(this.#set, this.#checkOverride, {
      refused: (message) => this.report(message),
      changed: () => this.events.emit("overrides", { at: new Date() }),
    });
  }

  get #catalogue(): Catalogue | undefined {
    return this.#options.catalogue as Catalogue | undefined;
  }

  /** The revision of the definitions in force. */
  get revision(): string {
    return this.#set.revision;
  }

  /** The environment that the flags were opened for. */
  get environment(): string | undefined {
    return this.#options.environment;
  }

  /** Whether the environment lets a developer override flags on the spot (`local-overrides`). */
  get allowsLocalOverrides(): boolean {
    const environment = this.#set.definitions.environments.get(this.environment ?? "");
    return environment?.source["local-overrides"] === true;
  }

  /** The names of all flags, in order. */
  get names(): readonly string[] {
    return [...this.#set.definitions.flags.keys()].sort();
  }

  /**
   * The value of a flag for a context. It never throws (but for an unknown flag when `strict`), and is undefined only
   * for a flag that nobody defines and no catalogue names.
   *
   * @example const minutes = flags.value("hold-minutes", { account: { plan: "freight" } });
   */
  value<N extends NameOf<C>>(flag: N, context: Context = {}): ValueOf<C, N> {
    return this.#ask(flag, context).value as ValueOf<C, N>;
  }

  /** The value with its variant, cause, rule and revision. */
  verdict<N extends NameOf<C>>(flag: N, context: Context = {}): Verdict<ValueOf<C, N>> {
    return this.#ask(flag, context).verdict(this.#set.revision) as Verdict<ValueOf<C, N>>;
  }

  /** The whole way to the verdict, as data; `formatExplanation` renders it. Undefined for an unknown flag. */
  explain(flag: NameOf<C>, context: Context = {}): Explanation | undefined {
    const explanation = explain(this.#set, flag, context, { at: this.#clock(), overrides: this.#overridesNow() });
    if (explanation === undefined) this.#unknownOutcome(flag);
    return explanation;
  }

  /** Every flag of the catalogue, or of the set where there is none, for handing to a page. */
  values(context: Context = {}): { readonly [N in NameOf<C>]: ValueOf<C, N> } {
    return this.bind(context).values();
  }

  /**
   * Flags pinned to one context, this instant, this revision and these overrides: for one request or job.
   *
   * @example
   * const bound = flags.bind(passenger);
   * if (bound.value("zone-fares")) quote(bound.value("hold-minutes"));
   */
  bind(context: Context, { pass }: BindOptions = {}): BoundFlags<C> {
    const at = this.#clock();
    const valid = pass && pass.environment === this.environment && pass.expires > at ? pass : undefined;
    const guard = this.#guard;
    const binding: Binding = {
      set: this.#set,
      context,
      at,
      overrides: valid
        ? this.overrides.with(this.#scopes.current?.overrides, new Map(Object.entries(valid.flags)))
        : this.#overridesNow(),
      fallback: (name) => guard.fallback(name),
      unknown: (name) => this.#unknownOutcome(name),
      given: (outcome, { set, overrides }) => this.#tell(outcome, set, context, at, overrides),
      names: () => (this.#catalogue ? Object.keys(this.#catalogue.entries) : this.names),
    };
    return new BoundFlags<C>(binding);
  }

  /**
   * Binds a context for everything that is called inside, across awaits; there `current()` gives the bound flags. What
   * is bound already is taken as it is.
   *
   * The first call makes an AsyncLocalStorage, which on Node 20 makes every later `await` of the process slower; hand
   * `bind(context)` on where that matters.
   */
  run<T>(context: Context | BoundFlags<C>, work: () => T, options: BindOptions = {}): T {
    const bound = context instanceof BoundFlags ? context : this.bind(context, options);
    return this.#scopes.run({ bound }, work);
  }

  /** The bound flags of the `run` that this is called inside of. @throws {FlagsError} outside of any */
  current(): BoundFlags<C> {
    const bound = this.#scopes.current?.bound as BoundFlags<C> | undefined;
    if (!bound) throw new FlagsError("There are no bound flags here: call current() inside flags.run(context, …).");
    return bound;
  }

  /**
   * Overrides flags until undone, everywhere in the process. What does not fit is refused and reported.
   *
   * @example
   * using quiet = flags.override({ "storm-mode": true, "seat-map": variant("deck") });
   */
  override(values: CodeOverrides<C>): OverrideBlock {
    const undo = this.overrides.addBlock(fromCode(values as Record<string, unknown>));
    return { undo, [Symbol.dispose]: undo };
  }

  /** Overrides flags inside one asynchronous scope only. */
  withOverrides<T>(values: CodeOverrides<C>, work: () => T): T {
    const outer = this.#scopes.current?.overrides ?? [];
    const overrides = new Map([...outer, ...fromCode(values as Record<string, unknown>)]);
    return this.#scopes.run({ overrides }, work);
  }

  /** Verifies a signed pass; undefined when there is any doubt, which a "problem" then names. */
  async verifyPass(token: string): Promise<Pass | undefined> {
    const keys = this.#options.passKeys;
    const pass = keys
      ? await readPass(token, keys, this.environment, this.#clock())
      : "no keys were given to verify it by";
    if (typeof pass !== "string") return pass;
    this.report(`A pass was refused: ${pass}.`);
    return undefined;
  }

  /**
   * Listens. "change": other definitions came into force; "rejected": a change was refused and the old ones go on;
   * "problem": something that a person should look at; "overrides": some were put on or taken off; "verdict": each verdict that is given (a share of the subjects,
   * or each only once, if asked).
   *
   * @returns a function that ends the listening
   * @example flags.on("change", (change) => log.info(change.summary));
   */
  on(event: "verdict", listener: (event: VerdictEvent) => void, options?: VerdictOptions): () => void;
  on<K extends keyof FlagsEvents>(event: K, listener: (event: FlagsEvents[K]) => void): () => void;
  on<K extends keyof FlagsEvents>(
    event: K,
    listener: (event: FlagsEvents[K]) => void,
    options?: VerdictOptions,
  ): () => void {
    if (event !== "verdict") return this.events.on(event, listener);
    const wanted = verdictFilter(options ?? {});
    const off = this.events.on("verdict", (told) => {
      if (wanted(told)) (listener as (event: VerdictEvent) => void)(told);
    });
    this.#verdictListeners++;
    let listening = true;
    return () => {
      if (listening) this.#verdictListeners--;
      listening = false;
      off();
    };
  }

  /**
   * Who gets what and when, in a sentence that needs no knowledge of the format; undefined for an unknown flag.
   *
   * @example flags.describe("storm-mode") // "false for everyone."
   */
  describe(flag: NameOf<C>): string | undefined {
    return describeFlag(this.#set.definitions, flag, this.environment, this.#clock());
  }

  /**
   * The ways in which a flag can come out: its variants by name, else the values that its definition can give; both for
   * a yes-no.
   *
   * @throws {FlagsError} for an unknown flag
   */
  possible(flag: NameOf<C>): { readonly variants: readonly string[] | undefined; readonly values: readonly unknown[] } {
    const definition = this.#set.definitions.flags.get(flag);
    if (!definition) throw new FlagsError(this.#unknownMessage(flag));
    const values = definition.type === "yes-no" && !definition.variants ? [false, true] : [...valuesOf(definition)];
    return { variants: definition.variants && [...definition.variants.keys()], values };
  }

  /** Ends the watching. Verdicts go on with the definitions as they are. */
  async close(): Promise<void> {
    this.events.clear();
    this.#verdictListeners = 0;
  }

  [Symbol.asyncDispose](): Promise<void> {
    return this.close();
  }

  protected get definitions(): Definitions {
    return this.#set.definitions;
  }

  /** Where the set does not keep what the catalogue promises. */
  protected get mismatches(): readonly string[] {
    return this.#guard.mismatches.map(({ message }) => message);
  }

  /** Puts other definitions into force. */
  protected use(definitions: Definitions): void {
    const guard = new Guard(this.#catalogue, definitions);
    const set = this.#compile(definitions, guard);
    this.#guard = guard;
    this.#set = set;
    this.#unknown.clear();
    this.overrides.useSet(set, this.#checkOverride);
  }

  protected report(message: string, problems: FlagsEvents["problem"]["problems"] = []): void {
    this.events.emit("problem", { at: new Date(), message, problems });
  }

  #compile(definitions: Definitions, guard: Guard): FlagSet {
    return new FlagSet(definitions, this.environment, (value) => guard.converted(value));
  }

  readonly #checkOverride = (flag: string, value: unknown): string | undefined =>
    this.#guard.faultOfOverride(value, flag, this.#catalogue);

  #overridesNow(): Overrides | undefined {
    const scope = this.#scopes.current?.overrides;
    return scope ? this.overrides.with(scope, undefined) : this.overrides.current;
  }

  #ask(name: string, context: Context): Outcome {
    const overrides = this.#overridesNow();
    const outcome =
      this.#guard.fallback(name) ??
      this.#set.judge(name, context, this.#clock, overrides) ??
      this.#unknownOutcome(name);
    if (this.#verdictListeners > 0) this.#tell(outcome, this.#set, context, this.#clock(), overrides);
    return outcome;
  }

  #tell(outcome: Outcome, set: FlagSet, context: Context, at: number, overrides: Overrides | undefined): void {
    if (this.#verdictListeners === 0) return;
    this.events.emit("verdict", {
      at: new Date(at),
      environment: this.environment,
      verdict: outcome.verdict(set.revision),
      subject: subjectOf(outcome.flag, set, context),
      explain: () => explain(set, outcome.flag, context, { at, overrides }),
    });
  }

  #unknownMessage(name: string): string {
    const near = nearest(String(name), this.#set.definitions.flags.keys());
    return `There is no flag “${name}”${near ? `; did you mean “${near}”?` : "."}`;
  }

  #unknownOutcome(name: string): Outcome {
    const message = this.#unknownMessage(name);
    if (this.#options.strict) throw new FlagsError(message);
    if (!this.#unknown.has(name) && this.#unknown.size < 1_000) {
      this.#unknown.add(name);
      this.report(message);
    }
    return new Outcome({ flag: name, value: undefined, cause: "fallback", problem: "unknown-flag" });
  }
}

/** A clock that fails must not make a verdict fail: the system's stands in, and somebody is told once. */
function safeClock(clock: (() => number) | undefined, report: (message: string) => void): () => number {
  if (!clock) return Date.now;
  let told = false;
  return () => {
    try {
      const now = clock();
      if (Number.isFinite(now)) return now;
    } catch {
      // Reported below, like a clock that gives no number.
    }
    if (!told) report("The clock gave no number of milliseconds; the system's clock stands in.");
    told = true;
    return Date.now();
  };
}

function subjectOf(name: string, set: FlagSet, context: Context): string | undefined {
  const flag = set.definitions.flags.get(name);
  const { path } = parsePath(flag?.source.by ?? flag?.defaults.by ?? "");
  if (!path) return undefined;
  const isPrivate = set.definitions.attributes.get(printPath(path))?.private;
  try {
    const id = idText(readPath(context as { [key: string]: unknown }, path));
    return id !== undefined && isPrivate ? "•••" : id;
  } catch {
    return undefined;
  }
}
