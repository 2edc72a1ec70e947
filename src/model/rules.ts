import { at, type Place } from "../problems/index.ts";
import { type AdjustmentSource, type FlagEnvironmentSource, noShare, type RuleSource } from "../source/index.ts";
import { type Division, divisionOf, isDivided } from "./division.ts";
import type { FlagDefinition } from "./types.ts";

/** A rule as it stands in one environment, resolved. How it divides is resolved when first asked for. */
export class Rule {
  /** What stands in the file, with what the environment puts in its place. */
  readonly source: RuleSource;
  /** Where it stands in its list, from 0. */
  readonly index: number;
  /** The environment whose own list holds it; undefined for the flag's. */
  readonly environment: string | undefined;
  /** The environment that adjusts it, and what it puts in. */
  readonly adjusted: Adjusted | undefined;
  private readonly flag: FlagDefinition;
  private divides: Division | undefined;

  constructor(
    flag: FlagDefinition,
    source: RuleSource,
    index: number,
    environment: string | undefined,
    adjusted: Adjusted | undefined,
  ) {
    this.source = source;
    this.index = index;
    this.environment = environment;
    this.adjusted = adjusted;
    this.flag = flag;
    this.divides = undefined;
  }

  /** Counted from 1 among those that are asked in its environment. */
  get number(): number {
    return this.index + 1;
  }

  get name(): string | undefined {
    return this.source.name;
  }

  /** Undefined for a rule for everyone. */
  get when(): string | undefined {
    return this.source.when;
  }

  /** The value, or the variant's name; undefined where the rule splits. */
  get gives(): unknown {
    return this.source.give;
  }

  /** Undefined for a rule that has neither share nor split. */
  get division(): Division | undefined {
    if (!isDivided(this.source)) return undefined;
    this.divides ??= divisionOf(this.flag, this.source);
    return this.divides;
  }
}

interface Adjusted {
  readonly environment: string;
  readonly by: AdjustmentSource;
}

/** What holds for a flag in one environment. */
export interface FlagIn {
  /** Conditions that must all hold: the flag's own, and the environment's. */
  readonly provided: readonly string[];
  readonly rules: readonly Rule[];
  /** The value when no rule matches. */
  readonly otherwise: unknown;
}

/** What holds for a flag in an environment: `provided` added, `rules` and `otherwise` replaced, or rules adjusted. */
export function flagIn(flag: FlagDefinition, environment: string | undefined): FlagIn {
  const { source } = flag;
  const here = settingsIn(flag, environment);
  return {
    provided: allOf(source.provided, here?.provided),
    rules: rulesIn(flag, environment, here),
    otherwise: here?.otherwise ?? source.otherwise ?? source.safe,
  };
}

const none: readonly string[] = [];

function allOf(own: string | undefined, added: string | undefined): readonly string[] {
  if (own === undefined) return added === undefined ? none : [added];
  return added === undefined ? [own] : [own, added];
}

/** What a flag says of one environment. */
export function settingsIn(
  { source: { environments } }: FlagDefinition,
  environment: string | undefined,
): FlagEnvironmentSource | undefined {
  if (environments === undefined || environment === undefined) return undefined;
  return Object.hasOwn(environments, environment) ? environments[environment] : undefined;
}

function rulesIn(
  flag: FlagDefinition,
  environment: string | undefined,
  here: FlagEnvironmentSource | undefined,
): readonly Rule[] {
  const holder = here?.rules === undefined ? undefined : environment;
  const sources = here?.rules ?? flag.source.rules ?? [];
  const adjust = here?.adjust;
  const rules = new Array<Rule>(sources.length);
  for (let index = 0; index < sources.length; index++) {
    const source = sources[index]!;
    const by = adjust === undefined ? undefined : adjustmentOf(source, adjust);
    const adjusted = by && { environment: environment!, by };
    rules[index] = new Rule(flag, by ? adjustedSource(source, by) : source, index, holder, adjusted);
  }
  return rules;
}

function adjustmentOf(
  { name }: RuleSource,
  adjust: Readonly<Record<string, AdjustmentSource>>,
): AdjustmentSource | undefined {
  return name !== undefined && Object.hasOwn(adjust, name) ? adjust[name] : undefined;
}

/** `give` and `split` take each other's place; `share: none` takes a share away. */
function adjustedSource(source: RuleSource, by: AdjustmentSource): RuleSource {
  const { share, give, split, ...rest } = source;
  const gives = by.give ?? (by.split === undefined ? give : undefined);
  const splits = by.split ?? (by.give === undefined ? split : undefined);
  const shares = by.share === noShare ? undefined : (by.share ?? share);
  return {
    ...rest,
    ...(shares === undefined ? {} : { share: shares }),
    ...(gives === undefined ? {} : { give: gives }),
    ...(splits === undefined ? {} : { split: splits }),
  };
}

/** The rules of a flag as they stand where they are written: its own, and those of environments that say otherwise. */
export function* writtenRules(
  flag: FlagDefinition,
): Generator<{ readonly environment: string | undefined; readonly rules: readonly Rule[] }> {
  yield { environment: undefined, rules: flagIn(flag, undefined).rules };
  for (const environment of Object.keys(flag.source.environments ?? {})) {
    const own = flagIn(flag, environment).rules.filter((rule) => rule.environment ?? rule.adjusted);
    if (own.length > 0) yield { environment, rules: own };
  }
}

/** Where a key of a rule stands. */
export function placeOfRule({ place }: FlagDefinition, rule: Rule, key?: string): Place {
  const { environment, index, adjusted, name } = rule;
  if (adjusted && key !== undefined && Object.hasOwn(adjusted.by, key)) {
    return at(place, "environments", adjusted.environment, "adjust", name!, key);
  }
  const list = environment === undefined ? at(place, "rules") : at(place, "environments", environment, "rules");
  return key === undefined ? at(list, index) : at(list, index, key);
}

/** Where `provided` stands, of a flag or of its settings in an environment. */
export function placeOfProvided({ place }: FlagDefinition, environment: string | undefined): Place {
  return environment === undefined ? at(place, "provided") : at(place, "environments", environment, "provided");
}

/** A condition of a flag, and where it is written. */
export interface WrittenCondition {
  readonly text: string;
  /** The environment whose settings hold it; undefined for the flag's own. */
  readonly environment: string | undefined;
  /** The rule's index from 0, or −1 for `provided`. */
  readonly rule: number;
}

/** Every condition of a flag, all environments taken together. */
export function conditionsOf(flag: FlagDefinition): readonly WrittenCondition[] {
  const found: WrittenCondition[] = [];
  eachCondition(flag, (text, environment, rule) => found.push({ text, environment, rule }));
  return found;
}

type Visit = (...written: [text: string, environment: string | undefined, rule: number]) => void;

/** Goes through them without a list, which a reading of ten thousand flags would feel. */
export function eachCondition({ source }: FlagDefinition, visit: Visit): void {
  visitConditions(source, undefined, visit);
  if (source.environments === undefined) return;
  for (const [name, settings] of Object.entries(source.environments)) visitConditions(settings, name, visit);
}

function visitConditions(
  { provided, rules }: FlagEnvironmentSource,
  environment: string | undefined,
  visit: Visit,
): void {
  if (provided !== undefined) visit(provided, environment, -1);
  if (rules === undefined) return;
  for (let i = 0; i < rules.length; i++) {
    const { when } = rules[i]!;
    if (when !== undefined) visit(when, environment, i);
  }
}

export function placeOfCondition({ place }: FlagDefinition, { environment, rule }: WrittenCondition): Place {
  const holder = environment === undefined ? place : at(place, "environments", environment);
  return rule < 0 ? at(holder, "provided") : at(holder, "rules", rule, "when");
}

/** Every value, or name of a variant, that a flag can give. */
export function givenBy(flag: FlagDefinition): readonly unknown[] {
  const { source } = flag;
  const given: unknown[] = [source.safe];
  if (source.otherwise !== undefined) given.push(source.otherwise);
  for (const { otherwise } of Object.values(source.environments ?? {})) {
    if (otherwise !== undefined) given.push(otherwise);
  }
  for (const { rules } of writtenRules(flag)) {
    for (const { gives, division } of rules) {
      if (gives !== undefined) given.push(gives);
      for (const { variant, parts } of division?.split?.entrants ?? []) if (parts > 0) given.push(variant);
    }
  }
  return given;
}

/** What people call a rule: its number, and its name if it has one. */
export function ruleCalled({ number, name }: { readonly number: number; readonly name?: string | undefined }): string {
  return name === undefined ? `rule ${number}` : `rule ${number} “${name}”`;
}
