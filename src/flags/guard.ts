import type { Catalogue, CatalogueEntry } from "../catalogue/index.ts";
import { FlagSet, Outcome } from "../judge/index.ts";
import type { Definitions, FlagDefinition } from "../model/index.ts";
import { givenBy } from "../model/index.ts";
import { didYouMean, sentenceList, show } from "../values/index.ts";
import { FlagsError } from "./errors.ts";

/** Where a set does not keep what the catalogue promises. */
export interface Mismatch {
  readonly flag: string;
  readonly problem: "unknown-flag" | "wrong-type";
  readonly message: string;
}

/**
 * Stands between a set and a program that has a catalogue: flags that do not fit give the program's own fallback, and
 * data values are handed out as their schema made them.
 */
export class Guard {
  readonly mismatches: readonly Mismatch[];
  /** Undefined while every flag fits, which each question then sees at a glance. */
  readonly #fallbacks: ReadonlyMap<string, Outcome> | undefined;
  readonly #converted = new Map<unknown, unknown>();

  constructor(catalogue: Catalogue | undefined, definitions: Definitions) {
    const mismatches: Mismatch[] = [];
    const fallbacks = new Map<string, Outcome>();
    for (const [name, entry] of Object.entries(catalogue?.entries ?? {})) {
      const mismatch = this.#check(name, entry, definitions);
      if (!mismatch) continue;
      mismatches.push(mismatch);
      const { problem } = mismatch;
      fallbacks.set(name, new Outcome({ flag: name, value: entry.fallback, cause: "fallback", problem }));
    }
    this.mismatches = mismatches;
    this.#fallbacks = fallbacks.size === 0 ? undefined : fallbacks;
  }

  /** The fallback of a flag that does not fit. */
  fallback(name: string): Outcome | undefined {
    return this.#fallbacks?.get(name);
  }

  /** A data value as its schema made it; any other value as it is. */
  converted(value: unknown): unknown {
    return this.#converted.size === 0 || typeof value !== "object" ? value : (this.#converted.get(value) ?? value);
  }

  /** The set, compiled so that it gives values as the program's schemas make them. */
  compiled(definitions: Definitions, environment: string | undefined): FlagSet {
    return new FlagSet(definitions, environment, (value) => this.converted(value));
  }

  #check(name: string, entry: CatalogueEntry<unknown>, definitions: Definitions): Mismatch | undefined {
    const flag = definitions.flags.get(name);
    if (!flag) {
      const help = didYouMean(name, definitions.flags.keys());
      const message = `The catalogue names “${name}”, but no file defines it${help ? `; ${help}` : "."}`;
      return { flag: name, problem: "unknown-flag", message };
    }
    const place = `${flag.place.file} (flags.${name})`;
    if (flag.type !== entry.kind) {
      const message = `The catalogue says that “${name}” is ${entry.kind}, but it is ${flag.type} in ${place}.`;
      return { flag: name, problem: "wrong-type", message };
    }
    for (const value of valuesOf(flag)) {
      const fault = this.#faultOf(value, entry);
      if (fault === undefined) continue;
      const message = `“${name}” can give ${show(value)} in ${place}, which the catalogue does not take: ${fault}.`;
      return { flag: name, problem: "wrong-type", message };
    }
    return undefined;
  }

  /** Why a value does not fit its entry; a data value that fits is converted and kept. */
  #faultOf(value: unknown, entry: CatalogueEntry<unknown>): string | undefined {
    if (entry.texts && !entry.texts.includes(value as string)) return `it lists ${sentenceList(entry.texts)}`;
    if (!entry.schema) return undefined;
    const result = validate(entry.schema, value);
    if (typeof result === "string") return result;
    this.#converted.set(value, result.value);
    return undefined;
  }

  /** Checks a value that an override brings, by the same rules. */
  faultOfOverride(value: unknown, name: string, catalogue: Catalogue | undefined): string | undefined {
    const entry = catalogue && Object.hasOwn(catalogue.entries, name) ? catalogue.entries[name] : undefined;
    return entry && this.#faultOf(value, entry);
  }
}

function validate(schema: NonNullable<CatalogueEntry<unknown>["schema"]>, value: unknown): { value: unknown } | string {
  try {
    const result = schema["~standard"].validate(value);
    if (result instanceof Promise) return "its schema answers later, and must answer at once";
    if (!result.issues) return { value: result.value };
    return result.issues
      .map(({ message, path }) => `${path?.length ? `${path.map(keyOf).join(".")}: ` : ""}${message}`)
      .join("; ");
  } catch (error) {
    return `its schema failed (${error instanceof Error ? error.message : String(error)})`;
  }
}

function keyOf(step: PropertyKey | { readonly key: PropertyKey }): string {
  return String(typeof step === "object" ? step.key : step);
}

/** The ways in which a flag can come out. */
export interface PossibleOutcomes {
  /** By name; undefined for a flag without variants. */
  readonly variants: readonly string[] | undefined;
  readonly values: readonly unknown[];
}

export function outcomesOf(definition: FlagDefinition): PossibleOutcomes {
  const values = definition.type === "yes-no" && !definition.variants ? [false, true] : [...valuesOf(definition)];
  return { variants: definition.variants && [...definition.variants.keys()], values };
}

/** Every value that a flag can give. */
export function valuesOf(flag: FlagDefinition): Set<unknown> {
  return new Set(flag.variants ? flag.variants.values() : givenBy(flag));
}

/**
 * Holds a catalogue against a set: a flag that does not fit gives its fallback.
 *
 * @param report is told what does not fit; without it, that throws
 * @throws {FlagsError}
 */
export function guardFor(
  catalogue: Catalogue | undefined,
  definitions: Definitions,
  report: ((message: string) => void) | undefined,
): Guard {
  const guard = new Guard(catalogue, definitions);
  const messages = guard.mismatches.map(({ message }) => message);
  if (!report && messages.length > 0)
    throw new FlagsError(`The definitions do not fit the catalogue:\n${messages.map((m) => `  ${m}`).join("\n")}`);
  for (const message of messages) report?.(message);
  return guard;
}
