import type { NameOf, ValueOf } from "../catalogue/index.ts";
import { compareSets, describeFlag, type Explanation, type PartChange } from "../insight/index.ts";
import type { Outcome, Overrides, Reading, Verdict } from "../judge/index.ts";
import { sentenceList } from "../values/index.ts";
import { CurrentOverrides, letsLocalOverrides } from "./current-overrides.ts";
import { FlagsError } from "./errors.ts";
import type { FlagsEvents } from "./events.ts";
import type { Feed, Feeding } from "./feed.ts";
import { outcomesOf, type PossibleOutcomes } from "./guard.ts";
import { type Health, HealthRecord } from "./health.ts";
import { InForce } from "./in-force.ts";
import { Listeners } from "./listeners.ts";
import type { AskingOptions, CodeOverrides, Context, OverrideBlock, PinOptions } from "./options.ts";
import type { Pass } from "./pass.ts";
import { Passes } from "./passes.ts";
import { PinnedFlags, type ValuesOptions } from "./pinned.ts";
import { PinnedAsking } from "./pinned-asking.ts";
import { Reports } from "./reports.ts";
import { safeClock } from "./safe-clock.ts";
import { Scopes } from "./scope.ts";
import { type DefinitionStore, goneBack, type Origin, type PastRevision, remembered, type State } from "./store.ts";
import { changeEvent } from "./summary.ts";
import { noSuchFlag } from "./unknown-flags.ts";
import type { VerdictEvent, VerdictOptions } from "./verdict-events.ts";

/** Asks a set of flags for one environment, whatever the set comes from. */
export class Flags<C = undefined> {
  readonly #options: AskingOptions<C>;
  readonly #store: DefinitionStore;
  readonly #listeners: Listeners;
  readonly #reports: Reports;
  readonly #passes: Passes;
  readonly #overrides: CurrentOverrides;
  readonly #clock: () => number;
  readonly #scopes = new Scopes();
  readonly #health = new HealthRecord();
  #inForce: InForce;
  #feed: Feed | undefined;
  #closing: Promise<void> | undefined;

  private constructor(store: DefinitionStore, options: AskingOptions<C>) {
    this.#options = options;
    this.#store = store;
    this.#listeners = new Listeners(options.environment, options.subjectKey);
    this.#reports = new Reports(this.#listeners);
    const { report } = this;
    this.#passes = new Passes(options, this.#listeners, report);
    this.#clock = safeClock(options.clock, report);
    this.#inForce = new InForce(store.state.inForce, options, report);
    this.#overrides = new CurrentOverrides(this.#inForce.set, this.#inForce.faultOfOverride, {
      refused: report,
      changed: () => this.#listeners.emit("overrides", { at: new Date() }),
    });
  }

  /**
   * @param feed begins to feed the flags, once they stand
   * @internal
   */
  static of<C>(store: DefinitionStore, options: AskingOptions<C>, feed?: (feeding: Feeding) => Feed): Flags<C> {
    const flags = new Flags<C>(store, options);
    flags.#feed = feed?.(flags.#feeding());
    return flags;
  }

  #feeding(): Feeding {
    return {
      store: this.#store,
      overrides: this.#overrides,
      allowsLocalOverrides: () => this.allowsLocalOverrides,
      advance: (next, changes, why) => this.#advance(next, changes, why),
      emit: (event, value) => this.#listeners.emit(event, value),
      sound: () => this.#health.sound(this.revision, (event) => this.#listeners.emit("recovered", event)),
      unsound: (problems) => this.#health.unsound(problems),
      report: this.report,
    };
  }

  /** Tells of a "problem". @internal */
  readonly report: Reports["tell"] = (...told) => this.#reports.tell(...told);

  /** Lets out what was held back while nobody could listen. @internal */
  release(): this {
    this.#reports.release();
    return this;
  }

  /** The revision of the definitions in force: 32 hex digits. */
  get revision(): string {
    return this.#inForce.set.revision;
  }

  /** The environment that the flags were opened for. */
  get environment(): string | undefined {
    return this.#options.environment;
  }

  /** Whether the environment lets a developer override flags on the spot (`local-overrides`). */
  get allowsLocalOverrides(): boolean {
    return letsLocalOverrides(this.#inForce.set);
  }

  /** Whether the environment is one in which no local override may ever count (`protected`). */
  get isProtected(): boolean {
    return this.#inForce.environment?.protected === true;
  }

  /** The names of all flags, in order. */
  get names(): readonly string[] {
    return this.#inForce.names;
  }

  /** Where the definitions in force come from: the files, a kept copy, the history, or code. */
  get origin(): Origin {
    return this.#store.state.origin;
  }

  /** The last revisions that were in force, newest first. */
  get history(): readonly PastRevision[] {
    return this.#store.entries;
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
    return this.#ask(flag, context).verdict(this.#inForce.set.revision) as Verdict<ValueOf<C, N>>;
  }

  /** The whole way to the verdict, as data; `formatExplanation` renders it. Undefined for an unknown flag. */
  explain(flag: NameOf<C>, context: Context = {}): Explanation | undefined {
    const explanation = this.pin(context).explain(flag);
    if (explanation === undefined) this.#inForce.unknown(flag);
    return explanation;
  }

  /**
   * Every flag of the catalogue, or of the set where there is none, or those named, for handing to a page.
   *
   * @example flags.values(passenger, { only: ["seat-map", "storm-mode"] }) // { "seat-map": "list", "storm-mode": false }
   */
  values<const N extends NameOf<C> = NameOf<C>>(
    context: Context = {},
    options: ValuesOptions<N> = {},
  ): { readonly [K in N]: ValueOf<C, K> } {
    return this.pin(context).values(options);
  }

  /**
   * Flags pinned to one context, this instant, this revision and these overrides: for one request or job.
   *
   * @example
   * const pinned = flags.pin(passenger);
   * if (pinned.value("zone-fares")) quote(pinned.value("hold-minutes"));
   */
  pin(context: Context, { pass, quiet = false }: PinOptions = {}): PinnedFlags<C> {
    const at = this.#clock();
    const overrides = this.#overridesWith(pass, context, at);
    const listeners = quiet ? undefined : this.#listeners;
    return PinnedFlags.of(new PinnedAsking(this.#inForce, { context, at, overrides, pass }, listeners));
  }

  /** What these flags, as they stand, can read of a context; with whom it is about, if verdicts are told. @internal */
  readingOf(flags: readonly string[]): (context: Context) => Reading {
    return this.#inForce.set.readingOf(flags, this.#listeners.hearVerdicts);
  }

  /** Whether a pass counts here and now. @internal */
  takes(pass: Pass): boolean {
    return this.#passes.takes(pass, this.#clock());
  }

  /** Does work outside of every asynchronous scope, so that no scope's overrides reach what is for others. @internal */
  apart<T>(work: () => T): T {
    return this.#scopes.outside(work);
  }

  #overridesWith(pass: Pass | undefined, context: Context, at: number): Overrides | undefined {
    const flags = pass && this.#passes.flagsFor(pass, context, at, this.#inForce.environment?.passes);
    return flags ? this.#overrides.with(this.#scopes.current?.overrides, flags) : this.#overridesNow();
  }

  /**
   * Pins a context for everything that is called inside, across awaits; there `current()` gives the pinned flags. What
   * is pinned already is taken as it is.
   *
   * The first call makes an AsyncLocalStorage, which on Node 20 makes every later `await` of the process slower; hand
   * `pin(context)` on where that matters.
   */
  run<T>(context: Context | PinnedFlags<C>, work: () => T, options: PinOptions = {}): T {
    return this.#scopes.run({ pinned: PinnedFlags.isPinned(context) ? context : this.pin(context, options) }, work);
  }

  /** The pinned flags of the `run` that this is called inside of. @throws {FlagsError} outside of any */
  current(): PinnedFlags<C> {
    const pinned = this.#scopes.current?.pinned as PinnedFlags<C> | undefined;
    if (pinned) return pinned;
    throw new FlagsError("There are no pinned flags here: call current() inside flags.run(context, …).");
  }

  /**
   * Overrides flags until undone, everywhere in the process. What does not fit is refused and reported; `strict` throws.
   *
   * @example
   * using quiet = flags.override({ "storm-mode": true, "seat-map": variant("deck") });
   */
  override(values: CodeOverrides<C>): OverrideBlock {
    const undo = this.#overrides.addBlock(this.#overrides.fromCode(values, this.#options.strict));
    return { undo, [Symbol.dispose]: undo };
  }

  /** Overrides flags inside one asynchronous scope only. What does not fit is refused and reported; `strict` throws. */
  withOverrides<T>(values: CodeOverrides<C>, work: () => T): T {
    const own = this.#overrides.fromCode(values, this.#options.strict);
    return this.#scopes.run({ overrides: [...(this.#scopes.current?.overrides ?? []), own] }, work);
  }

  /** Verifies a signed pass; undefined when there is any doubt, which a "problem" then names. */
  verifyPass(token: string): Promise<Pass | undefined> {
    return this.#passes.verify(token, this.#clock());
  }

  /**
   * Puts an earlier revision back into force, until the files change again. Suspensions stay as the files say, since an
   * emergency stop must not be undone by going back.
   *
   * @param revision one of `history`
   * @throws {FlagsError} for a revision that the history does not hold
   */
  goBackTo(revision: string): void {
    const next = goneBack(this.#store.state, revision);
    if (!next) {
      const known = this.history.map((entry) => entry.revision);
      throw new FlagsError(`The history holds no revision “${revision}”; it holds ${sentenceList(known)}.`);
    }
    this.#advance(next, compareSets(this.#inForce.set.definitions, next.inForce), "gone back");
    this.#feed?.wentBack?.();
  }

  /**
   * Listens to one of the events.
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
    return this.#listeners.on(event, listener, options);
  }

  /**
   * Who gets what and when, in a sentence that needs no knowledge of the format; undefined for an unknown flag.
   *
   * @example flags.describe("storm-mode") // "Everybody gets false."
   */
  describe(flag: NameOf<C>): string | undefined {
    return describeFlag(this.#inForce.set.definitions, flag, this.environment, this.#clock());
  }

  /**
   * The ways in which a flag can come out: its variants by name, else the values that its definition can give; both for
   * a yes-no.
   *
   * @throws {FlagsError} for an unknown flag
   */
  possible(flag: NameOf<C>): PossibleOutcomes {
    const definition = this.#inForce.set.definitions.flags.get(flag);
    if (!definition) throw new FlagsError(noSuchFlag(flag, this.#inForce.names));
    return outcomesOf(definition);
  }

  /**
   * How things stand with the definitions, for a readiness probe: verdicts go on even where they are not sound.
   * @example app.get("/ready", (_, reply) => reply.code(200).send(flags.health()));
   */
  health(): Health {
    return this.#health.read(this.revision, this.origin);
  }

  /** Whether `close` has been called. */
  get isClosed(): boolean {
    return this.#closing !== undefined;
  }

  /** Ends the watching, and every stream that the gates hold open. Verdicts go on with the definitions as they are. */
  close(): Promise<void> {
    const close = async () => {
      this.#listeners.emit("closing", { at: new Date() });
      await this.#feed?.close();
      this.#passes.close();
      this.#listeners.clear();
    };
    this.#closing ??= close();
    return this.#closing;
  }

  /** Closes, for `await using`. */
  [Symbol.asyncDispose](): Promise<void> {
    return this.close();
  }

  #advance(next: State, changes: readonly PartChange[], why?: string): void {
    const before = this.#inForce.set.definitions;
    const { inForce } = next;
    if (inForce !== before) {
      this.#inForce = this.#inForce.with(inForce);
      this.#overrides.useSet(this.#inForce.set, this.#inForce.faultOfOverride);
    }
    if (inForce.revision === before.revision) return this.#store.put(next);
    const event = changeEvent(before.revision, inForce.revision, changes, why);
    this.#store.put(remembered(next, event.summary));
    this.#listeners.emit("change", event);
  }

  #overridesNow(): Overrides | undefined {
    const scope = this.#scopes.current?.overrides;
    return scope ? this.#overrides.with(scope, undefined) : this.#overrides.current;
  }

  #ask(name: string, context: Context): Outcome {
    const overrides = this.#overridesNow();
    const outcome = this.#inForce.judge(name, context, this.#clock, overrides);
    const { set } = this.#inForce;
    if (this.#listeners.hearAnswers && this.#listeners.concerns(outcome, set, context))
      this.#listeners.tell({ outcome, set, context, overrides, asked: "program" }, this.#clock);
    return outcome;
  }
}
