import { at, type Place } from "../problems/problem.ts";
import type { FlagEnvironmentSource, RuleSource } from "./file-shape.ts";
import type { FlagDefinition } from "./types.ts";

/** A text with its place: a condition, so that explanations and problems can point at it. */
export interface Placed<T> {
  readonly value: T;
  readonly place: Place;
}

/** What holds for a flag in one environment: `provided` added, `rules` and `otherwise` replaced whole. */
export interface EffectiveFlag {
  readonly provided: readonly Placed<string>[];
  readonly rules: readonly Placed<RuleSource>[];
  readonly otherwise: Placed<unknown> | undefined;
}

export function effectiveFlag(flag: FlagDefinition, environment: string | undefined): EffectiveFlag {
  const { source, place } = flag;
  const here = branchOf(flag, environment);
  const herePlace = at(place, "environments", environment ?? "");
  const provided: Placed<string>[] = [];
  if (source.provided !== undefined) provided.push({ value: source.provided, place: at(place, "provided") });
  if (here?.provided !== undefined) provided.push({ value: here.provided, place: at(herePlace, "provided") });
  const rules = here?.rules ? rulesAt(here.rules, herePlace) : rulesAt(source.rules ?? [], place);
  const otherwise =
    here?.otherwise !== undefined
      ? { value: here.otherwise, place: at(herePlace, "otherwise") }
      : source.otherwise !== undefined
        ? { value: source.otherwise, place: at(place, "otherwise") }
        : undefined;
  return { provided, rules, otherwise };
}

function branchOf(flag: FlagDefinition, environment: string | undefined): FlagEnvironmentSource | undefined {
  const { environments } = flag.source;
  if (environments === undefined || environment === undefined) return undefined;
  return Object.hasOwn(environments, environment) ? environments[environment] : undefined;
}

function rulesAt(rules: readonly RuleSource[], place: Place): Placed<RuleSource>[] {
  return rules.map((value, i) => ({ value, place: at(place, "rules", i) }));
}

/** Everything that a flag says anywhere, all environments taken together. */
export function* allRules(flag: FlagDefinition): Generator<Placed<RuleSource>> {
  yield* rulesAt(flag.source.rules ?? [], flag.place);
  for (const [name, branch] of Object.entries(flag.source.environments ?? {})) {
    yield* rulesAt(branch.rules ?? [], at(flag.place, "environments", name));
  }
}

/** Every condition of a flag, with its place. */
export function* allConditions(flag: FlagDefinition): Generator<Placed<string>> {
  const { source, place } = flag;
  if (source.provided !== undefined) yield { value: source.provided, place: at(place, "provided") };
  for (const [name, branch] of Object.entries(source.environments ?? {})) {
    if (branch.provided !== undefined) {
      yield { value: branch.provided, place: at(place, "environments", name, "provided") };
    }
  }
  for (const rule of allRules(flag)) {
    if (rule.value.when !== undefined) yield { value: rule.value.when, place: at(rule.place, "when") };
  }
}
