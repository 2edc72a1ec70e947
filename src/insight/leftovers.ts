import { isSatisfiable } from "../checks/index.ts";
import { type Condition, printPath } from "../language/index.ts";
import { type Definitions, type FlagDefinition, flagIn, partsOf, type Rule, rangesFrom } from "../model/index.ts";
import { sameData } from "../values/index.ts";

/** Why a flag's time may have come. */
export type LeftoverReason = "past-review" | "decided" | "not-in-code";

/** A flag whose time may have come, and why. */
export interface Leftover {
  readonly flag: string;
  readonly owner: string | undefined;
  readonly reviewBy: string | undefined;
  readonly reasons: readonly LeftoverReason[];
  /** For a decided flag: the one value, or the variant's name, that everyone gets in every environment. */
  readonly decided?: unknown;
  /** For a decided flag: attributes without which somebody may still get something else, since shares go by them. */
  readonly decidedWith?: readonly string[];
}

/** What leftovers are looked for by. */
export interface LeftoverOptions {
  /** Epoch milliseconds. */
  readonly at: number;
  /** The flags that the code names; undefined when nobody looked. */
  readonly namedInCode?: ReadonlySet<string> | undefined;
  /** Only these flags; every one if left out. */
  readonly flags?: readonly string[] | undefined;
}

/**
 * Flags to remove: past their review date; passing ones that give everyone the same value in every environment, from
 * now on; and those that no code names.
 */
export function leftoversOf(definitions: Definitions, { at, namedInCode, flags }: LeftoverOptions): Leftover[] {
  const leftovers: Leftover[] = [];
  const asked = flags?.flatMap((name) => definitions.flags.get(name) ?? []) ?? definitions.flags.values();
  for (const flag of asked) {
    const { owner, lifespan, "review-by": reviewBy } = flag.source;
    const reasons: LeftoverReason[] = [];
    const decided = lifespan === "passing" ? decidedFor(flag, definitions, at) : undefined;
    if (reviewBy !== undefined && at >= Date.parse(`${reviewBy}T00:00Z`) + 86_400_000) reasons.push("past-review");
    if (decided) reasons.push("decided");
    if (namedInCode && !namedInCode.has(flag.name)) reasons.push("not-in-code");
    if (reasons.length === 0) continue;
    leftovers.push({ flag: flag.name, owner, reviewBy, reasons, ...decided });
  }
  return leftovers.sort((a, b) => (a.flag < b.flag ? -1 : 1));
}

type Decided = Pick<Leftover, "decided" | "decidedWith">;

/** The one value that is given in every environment; undefined where there is more than one. */
function decidedFor(flag: FlagDefinition, definitions: Definitions, at: number): Decided | undefined {
  const environments = definitions.environments.size > 0 ? [...definitions.environments.keys()] : [undefined];
  const values: unknown[] = [];
  const needed = new Set<string>();
  for (const environment of environments) {
    const outlook = new Outlook(flag, environment, definitions, at);
    values.push(...outlook.values());
    for (const attribute of outlook.needed) needed.add(attribute);
  }
  if (!values.every((value) => sameData(value, values[0]))) return undefined;
  return { decided: values[0], ...(needed.size > 0 ? { decidedWith: [...needed] } : {}) };
}

/** What can still come out of a flag in an environment; a rule is passed over only if it is proved that nobody matches. */
class Outlook {
  /** The attributes that people must have for `values` to be all. */
  readonly needed = new Set<string>();
  readonly #flag: FlagDefinition;
  readonly #environment: string | undefined;
  readonly #definitions: Definitions;
  readonly #at: number;

  constructor(flag: FlagDefinition, environment: string | undefined, definitions: Definitions, at: number) {
    this.#flag = flag;
    this.#environment = environment;
    this.#definitions = definitions;
    this.#at = at;
  }

  values(): unknown[] {
    const { provided, rules, otherwise } = flagIn(this.#flag, this.#environment);
    const { safe } = this.#flag.source;
    const gates = provided.flatMap((text) => this.#condition(text));
    if (!this.#can(gates, "true")) return [safe];
    const values = gates.some((gate) => this.#can([gate], "not-true")) ? [safe] : [];
    for (const rule of rules) {
      const when = rule.when === undefined ? [] : this.#condition(rule.when);
      if (!this.#canHold(rule) || !this.#can(when, "true", gates) || this.#isOver(when)) continue;
      values.push(...givenBy(rule));
      const isForAll = !when.some((condition) => this.#can([condition], "not-true", gates));
      if (isForAll && this.#takesEveryone(rule)) return values;
    }
    return [...values, otherwise];
  }

  #condition(text: string): readonly Condition[] {
    const { condition } = this.#definitions.conditions.get(text);
    return condition ? [condition] : [];
  }

  #can(parts: readonly Condition[], mode: "true" | "not-true", given: readonly Condition[] = []): boolean {
    const goals = [
      ...parts.map((condition) => ({ condition, mode })),
      ...given.map((condition) => ({ condition, mode: "true" as const })),
    ];
    const assumptions = this.#environment === undefined ? {} : { environments: [this.#environment] };
    return isSatisfiable(goals, this.#definitions, assumptions);
  }

  /** Is anybody inside the share, now or later? */
  #canHold({ division }: Rule): boolean {
    return rangesFrom(division?.share, this.#at).some(({ low, high }) => low < high);
  }

  /** From now on everybody is inside; of a share or split, everybody who has an id. */
  #takesEveryone({ division }: Rule): boolean {
    if (!rangesFrom(division?.share, this.#at).every(({ low, high }) => low === 0 && high === 100)) return false;
    if (division) this.needed.add(printPath(division.by));
    return true;
  }

  /** A rule that asks for a window which was shut for good. */
  #isOver(when: readonly Condition[]): boolean {
    return when.some((condition) => {
      const parts = condition.kind === "and" ? condition.parts : [condition];
      return parts.some((part) => {
        const window = part.kind === "window" ? this.#definitions.windows.get(part.name) : undefined;
        return window?.window.parts.until !== undefined && window.window.parts.until <= this.#at;
      });
    });
  }
}

function givenBy({ division, gives }: Rule): readonly unknown[] {
  return division?.split ? partsOf(division.split).map(({ variant }) => variant) : [gives];
}
