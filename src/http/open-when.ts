import type { NameOf, YesNoNameOf } from "../catalogue/index.ts";
import type { PinnedFlags } from "../flags/index.ts";
import { sameData } from "../values/index.ts";

/** What must hold for a request: the name of a yes-no flag, or several of them joined. */
export type OpenWhen<C = undefined> = YesNoNameOf<C> | JoinedOpenWhen<C>;

/** Made by `allOf`, `anyOf`, `not` and `is`. */
export interface JoinedOpenWhen<C = undefined> {
  /** True, false, or undefined where it cannot be judged: where nobody defines a flag, or it gives its fallback. */
  readonly answer: (pinned: PinnedFlags<C>) => boolean | undefined;
  /** The flags that must be yes-no for it. */
  readonly asks: readonly YesNoNameOf<C>[];
}

/** @example booking.closedUnless(allOf("zone-fares", not("storm-mode"))) */
export function allOf<C = undefined>(...parts: readonly OpenWhen<C>[]): JoinedOpenWhen<C> {
  return { answer: (pinned) => joined(parts, pinned, false), asks: parts.flatMap(asksOf) };
}

/** @example booking.closedUnless(anyOf("berth-view", "duty-desk")) */
export function anyOf<C = undefined>(...parts: readonly OpenWhen<C>[]): JoinedOpenWhen<C> {
  return { answer: (pinned) => joined(parts, pinned, true), asks: parts.flatMap(asksOf) };
}

/** The opposite; what cannot be judged cannot be judged this way either. */
export function not<C = undefined>(part: OpenWhen<C>): JoinedOpenWhen<C> {
  return {
    answer: (pinned) => {
      const answer = answerOf(part, pinned);
      return answer === undefined ? undefined : !answer;
    },
    asks: asksOf(part),
  };
}

/** The flag gives this value, or the variant of this name. @example is("seat-map", "tour") */
export function is<C = undefined>(flag: NameOf<C>, wanted: unknown): JoinedOpenWhen<C> {
  return {
    answer: (pinned) => {
      const { value, variant, cause } = pinned.verdict(flag);
      if (cause === "fallback") return undefined;
      return (variant !== undefined && variant === wanted) || sameData(value, wanted);
    },
    asks: [],
  };
}

/** The flags that must be yes-no, so that it can be judged. */
export function asksOf<C>(when: OpenWhen<C>): readonly YesNoNameOf<C>[] {
  return typeof when === "string" ? [when] : when.asks;
}

/** Does it hold? What cannot be judged does not. */
export function holds<C>(when: OpenWhen<C>, pinned: PinnedFlags<C>): boolean {
  return answerOf(when, pinned) === true;
}

/** What cannot be judged in one part cannot be judged as a whole: it is closed, however it is joined. */
function joined<C>(parts: readonly OpenWhen<C>[], pinned: PinnedFlags<C>, deciding: boolean): boolean | undefined {
  const answers = parts.map((part) => answerOf(part, pinned));
  if (answers.includes(undefined)) return undefined;
  return answers.includes(deciding) ? deciding : !deciding;
}

function answerOf<C>(when: OpenWhen<C>, pinned: PinnedFlags<C>): boolean | undefined {
  if (typeof when !== "string") return when.answer(pinned);
  const { value, cause } = pinned.verdict(when as NameOf<C>);
  return typeof value === "boolean" && cause !== "fallback" ? value : undefined;
}
