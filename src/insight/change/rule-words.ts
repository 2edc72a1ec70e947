import { parseSplitPart, type RuleSource, type ShareSource } from "../../source/index.ts";
import { canonicalJson, parseRange, type Range, sentenceList, show, showRange } from "../../values/index.ts";
import { memberWords } from "./member-words.ts";
import { type Proofs, relationWords } from "./proofs.ts";

interface Placed {
  readonly rule: RuleSource;
  readonly index: number;
}

interface Pair {
  readonly old: Placed;
  readonly now: Placed;
}

/** What rules are compared with. */
export interface RuleComparing {
  readonly proofs: Proofs;
  /** Their flag draws everybody anew, so nothing can be said of who moves. */
  readonly anew: boolean;
}

/** What became of a list of rules: added, taken out, moved, and what changed in each. */
export function ruleListWords(
  before: readonly RuleSource[],
  after: readonly RuleSource[],
  comparing: RuleComparing,
): string[] {
  const pairs = pairUp(before.map(placed), after.map(placed));
  const words: string[] = [];
  const paired = new Map(pairs.map((pair) => [pair.now.index, pair]));
  const moved = movedPairs(pairs);
  for (const [index, rule] of after.entries()) {
    const pair = paired.get(index);
    if (!pair) words.push(`${called(rule, index)} added${placeWords(index, after.length)}`);
    else words.push(...pairWords(pair, moved.has(pair), comparing));
  }
  const kept = new Set(pairs.map(({ old }) => old.index));
  for (const [index, rule] of before.entries()) if (!kept.has(index)) words.push(`${called(rule, index)} taken out`);
  return words;
}

function placed(rule: RuleSource, index: number): Placed {
  return { rule, index };
}

function placeWords(index: number, length: number): string {
  if (length === 1) return "";
  return index === 0 ? " in front" : index === length - 1 ? " at the end" : ` in place ${index + 1}`;
}

/** Rules are matched by name, else by being the same, else by the order of those that are left. */
function pairUp(before: readonly Placed[], after: readonly Placed[]): Pair[] {
  const pairs: Pair[] = [];
  const oldLeft = new Set(before);
  const newLeft = new Set(after);
  const take = (match: (old: Placed, now: Placed) => boolean) => {
    for (const now of newLeft) {
      const old = [...oldLeft].find((each) => match(each, now));
      if (!old) continue;
      pairs.push({ old, now });
      oldLeft.delete(old);
      newLeft.delete(now);
    }
  };
  take((old, now) => old.rule.name !== undefined && old.rule.name === now.rule.name);
  take((old, now) => canonicalJson(old.rule) === canonicalJson(now.rule));
  take((old, now) => old.rule.name === undefined && now.rule.name === undefined);
  return pairs;
}

/** The fewest rules that must have moved: all but a longest run that kept its order. */
function movedPairs(pairs: readonly Pair[]): Set<Pair> {
  const inOrder = [...pairs].sort((a, b) => a.now.index - b.now.index);
  const best: Pair[][] = inOrder.map(() => []);
  for (const [i, pair] of inOrder.entries()) {
    let longest: Pair[] = [];
    for (let k = 0; k < i; k++) {
      if (inOrder[k]!.old.index < pair.old.index && best[k]!.length > longest.length) longest = best[k]!;
    }
    best[i] = [...longest, pair];
  }
  const stayed = new Set(best.reduce((a, b) => (b.length > a.length ? b : a), []));
  return new Set(pairs.filter((pair) => !stayed.has(pair)));
}

function called({ name }: RuleSource, index: number): string {
  return name === undefined ? `rule ${index + 1}` : `rule “${name}”`;
}

function pairWords({ old, now }: Pair, moved: boolean, comparing: RuleComparing): string[] {
  const name = called(now.rule, now.index);
  const words = ruleWords(old.rule, now.rule, comparing);
  const changed = words.length === 0 ? [] : [`${name}: ${words.join(", ")}`];
  return moved ? [`${name} moved from place ${old.index + 1} to ${now.index + 1}`, ...changed] : changed;
}

/** What became of one rule, a phrase each. */
export function ruleWords(before: RuleSource, after: RuleSource, comparing: RuleComparing): string[] {
  const { proofs } = comparing;
  const anew = comparing.anew || before.salt !== after.salt || before.by !== after.by;
  return [
    ...whenWords(before.when, after.when, proofs),
    ...shareWords(before.share, after.share, anew),
    ...giveWords(before.give, after.give),
    ...splitWords(before.split, after.split, anew),
    ...memberWords("by", before.by, after.by),
    ...memberWords("salt", before.salt, after.salt),
    ...memberWords("note", before.note, after.note),
  ];
}

function whenWords(before: string | undefined, after: string | undefined, proofs: Proofs): string[] {
  return memberWords("when", before, after).map((words) => `${words}${relationWords(proofs.relation(before, after))}`);
}

/** Where everybody is drawn anew, nothing is said of who moves. */
function shareWords(before: ShareSource | undefined, after: ShareSource | undefined, anew: boolean): string[] {
  if (canonicalJson(before) === canonicalJson(after)) return [];
  if (before === undefined) return [`share ${showShare(after!)} added, which narrows it`];
  if (after === undefined) return [`share ${showShare(before)} taken out, which widens it`];
  const from = typeof before === "string" ? parseRange(before) : null;
  const to = typeof after === "string" ? parseRange(after) : null;
  if (from === null || to === null) return [`share ${showShare(before)} → ${showShare(after)}`];
  if (from.low === 0 && to.low === 0) {
    return [`share ${to.high > from.high ? "raised" : "lowered"} from ${showRange(from)} to ${showRange(to)}`];
  }
  return [`share ${showRange(from)} → ${showRange(to)}${anew ? "" : rangeWords(from, to)}`];
}

function rangeWords(from: Range, to: Range): string {
  if (to.low <= from.low && to.high >= from.high) return ", which only adds people";
  return to.low >= from.low && to.high <= from.high
    ? ", which only takes people out"
    : ", which moves people both ways";
}

function showShare(share: ShareSource): string {
  if (typeof share !== "object") return String(share);
  return `rising ${share.rising.join(", ")}${share.zone ? ` (${share.zone})` : ""}`;
}

function giveWords(before: unknown, after: unknown): string[] {
  if (canonicalJson(before) === canonicalJson(after)) return [];
  if (after === undefined) return [`gives no longer ${show(before)}`];
  return [before === undefined ? `gives ${show(after)}` : `gives ${show(after)} instead of ${show(before)}`];
}

/** Per variant, since that is where people are moved. */
function splitWords(
  before: readonly string[] | undefined,
  after: readonly string[] | undefined,
  anew: boolean,
): string[] {
  if (canonicalJson(before) === canonicalJson(after)) return [];
  if (!before) return [`divides ${after!.join(", ")}`];
  if (!after) return ["divides no longer"];
  const [old, now] = [new Map(entrantsOf(before)), new Map(entrantsOf(after))];
  const variants = [...new Set([...old.keys(), ...now.keys()])];
  const shares = (parts: ReadonlyMap<string, number>) => {
    const total = [...parts.values()].reduce((sum, each) => sum + each, 0);
    return (variant: string) => ((parts.get(variant) ?? 0) / total) * 100;
  };
  const [was, is] = [shares(old), shares(now)];
  const moved = variants.filter((variant) => Math.abs(was(variant) - is(variant)) > 1e-9);
  if (moved.length === 0) return [`its split written in another way${anew ? "" : ", which moves nobody"}`];
  const words = moved.map((variant) => `${variant} ${showPart(was(variant))} → ${showPart(is(variant))}`);
  return [`split ${words.join(", ")}${anew ? "" : moveWords(variants, old, now, was, is)}`];
}

/** The race moves people only between variants whose parts changed by different factors. */
function moveWords(
  variants: readonly string[],
  old: ReadonlyMap<string, number>,
  now: ReadonlyMap<string, number>,
  was: (variant: string) => number,
  is: (variant: string) => number,
): string {
  const moving = variants.reduce((sum, variant) => sum + Math.max(0, is(variant) - was(variant)), 0);
  const raised = variants.filter((variant) => (now.get(variant) ?? 0) > (old.get(variant) ?? 0));
  const lowered = variants.filter((variant) => (now.get(variant) ?? 0) < (old.get(variant) ?? 0));
  const way =
    lowered.length === 0
      ? `, only to ${sentenceList(raised, "or")}`
      : raised.length === 0
        ? `, only from ${sentenceList(lowered, "or")}`
        : "";
  return `: ${showPart(moving)} of people move${way}${renameWords(variants, old, now)}`;
}

/** A variant draws its times under its name. */
function renameWords(
  variants: readonly string[],
  old: ReadonlyMap<string, number>,
  now: ReadonlyMap<string, number>,
): string {
  const gone = variants.filter((variant) => !now.has(variant));
  const come = variants.filter((variant) => !old.has(variant));
  if (gone.length !== 1 || come.length !== 1 || old.get(gone[0]!) !== now.get(come[0]!)) return "";
  return `; if ${come[0]} is ${gone[0]} under another name, it runs anew`;
}

function entrantsOf(split: readonly string[]): (readonly [string, number])[] {
  return split.flatMap((text) => {
    const part = parseSplitPart(text);
    return part ? [[part.variant, part.parts] as const] : [];
  });
}

function showPart(percent: number): string {
  return `${Number(percent.toFixed(1))}%`;
}
