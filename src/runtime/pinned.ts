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
  readonly #given = new Map<string, Outcome>();
  /** Flags of which a page was told, and the program has not asked. */
  readonly #forPage = new Set<string>();

  private constructor(pinning: Pinning) {
    this.#pinning = pinning;
    this.#asking = new Asking(pinning.set, pinning.context, () => pinning.at, pinning.overrides);
  }

  /** @internal */
  static of<C>(pinning: Pinning): PinnedFlags<C> {
    return new PinnedFlags<C>(pinning);
  }

  /** The revision of the definitions, 32 hex digits. */
  get revision(): string {
    return this.#pinning.set.revision;
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
    return this.#given.size > 0;
  }

  /** The verdicts that have been asked for so far, in that order, each flag once. */
  asked(): readonly Verdict[] {
    return [...this.#given.values()].map((outcome) => outcome.verdict(this.revision));
  }

  #outcome(name: string, asked: AskedBy): Outcome {
    const known = this.#given.get(name);
    if (known !== undefined && !this.#forPage.has(name)) return known;
    const { fallback, unknown, tell } = this.#pinning;
    const outcome = known ?? fallback(name) ?? this.#asking.judge(name) ?? unknown(name);
    this.#given.set(name, outcome);
    if (known !== undefined && asked === "page") return known;
    if (asked === "page") this.#forPage.add(name);
    else this.#forPage.delete(name);
    tell(outcome, asked);
    return outcome;
  }
}
