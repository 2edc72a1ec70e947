import type { Catalogue } from "../catalogue/index.ts";
import type { Clock, FlagSet, Outcome, Overrides } from "../judge/index.ts";
import type { Definitions } from "../model/index.ts";
import { type Guard, guardFor } from "./guard.ts";
import type { AskingOptions, Context } from "./options.ts";
import { UnknownFlags } from "./unknown-flags.ts";

/** The set in force, compiled for the program's environment and held against its catalogue. */
export class InForce {
  set: FlagSet;
  readonly catalogue: Catalogue | undefined;
  readonly #environment: string | undefined;
  readonly #report: ((message: string) => void) | undefined;
  readonly #unknown: UnknownFlags;
  #guard: Guard;

  /**
   * @param report takes what does not fit; a strict program has it thrown
   * @throws {FlagsError} of a strict program, where the definitions do not fit its catalogue
   */
  constructor(
    definitions: Definitions,
    { catalogue, environment, strict }: Pick<AskingOptions<unknown>, "catalogue" | "environment" | "strict">,
    report: (message: string) => void,
  ) {
    this.catalogue = catalogue as Catalogue | undefined;
    this.#environment = environment;
    this.#report = strict ? undefined : report;
    this.#unknown = new UnknownFlags(this.#report);
    this.#guard = guardFor(this.catalogue, definitions, this.#report);
    this.set = this.#guard.compiled(definitions, environment);
  }

  use(definitions: Definitions): void {
    this.#guard = guardFor(this.catalogue, definitions, this.#report);
    this.set = this.#guard.compiled(definitions, this.#environment);
    this.#unknown.forget();
  }

  /** What the definitions say of the program's environment. */
  get environment() {
    return this.set.definitions.environments.get(this.#environment ?? "")?.source;
  }

  get names() {
    return this.set.definitions.flags.keys();
  }

  judge(name: string, context: Context, clock: Clock, overrides: Overrides | undefined): Outcome {
    return this.#guard.fallback(name) ?? this.set.judge(name, context, clock, overrides) ?? this.unknown(name);
  }

  /** What a flag gives that does not fit the catalogue, as long as this set is in force. */
  get fallback(): (name: string) => Outcome | undefined {
    const guard = this.#guard;
    return (name) => guard.fallback(name);
  }

  unknown(name: unknown): Outcome {
    return this.#unknown.outcome(name, this.names);
  }

  /** Why the program's catalogue does not take the value of an override; undefined if it does. */
  readonly faultOfOverride = (flag: string, value: unknown): string | undefined =>
    this.#guard.faultOfOverride(value, flag, this.catalogue);
}
