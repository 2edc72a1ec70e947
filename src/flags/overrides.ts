import type { OverrideLayer } from "../judge/index.ts";
import { Outcome } from "../judge/index.ts";
import type { Definitions, FlagDefinition } from "../model/index.ts";
import { pointer } from "../problems/index.ts";
import {
  copyData,
  deepFreeze,
  didYouMean,
  findNotPlain,
  isObject,
  limits,
  type PlainFault,
  sameData,
  sentenceList,
  show,
  valueTypeOf,
} from "../values/index.ts";
import { FlagsError } from "./errors.ts";
import { Written } from "./override-variable.ts";

/** What an override says of one flag: a variant by its name, or a value. */
export type OverrideValue = { readonly variant: string } | { readonly value: unknown };

/** Overrides of one layer, by flag, before they are held against a set. */
export type OverrideMap = ReadonlyMap<string, OverrideValue>;

/** Marks the name of a variant, for overrides in code. */
export class Variant {
  readonly name: string;

  constructor(name: string) {
    this.name = name;
  }
}

/** @example flags.override({ "seat-map": variant("deck") }) */
export function variant(name: string): Variant {
  return new Variant(name);
}

export interface Resolved {
  readonly outcomes: ReadonlyMap<string, Outcome>;
  /** Overrides that were refused, each in a sentence. */
  readonly refused: readonly string[];
}

const nothing: Resolved = { outcomes: new Map(), refused: [] };

/** A closer look at values that only the program can judge; a text says why one is refused. */
export type CheckValue = (flag: string, value: unknown) => string | undefined;

/** Holds overrides against a set: what does not fit is refused, the others hold. */
export function resolveOverrides(
  overrides: OverrideMap,
  layer: OverrideLayer,
  definitions: Definitions,
  check: CheckValue = () => undefined,
): Resolved {
  if (overrides.size === 0) return nothing;
  const outcomes = new Map<string, Outcome>();
  const refused: string[] = [];
  for (const [name, given] of overrides) {
    const flag = definitions.flags.get(name);
    const outcome = flag ? resolveOne(flag, given, layer) : unknownFlag(name, definitions);
    const fault = typeof outcome === "string" ? outcome : check(name, outcome.value);
    if (typeof outcome === "string" || fault !== undefined)
      refused.push(`The override of “${name}” is refused: ${fault}.`);
    else outcomes.set(name, outcome);
  }
  return { outcomes, refused };
}

function unknownFlag(name: string, definitions: Definitions): string {
  const help = didYouMean(name, definitions.flags.keys());
  return `there is no such flag${help ? ` (${help})` : ""}`;
}

function resolveOne(flag: FlagDefinition, given: OverrideValue, layer: OverrideLayer): Outcome | string {
  if ("variant" in given) {
    if (!flag.variants) return `the flag has no variants, and “${given.variant}” names one`;
    if (!flag.variants.has(given.variant)) {
      return `“${given.variant}” is none of its variants (${sentenceList([...flag.variants.keys()])})`;
    }
    return make(flag, flag.variants.get(given.variant), given.variant, layer);
  }
  const type = valueTypeOf(given.value);
  if (type !== flag.type) return `${show(given.value)} is not of its type, ${flag.type}`;
  const name = flag.variants && [...flag.variants].find(([, value]) => sameData(value, given.value))?.[0];
  if (flag.variants && name === undefined) {
    return `${show(given.value)} is the value of none of its variants (${sentenceList([...flag.variants.keys()])})`;
  }
  const notPlain = findNotPlain(given.value);
  if (notPlain) return notData(notPlain);
  const fault = flag.schemaFault?.(given.value);
  if (fault !== undefined) return `${show(given.value)} does not keep its schema: ${fault}`;
  return make(flag, deepFreeze(given.value), name, layer);
}

function notData({ path, fault }: PlainFault): string {
  const kinds = {
    kind: "no plain data",
    number: "a number that is not finite",
    depth: `nested deeper than ${limits.depth}, or in a circle`,
  };
  const place = fault === "depth" || path.length === 0 ? "" : ` at ${pointer(path)}`;
  return `what it gives is ${kinds[fault]}${place}`;
}

function make(flag: FlagDefinition, value: unknown, variantName: string | undefined, layer: OverrideLayer): Outcome {
  return new Outcome({ flag: flag.name, value, variant: variantName, cause: "override", overriddenBy: layer });
}

/** A value of a text layer: the name of a variant where the flag has any, else the value itself. */
export function textLayerValue(name: string, value: unknown, definitions: Definitions): OverrideValue {
  const flag = definitions.flags.get(name);
  if (flag?.variants) return { variant: value instanceof Written ? value.asText : String(value) };
  if (!(value instanceof Written)) return { value };
  return { value: flag?.type === "text" ? value.asText : value.asData };
}

/** Overrides handed over in code. Data is copied: whoever made it may change it, and it is held against sets to come. */
export function fromCode(values: Readonly<Record<string, unknown>>): OverrideMap {
  if (!isObject(values)) throw new FlagsError('Overrides are an object of flags and values: { "storm-mode": true }.');
  return new Map(
    Object.entries(values).map(([name, value]) => [
      name,
      value instanceof Variant ? { variant: value.name } : { value: findNotPlain(value) ? value : copyData(value) },
    ]),
  );
}
