import type { RefObject } from "preact";
import { useLayoutEffect, useRef } from "preact/hooks";
import { settingsIn } from "../../model/index.ts";
import { question } from "../asking/question-now.ts";
import { addChange, unkept } from "../definitions/draft.ts";
import { focusWord, said } from "./hand.ts";
import { changeOf, type FlagChange, type RulePlace } from "./places.tsx";

interface Roving {
  readonly ref: RefObject<HTMLDivElement>;
  onKeyDown(event: KeyboardEvent): void;
  onFocusIn(event: FocusEvent): void;
}

function wordsIn(element: Element | null | undefined): HTMLElement[] {
  return [...(element?.querySelectorAll<HTMLElement>("[data-slot]") ?? [])];
}

/**
 * Arrows go among the words of a rule and to the same word of the next; with Alt they move the rule, and the focus with it.
 * Delete takes the rule out, as a step of the draft that can be taken back.
 */
export function useRoving(place: RulePlace, count: number): Roving {
  const ref = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => {
    const words = wordsIn(ref.current);
    const stop =
      words.find((word) => word === document.activeElement) ??
      words.find(({ tabIndex, dataset }) => tabIndex === 0 && dataset["stop"]) ??
      words[0];
    for (const word of words) word.tabIndex = word === stop ? 0 : -1;
  });
  const onFocusIn = ({ target }: FocusEvent) => {
    const words = wordsIn(ref.current);
    if (!words.includes(target as HTMLElement)) return;
    for (const word of words) {
      word.tabIndex = word === target ? 0 : -1;
      delete word.dataset["stop"];
    }
    (target as HTMLElement).dataset["stop"] = "";
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const words = wordsIn(ref.current);
    const index = words.indexOf(event.target as HTMLElement);
    if (index < 0) return;
    const shown = words.filter((word) => word.offsetParent !== null);
    const here = shown.indexOf(words[index]!);
    const to = { ArrowLeft: here - 1, ArrowRight: here + 1, Home: 0, End: shown.length - 1 }[event.key];
    const up = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (to !== undefined) shown[Math.max(0, Math.min(shown.length - 1, to))]?.focus();
    else if (up !== undefined && event.altKey) void move(place, count, up, words[index]!.dataset["slot"]!);
    else if (up !== undefined) sameSlot(ref.current, words[index]!, up)?.focus();
    else if (event.key === "Delete") void changeAtOnce(place, { remove: true }, `Rule ${place.rule.number} taken out.`);
    else if (event.key === "F2") words[index]!.click();
    else return;
    event.preventDefault();
  };
  return { ref, onKeyDown, onFocusIn };
}

/** The same slot of the next rule, or its first word. */
function sameSlot(rule: HTMLElement | null, word: HTMLElement, by: number): HTMLElement | undefined {
  const rules = [...document.querySelectorAll<HTMLElement>(".rule-words")];
  const next = wordsIn(rules[rules.indexOf(rule!) + by]);
  return next.find(({ dataset }) => dataset["slot"] === word.dataset["slot"]) ?? next[0];
}

async function move(place: RulePlace, count: number, by: number, slot: string): Promise<void> {
  const to = place.rule.number + by;
  if (to < 1 || to > count) return;
  if (!(await changeAtOnce(place, { place: to }, `Rule ${place.rule.number} is now rule ${to}.`))) return;
  (document.activeElement as HTMLElement | null)?.blur();
  focusWord(`${place.at.replace(/\d+$/, "")}${to}/${slot}`);
}

/** What one key or one move of the hand does; where that is common to all environments, the foot of the page says so. */
export async function changeAtOnce(place: RulePlace, fields: Partial<FlagChange>, done: string): Promise<boolean> {
  const environment = place.own;
  const here = question.value.asked.environment;
  const isCommon = environment === undefined && here !== undefined && settingsIn(place.flag, here)?.rules === undefined;
  const fault = await addChange(changeOf(place, { ...fields, ...(environment === undefined ? {} : { environment }) }));
  unkept.value = fault?.message;
  if (!fault) said.value = `${done}${isCommon ? " It holds in every environment." : ""}`;
  return !fault;
}
