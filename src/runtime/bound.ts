import { type Explanation, explain, type Verdict } from "../core.ts";
import { Asking } from "../judge/asking.ts";
import type { FlagSet } from "../judge/flag-set.ts";
import type { Outcome } from "../judge/outcome.ts";
import type { Overrides } from "../judge/question.ts";
import type { NameOf, ValueOf } from "./catalogue.ts";

/** What bound flags need of the flags that they came from. */
export interface Binding {
  readonly set: FlagSet;
  readonly context: unknown;
  readonly at: number;
  readonly overrides: Overrides | undefined;
  /** The fallback of a flag that does not fit the catalogue. */
  fallback(name: string): Outcome | undefined;
  unknown(name: string): Outcome;
  given(outcome: Outcome, binding: Binding): void;
  names(): readonly string[];
}

/**
 * Flags pinned to one context, one instant, one revision and the overrides of one moment, for one request or job. Each
 * flag is judged at most once; a reload in the middle changes nothing.
 */
export class BoundFlags<C = undefined> {
  readonly #binding: Binding;
  readonly #asking: Asking;
  /** Fallbacks, which are not judged; mostly there are none. */
  #fallbacks: Set<Outcome> | undefined;

  /** @internal */
  constructor(binding: Binding) {
    this.#binding = binding;
    this.#asking = new Asking(binding.set, binding.context, () => binding.at, binding.overrides);
  }

  get revision(): string {
    return this.#binding.set.revision;
  }

  /** The instant by which everything is judged. */
  get at(): Date {
    return new Date(this.#binding.at);
  }

  value<N extends NameOf<C>>(flag: N): ValueOf<C, N> {
    return this.#outcome(flag).value as ValueOf<C, N>;
  }

  verdict<N extends NameOf<C>>(flag: N): Verdict<ValueOf<C, N>> {
    return this.#outcome(flag).verdict(this.revision) as Verdict<ValueOf<C, N>>;
  }

  explain(flag: NameOf<C>): Explanation | undefined {
    const { set, context, at, overrides } = this.#binding;
    return explain(set, flag, context, { at, overrides });
  }

  /** Every flag of the catalogue, or of the set where there is none, for handing to a page. */
  values(): { readonly [N in NameOf<C>]: ValueOf<C, N> } {
    const values: Record<string, unknown> = {};
    for (const name of this.#binding.names()) values[name] = this.#outcome(name).value;
    return values as { [N in NameOf<C>]: ValueOf<C, N> };
  }

  /** The verdicts that have been asked for so far, in that order, each flag once; fallbacks come last. */
  asked(): readonly Verdict[] {
    const outcomes = [...this.#asking.judged(), ...(this.#fallbacks ?? [])];
    return outcomes.map((outcome) => outcome.verdict(this.revision));
  }

  #outcome(name: string): Outcome {
    const outcome = this.#binding.fallback(name) ?? this.#asking.judge(name) ?? this.#binding.unknown(name);
    if (outcome.cause === "fallback") {
      this.#fallbacks ??= new Set();
      this.#fallbacks.add(outcome);
    }
    this.#binding.given(outcome, this.#binding);
    return outcome;
  }
}
