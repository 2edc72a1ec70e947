import type { BoundFlags } from "../runtime/bound.ts";
import type { NameOf } from "../runtime/catalogue.ts";
import { sameData } from "../values/data.ts";

/** What must hold for a request: the name of a yes-no flag, or several of them joined. */
export type Requirement<C = undefined> = NameOf<C> | JoinedRequirement<C>;

/** Made by `allOf`, `anyOf`, `not` and `is`. */
export interface JoinedRequirement<C = undefined> {
  /** True, false, or undefined where it cannot be judged: where nobody defines a flag, say. */
  readonly answer: (bound: BoundFlags<C>) => boolean | undefined;
}

/** @example booking.closedUnless(allOf("zone-fares", not("storm-mode"))) */
export function allOf<C = undefined>(...parts: readonly Requirement<C>[]): JoinedRequirement<C> {
  return { answer: (bound) => joined(parts, bound, false) };
}

/** @example booking.closedUnless(anyOf("berth-view", "duty-desk")) */
export function anyOf<C = undefined>(...parts: readonly Requirement<C>[]): JoinedRequirement<C> {
  return { answer: (bound) => joined(parts, bound, true) };
}

/** The opposite; what cannot be judged cannot be judged this way either. */
export function not<C = undefined>(part: Requirement<C>): JoinedRequirement<C> {
  return {
    answer: (bound) => {
      const answer = answerOf(part, bound);
      return answer === undefined ? undefined : !answer;
    },
  };
}

/** The flag gives this value, or the variant of this name. @example is("seat-map", "tour") */
export function is<C = undefined>(flag: NameOf<C>, wanted: unknown): JoinedRequirement<C> {
  return {
    answer: (bound) => {
      const { value, variant, problem } = bound.verdict(flag);
      if (problem !== undefined) return undefined;
      return (variant !== undefined && variant === wanted) || sameData(value, wanted);
    },
  };
}

/** Does it hold? What cannot be judged does not. */
export function holds<C>(requirement: Requirement<C>, bound: BoundFlags<C>): boolean {
  return answerOf(requirement, bound) === true;
}

/** One part that answers `deciding` decides; else one that cannot be judged leaves the whole so. */
function joined<C>(parts: readonly Requirement<C>[], bound: BoundFlags<C>, deciding: boolean): boolean | undefined {
  const answers = parts.map((part) => answerOf(part, bound));
  if (answers.includes(deciding)) return deciding;
  return answers.includes(undefined) ? undefined : !deciding;
}

function answerOf<C>(requirement: Requirement<C>, bound: BoundFlags<C>): boolean | undefined {
  if (typeof requirement !== "string") return requirement.answer(bound);
  const value: unknown = bound.value(requirement);
  return typeof value === "boolean" ? value : undefined;
}
