import { parseSplitPart } from "../../buckets/split.ts";
import type { RuleSource } from "../../source/format.ts";
import { canonicalJson, show } from "../../values/data.ts";
import { parsePercent, showPercent } from "../../values/percent.ts";
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

/** What became of a list of rules: added, taken out, moved, and what changed in each. */
export function ruleListWords(before: readonly RuleSource[], after: readonly RuleSource[], proofs: Proofs): string[] {
  const pairs = pairUp(before.map(placed), after.map(placed));
  const words: string[] = [];
  const paired = new Map(pairs.map((pair) => [pair.now.index, pair]));
  const moved = movedPairs(pairs);
  for (const [index, rule] of after.entries()) {
    const pair = paired.get(index);
    if (!pair) words.push(`${called(rule, index)} added${placeWords(index, after.length)}`);
    else words.push(...pairWords(pair, moved.has(pair), proofs));
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

function called(rule: RuleSource, index: number): string {
  return rule.name === undefined ? `rule ${index + 1}` : `rule “${rule.name}”`;
}

function pairWords({ old, now }: Pair, moved: boolean, proofs: Proofs): string[] {
  const name = called(now.rule, now.index);
  const words = ruleWords(old.rule, now.rule, proofs);
  const changed = words.length === 0 ? [] : [`${name}: ${words.join(", ")}`];
  return moved ? [`${name} moved from place ${old.index + 1} to ${now.index + 1}`, ...changed] : changed;
}

function ruleWords(before: RuleSource, after: RuleSource, proofs: Proofs): string[] {
  return [
    ...whenWords(before.when, after.when, proofs),
    ...shareWords(before.share, after.share),
    ...giveWords(before.give, after.give),
    ...splitWords(before.split, after.split),
    ...memberWords("by", before.by, after.by),
    ...memberWords("salt", before.salt, after.salt),
    ...memberWords("note", before.note, after.note),
  ];
}

function whenWords(before: string | undefined, after: string | undefined, proofs: Proofs): string[] {
  return memberWords("when", before, after).map((words) => `${words}${relationWords(proofs.relation(before, after))}`);
}

type ShareSource = RuleSource["share"];

function shareWords(before: ShareSource, after: ShareSource): string[] {
  if (canonicalJson(before) === canonicalJson(after)) return [];
  if (before === undefined) return [`share ${showShare(after)} added, which narrows it`];
  if (after === undefined) return [`share ${showShare(before)} taken out, which widens it`];
  const from = typeof before === "string" ? parsePercent(before) : undefined;
  const to = typeof after === "string" ? parsePercent(after) : undefined;
  if (from === undefined || to === undefined) return [`share ${showShare(before)} → ${showShare(after)}`];
  return [`share ${to > from ? "raised" : "lowered"} from ${showPercent(from)} to ${showPercent(to)}`];
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
function splitWords(before: readonly string[] | undefined, after: readonly string[] | undefined): string[] {
  if (canonicalJson(before) === canonicalJson(after)) return [];
  if (!before) return [`divides ${after!.join(", ")}`];
  if (!after) return ["divides no longer"];
  const old = partsOf(before);
  const now = partsOf(after);
  const moved = [...new Set([...old.keys(), ...now.keys()])]
    .filter((variant) => old.get(variant) !== now.get(variant))
    .map((variant) => `${variant} ${showPart(old.get(variant))} → ${showPart(now.get(variant))}`);
  return [moved.length > 0 ? `split ${moved.join(", ")}` : "the order of its split, which moves people"];
}

function partsOf(split: readonly string[]): Map<string, number> {
  const parts = split.map((text) => parseSplitPart(text)!);
  const total = parts.reduce((sum, part) => sum + part.parts, 0);
  return new Map(parts.map((part) => [part.variant, (part.parts / total) * 100]));
}

function showPart(percent: number | undefined): string {
  return percent === undefined ? "0%" : `${Number(percent.toFixed(1))}%`;
}
