import type { NameOf, ValueOf } from "../catalogue/index.ts";
import { type Explanation, explain } from "../insight/index.ts";
import type { Verdict } from "../judge/index.ts";
import type { PinnedAsking } from "./pinned-asking.ts";

/** Which flags are asked at once. */
export interface ValuesOptions<Name extends string> {
  /** Only these; every flag of the catalogue, or of the set where there is none, if left out. */
  readonly only?: readonly Name[] | undefined;
}

/**
 * Flags pinned to one context, one instant, one revision and the overrides of one moment, for one request or job. Each
 * flag is judged at most once, and told of at most once; a reload in the middle changes nothing.
 */
export class PinnedFlags<C = undefined> {
  /** Everything about the person: printing these flags must not show it. */
  readonly #asking: PinnedAsking;

  private constructor(asking: PinnedAsking) {
    this.#asking = asking;
  }

  /** @internal */
  static of<C>(asking: PinnedAsking): PinnedFlags<C> {
    return new PinnedFlags<C>(asking);
  }

  /** True for pinned flags; it asks nothing of what may be a proxy. @internal */
  static isPinned<C>(context: unknown): context is PinnedFlags<C> {
    return typeof context === "object" && context !== null && #asking in context;
  }

  /** The revision of the definitions, 32 hex digits. */
  get revision(): string {
    return this.#asking.set.revision;
  }

  /**
   * Tells for whom these flags are judged, by what they can read of the context; undefined where that cannot be said, and
   * for who has a pass.
   *
   * @internal
   */
  whom(flags: readonly string[]): string | undefined {
    const { set, context, pass } = this.#asking;
    return pass ? undefined : set.readingOf(flags)(context).cacheKey;
  }

  /** The instant by which everything is judged. */
  get at(): Date {
    return new Date(this.#asking.at);
  }

  /** The value of a flag; see `Flags.value`. @example if (pinned.value("zone-fares")) quoteByZone(); */
  value<N extends NameOf<C>>(flag: N): ValueOf<C, N> {
    return this.#asking.outcome(flag, "program").value as ValueOf<C, N>;
  }

  /** The value with its variant, cause, rule and revision. */
  verdict<N extends NameOf<C>>(flag: N): Verdict<ValueOf<C, N>> {
    return this.#asking.outcome(flag, "program").verdict(this.revision) as Verdict<ValueOf<C, N>>;
  }

  /** The whole way to the verdict, as data. Undefined for an unknown flag. */
  explain(flag: NameOf<C>): Explanation | undefined {
    const { set, context, at, overrides, inForce } = this.#asking;
    const instead = inForce.fallback(flag);
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
    for (const name of only ?? this.#asking.inForce.ownNames) values[name] = this.#asking.outcome(name, "page").value;
    return values as { [K in N]: ValueOf<C, K> };
  }

  /** Judges what a page says that it asked for, and tells of it. @internal */
  seen(flags: readonly string[]): void {
    for (const name of flags) this.#asking.outcome(name, "seen");
  }

  /** Whether any flag has been asked for. @internal */
  get hasBeenAsked(): boolean {
    return this.#asking.given.length > 0;
  }

  /** The verdicts that have been asked for so far, in that order, each flag once. */
  asked(): readonly Verdict[] {
    return this.#asking.given.map((outcome) => outcome.verdict(this.revision));
  }
}
