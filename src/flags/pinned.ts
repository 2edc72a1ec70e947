import type { NameOf, ValueOf } from "../catalogue/index.ts";
import { type Explanation, explain } from "../insight/index.ts";
import { Asking, type FlagSet, type Outcome, type Overrides, type Verdict } from "../judge/index.ts";
import type { AskedBy } from "./verdict-events.ts";

/** Which flags are asked at once. */
export interface ValuesOptions<Name extends string> {
  /** Only these; every flag of the catalogue, or of the set where there is none, if left out. */
  readonly only?: readonly Name[] | undefined;
}

/** What pinned flags need of the flags that they came from. */
export interface Pinning {
  readonly set: FlagSet;
  readonly context: unknown;
  /** Epoch milliseconds. */
  readonly at: number;
  readonly overrides: Overrides | undefined;
  /** Whether a pass counts, which is one person's own. */
  readonly isPassed: boolean;
  /** The fallback of a flag that does not fit the catalogue. */
  fallback(name: string): Outcome | undefined;
  unknown(name: string): Outcome;
  tell(outcome: Outcome, asked: AskedBy): void;
  names(): readonly string[];
}

/**
 * Flags pinned to one context, one instant, one revision and the overrides of one moment, for one request or job. Each
 * flag is judged at most once, and told of at most once; a reload in the middle changes nothing.
 */
export class PinnedFlags<C = undefined> {
  readonly #pinning: Pinning;
  readonly #asking: Asking;
  /** What was given, in the order of asking. */
  readonly #given: Outcome[] = [];
  /** What a page was told, and the program has not asked. */
  #forPage: Set<Outcome> | undefined;
  /** What no definition decides. */
  #others: Map<string, Outcome> | undefined;

  private constructor(pinning: Pinning) {
    this.#pinning = pinning;
    this.#asking = new Asking(pinning.set, pinning.context, () => pinning.at, pinning.overrides);
  }

  /** @internal */
  static of<C>(pinning: Pinning): PinnedFlags<C> {
    return new PinnedFlags<C>(pinning);
  }

  /** True for pinned flags; it asks nothing of what may be a proxy. @internal */
  static isPinned<C>(context: unknown): context is PinnedFlags<C> {
    return typeof context === "object" && context !== null && #pinning in context;
  }

  /** The revision of the definitions, 32 hex digits. */
  get revision(): string {
    return this.#pinning.set.revision;
  }

  /**
   * Tells for whom these flags are judged, by what they can read of the context; undefined where that cannot be said, and
   * for who has a pass.
   *
   * @internal
   */
  whom(flags: readonly string[]): string | undefined {
    const { set, context, isPassed } = this.#pinning;
    return isPassed ? undefined : set.readingOf(flags)(context).cacheKey;
  }

  /** The instant by which everything is judged. */
  get at(): Date {
    return new Date(this.#pinning.at);
  }

  /** The value of a flag; see `Flags.value`. @example if (pinned.value("zone-fares")) quoteByZone(); */
  value<N extends NameOf<C>>(flag: N): ValueOf<C, N> {
    return this.#outcome(flag, "program").value as ValueOf<C, N>;
  }

  /** The value with its variant, cause, rule and revision. */
  verdict<N extends NameOf<C>>(flag: N): Verdict<ValueOf<C, N>> {
    return this.#outcome(flag, "program").verdict(this.revision) as Verdict<ValueOf<C, N>>;
  }

  /** The whole way to the verdict, as data. Undefined for an unknown flag. */
  explain(flag: NameOf<C>): Explanation | undefined {
    const { set, context, at, overrides, fallback } = this.#pinning;
    const instead = fallback(flag);
    if (instead === undefined) return explain(set, flag, context, { at, overrides });
    return {
      ...instead.verdict(this.revision),
      environment: set.environment,
      at: new Date(at).toISOString(),
      steps: [],
    };
  }

  /** The values of many flags, for handing to a page; they are told of as asked by a page. */
  values<const N extends NameOf<C> = NameOf<C>>({ only }: ValuesOptions<N> = {}): { readonly [K in N]: ValueOf<C, K> } {
    const values: Record<string, unknown> = {};
    for (const name of only ?? this.#pinning.names()) values[name] = this.#outcome(name, "page").value;
    return values as { [K in N]: ValueOf<C, K> };
  }

  /** Judges what a page says that it asked for, and tells of it. @internal */
  seen(flags: readonly string[]): void {
    for (const name of flags) this.#outcome(name, "seen");
  }

  /** Whether any flag has been asked for. @internal */
  get hasBeenAsked(): boolean {
    return this.#given.length > 0;
  }

  /** The verdicts that have been asked for so far, in that order, each flag once. */
  asked(): readonly Verdict[] {
    return this.#given.map((outcome) => outcome.verdict(this.revision));
  }

  #outcome(name: string, asked: AskedBy): Outcome {
    const { set, fallback } = this.#pinning;
    const instead = fallback(name);
    const flag = instead === undefined ? set.flag(name) : undefined;
    if (flag === undefined) return this.#undecided(name, instead, asked);
    const known = this.#asking.known(flag);
    return known === undefined ? this.#give(this.#asking.judgeAnew(flag), asked) : this.#giveAgain(known, asked);
  }

  /** What no definition decides: the catalogue's fallback, or nothing known. */
  #undecided(name: string, instead: Outcome | undefined, asked: AskedBy): Outcome {
    this.#others ??= new Map();
    const known = this.#others.get(name);
    if (known !== undefined) return this.#giveAgain(known, asked);
    const outcome = instead ?? this.#pinning.unknown(name);
    this.#others.set(name, outcome);
    return this.#give(outcome, asked);
  }

  #give(outcome: Outcome, asked: AskedBy): Outcome {
    this.#given.push(outcome);
    if (asked === "page") {
      this.#forPage ??= new Set();
      this.#forPage.add(outcome);
    }
    this.#pinning.tell(outcome, asked);
    return outcome;
  }

  /** Of what was judged already; because another flag refers to it, it may be, and then nobody was told. */
  #giveAgain(outcome: Outcome, asked: AskedBy): Outcome {
    if (!this.#given.includes(outcome)) return this.#give(outcome, asked);
    if (asked !== "page" && this.#forPage?.delete(outcome)) this.#pinning.tell(outcome, asked);
    return outcome;
  }
}
