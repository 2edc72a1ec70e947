import type { Catalogue } from "../catalogue/index.ts";
import type { Clock, FlagSet, Outcome, Overrides } from "../judge/index.ts";
import type { Definitions } from "../model/index.ts";
import { type Guard, guardFor } from "./guard.ts";
import type { AskingOptions, Context } from "./options.ts";
import { UnknownFlags } from "./unknown-flags.ts";

type InForceOptions = Pick<AskingOptions<unknown>, "catalogue" | "environment" | "strict">;

/** A set in force, compiled for the program's environment and held against its catalogue. */
export class InForce {
  readonly set: FlagSet;
  readonly #options: InForceOptions;
  readonly #report: (message: string) => void;
  readonly #unknown: UnknownFlags;
  readonly #guard: Guard;

  /**
   * @param report takes what does not fit; a strict program has it thrown
   * @throws {FlagsError} of a strict program, where the definitions do not fit its catalogue
   */
  constructor(definitions: Definitions, options: InForceOptions, report: (message: string) => void) {
    const told = options.strict ? undefined : report;
    this.#options = options;
    this.#report = report;
    this.#unknown = new UnknownFlags(told);
    this.#guard = guardFor(this.#catalogue, definitions, told);
    this.set = this.#guard.compiled(definitions, options.environment);
  }

  /** Other definitions in the place of these. @throws {FlagsError} as the first ones do */
  with(definitions: Definitions): InForce {
    return new InForce(definitions, this.#options, this.#report);
  }

  get #catalogue(): Catalogue | undefined {
    return this.#options.catalogue as Catalogue | undefined;
  }

  /** What the definitions say of the program's environment. */
  get environment() {
    return this.set.definitions.environments.get(this.#options.environment ?? "")?.source;
  }

  /** The names of all flags, in order. */
  get names(): readonly string[] {
    return [...this.set.definitions.flags.keys()].sort();
  }

  /** The flags that a program has to do with: those of its catalogue, or all. */
  get ownNames(): readonly string[] {
    return this.#catalogue ? Object.keys(this.#catalogue.entries) : this.names;
  }

  judge(name: string, context: Context, clock: Clock, overrides: Overrides | undefined): Outcome {
    return this.#guard.fallback(name) ?? this.set.judge(name, context, clock, overrides) ?? this.unknown(name);
  }

  /** What a flag gives that does not fit the catalogue. */
  fallback(name: string): Outcome | undefined {
    return this.#guard.fallback(name);
  }

  unknown(name: unknown): Outcome {
    return this.#unknown.outcome(name, this.set.definitions.flags.keys());
  }

  /** Why the program's catalogue does not take the value of an override; undefined if it does. */
  readonly faultOfOverride = (flag: string, value: unknown): string | undefined =>
    this.#guard.faultOfOverride(value, flag, this.#catalogue);
}
