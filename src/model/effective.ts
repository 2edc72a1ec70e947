import { at, type Place } from "../problems/problem.ts";
import type { FlagEnvironmentSource, RuleSource } from "../source/format.ts";
import type { FlagDefinition } from "./types.ts";

/** What holds for a flag in one environment: `provided` added, `rules` and `otherwise` replaced whole. */
export interface EffectiveFlag {
  readonly provided: readonly string[];
  readonly rules: readonly RuleSource[];
  /** The value when no rule matches. */
  readonly otherwise: unknown;
}

export function effectiveFlag({ source }: FlagDefinition, environment: string | undefined): EffectiveFlag {
  const here = branchOf(source.environments, environment);
  return {
    provided: allOf(source.provided, here?.provided),
    rules: here?.rules ?? source.rules ?? [],
    otherwise: here?.otherwise ?? source.otherwise ?? source.safe,
  };
}

const none: readonly string[] = [];

function allOf(own: string | undefined, added: string | undefined): readonly string[] {
  if (own === undefined) return added === undefined ? none : [added];
  return added === undefined ? [own] : [own, added];
}

function branchOf(
  environments: Readonly<Record<string, FlagEnvironmentSource>> | undefined,
  environment: string | undefined,
): FlagEnvironmentSource | undefined {
  if (environments === undefined || environment === undefined) return undefined;
  return Object.hasOwn(environments, environment) ? environments[environment] : undefined;
}

/** The conditions that are asked in one environment. */
export function conditionsIn({ provided, rules }: EffectiveFlag): readonly string[] {
  return [...provided, ...rules.flatMap((rule) => rule.when ?? [])];
}

/** Where in a flag something stands; a place is made of it only when something must be pointed at. */
export interface Spot {
  readonly environment: string | undefined;
  /** The index of the rule, or −1 for `provided`. */
  readonly rule: number;
}

export function placeOf(flag: FlagDefinition, { environment, rule }: Spot, ...steps: (string | number)[]): Place {
  const branch = environment === undefined ? flag.place : at(flag.place, "environments", environment);
  return rule < 0 ? at(branch, ...steps) : at(branch, "rules", rule, ...steps);
}

type Visit<T> = (found: T, environment: string | undefined, rule: number) => void;

/** Visits every rule of a flag, all environments taken together. */
export function visitRules({ source }: FlagDefinition, visit: Visit<RuleSource>): void {
  visitList(source.rules, undefined, visit);
  if (source.environments === undefined) return;
  for (const [environment, { rules }] of Object.entries(source.environments)) visitList(rules, environment, visit);
}

function visitList(
  rules: readonly RuleSource[] | undefined,
  environment: string | undefined,
  visit: Visit<RuleSource>,
): void {
  if (!Array.isArray(rules)) return;
  for (let i = 0; i < rules.length; i++) visit(rules[i]!, environment, i);
}

/** Visits every condition of a flag, all environments taken together. */
export function visitConditions(flag: FlagDefinition, visit: Visit<string>): void {
  const { source } = flag;
  if (source.provided !== undefined) visit(source.provided, undefined, -1);
  if (source.environments !== undefined) {
    for (const [environment, { provided }] of Object.entries(source.environments)) {
      if (provided !== undefined) visit(provided, environment, -1);
    }
  }
  visitRules(flag, (rule, environment, i) => {
    if (rule.when !== undefined) visit(rule.when, environment, i);
  });
}
