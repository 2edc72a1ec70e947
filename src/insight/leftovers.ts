import { isSatisfiable } from "../checks/prover/satisfiable.ts";
import { percentAt } from "../judge/rule.ts";
import type { Condition } from "../language/tree.ts";
import { type EffectiveFlag, effectiveFlag } from "../model/effective.ts";
import { risingSteps } from "../model/read-rising.ts";
import type { Definitions, FlagDefinition } from "../model/types.ts";
import type { RuleSource } from "../source/format.ts";
import { sameData } from "../values/data.ts";
import { parsePercent } from "../values/percent.ts";

/** Why a flag's time may have come. */
export type LeftoverReason = "past-review" | "decided" | "not-in-code";

export interface Leftover {
  readonly flag: string;
  readonly owner: string | undefined;
  readonly reviewBy: string | undefined;
  readonly reasons: readonly LeftoverReason[];
  /** For a decided flag: the one value, or the variant's name, that everyone gets in every environment. */
  readonly decided?: unknown;
}

export interface LeftoverOptions {
  /** Epoch milliseconds. */
  readonly at: number;
  /** The flags that the code names; undefined when nobody looked. */
  readonly namedInCode?: ReadonlySet<string> | undefined;
}

/**
 * Flags to remove: past their review date; passing ones that give everyone the same value in every environment, from
 * now on; and those that no code names.
 */
export function leftoversOf(definitions: Definitions, { at, namedInCode }: LeftoverOptions): Leftover[] {
  const leftovers: Leftover[] = [];
  for (const flag of definitions.flags.values()) {
    const { owner, lifespan, "review-by": reviewBy } = flag.source;
    const reasons: LeftoverReason[] = [];
    const decided = lifespan === "lasting" ? undefined : decidedFor(flag, definitions, at);
    if (reviewBy !== undefined && at >= Date.parse(`${reviewBy}T00:00Z`) + 86_400_000) reasons.push("past-review");
    if (decided) reasons.push("decided");
    if (namedInCode && !namedInCode.has(flag.name)) reasons.push("not-in-code");
    if (reasons.length === 0) continue;
    leftovers.push({ flag: flag.name, owner, reviewBy, reasons, ...(decided ? { decided: decided.value } : {}) });
  }
  return leftovers.sort((a, b) => (a.flag < b.flag ? -1 : 1));
}

/** The one value that is given in every environment; undefined where there is more than one. */
function decidedFor(flag: FlagDefinition, definitions: Definitions, at: number): { value: unknown } | undefined {
  const environments = definitions.environments.size > 0 ? [...definitions.environments.keys()] : [undefined];
  let only: { value: unknown } | undefined;
  for (const environment of environments) {
    for (const value of possibleValues(effectiveFlag(flag, environment), flag, environment, definitions, at)) {
      if (only && !sameData(only.value, value)) return undefined;
      only = { value };
    }
  }
  return only;
}

/** What can still come out; a rule is passed over only if it is proved that nobody matches it. */
function possibleValues(
  { provided, rules, otherwise }: EffectiveFlag,
  flag: FlagDefinition,
  environment: string | undefined,
  definitions: Definitions,
  at: number,
): unknown[] {
  const conditions = (texts: readonly string[]) =>
    texts.flatMap((text) => definitions.conditions.get(text).condition ?? []);
  const assumptions = environment === undefined ? {} : { environments: [environment] };
  const can = (parts: readonly Condition[], mode: "true" | "not-true", given: readonly Condition[] = []) =>
    isSatisfiable(
      [
        ...parts.map((condition) => ({ condition, mode })),
        ...given.map((c) => ({ condition: c, mode: "true" as const })),
      ],
      definitions,
      assumptions,
    );
  const gates = conditions(provided);
  const values: unknown[] = [];
  if (gates.some((gate) => can([gate], "not-true"))) values.push(flag.source.safe);
  if (!can(gates, "true")) return [flag.source.safe];
  for (const rule of rules) {
    const when = conditions(rule.when === undefined ? [] : [rule.when]);
    const highest = highestShare(rule, flag, at);
    if (highest === 0 || !can(when, "true", gates) || isOver(when, definitions, at)) continue;
    values.push(...(rule.split ? rule.split.map((part) => part.split(/ +/)[1]) : [rule.give]));
    if (takesEveryone(rule, flag, at) && !when.some((condition) => can([condition], "not-true", gates))) return values;
  }
  return [...values, otherwise];
}

/** The most that the share is or ever will be. */
function highestShare({ share }: RuleSource, flag: FlagDefinition, at: number): number {
  if (share === undefined) return 100;
  if (typeof share === "string") return parsePercent(share)!;
  const steps = risingSteps(share, flag.defaults);
  return Math.max(percentAt(steps, at), ...steps.filter(({ from }) => from > at).map(({ percent }) => percent));
}

/** From now on everybody is inside: those without an id are left out of account. */
function takesEveryone({ share }: RuleSource, flag: FlagDefinition, at: number): boolean {
  if (share === undefined) return true;
  if (typeof share === "string") return parsePercent(share) === 100;
  const steps = risingSteps(share, flag.defaults);
  return percentAt(steps, at) === 100 && steps.every(({ from, percent }) => from <= at || percent === 100);
}

/** A rule that asks for a window which was shut for good. */
function isOver(when: readonly Condition[], { windows }: Definitions, at: number): boolean {
  return when.some((condition) => {
    const parts = condition.kind === "and" ? condition.parts : [condition];
    return parts.some((part) => {
      const until = part.kind === "window" ? windows.get(part.name)?.window.parts.until : undefined;
      return until !== undefined && until <= at;
    });
  });
}
