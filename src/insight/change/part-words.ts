import { endWords, showInstant } from "../../calendar/index.ts";
import { printPath } from "../../language/index.ts";
import type {
  AttributeDefinition,
  CohortDefinition,
  EnvironmentDefinition,
  LotCohort,
  WindowDefinition,
} from "../../model/index.ts";
import { canonicalJson, showRange } from "../../values/index.ts";
import { memberWords } from "./member-words.ts";
import { type Proofs, relationWords } from "./proofs.ts";

/** What became of a cohort. */
export function cohortWords(before: CohortDefinition, after: CohortDefinition, proofs: Proofs): string[] {
  const words = memberWords("about", before.about, after.about);
  if (before.kind === "condition" && after.kind === "condition") {
    const relation = relationWords(proofs.relation(before.when, after.when));
    words.push(...memberWords("when", before.when, after.when).map((each) => `${each}${relation}`));
  } else if (before.kind === "list" && after.kind === "list") {
    words.push(...memberWords("of", printPath(before.of), printPath(after.of)));
    words.push(...memberWords("hashed", before.hashed, after.hashed));
    if (before.digest !== after.digest) words.push(listWords(before.ids.size, after.ids.size, lostMost(before, after)));
  } else if (before.kind === "lot" && after.kind === "lot") {
    words.push(...lotWords(before, after));
  } else {
    words.push(`${kindWords[after.kind]} instead of ${kindWords[before.kind]}`);
  }
  return words.length > 0 ? words : ["its definition"];
}

const kindWords: Readonly<Record<CohortDefinition["kind"], string>> = {
  condition: "a condition",
  list: "a list of ids",
  lot: "a lot",
};

function lotWords(before: LotCohort, after: LotCohort): string[] {
  const anew = before.salt !== after.salt || printPath(before.by) !== printPath(after.by);
  return [
    ...memberWords("share", showRange(before.range), showRange(after.range)),
    ...memberWords("by", printPath(before.by), printPath(after.by)),
    ...memberWords("salt", before.salt, after.salt),
    ...(anew ? ["the lot is drawn anew, so other people are inside"] : []),
  ];
}

/** A list that lost more than half of its ids has probably been cut off; whoever reads of the change must see it first. */
export function lostMost(before: CohortDefinition, after: CohortDefinition): boolean {
  return before.kind === "list" && after.kind === "list" && after.ids.size < before.ids.size / 2;
}

/** Do two cohorts mean the same, whatever they are called? */
export function isSameCohort(one: CohortDefinition, other: CohortDefinition): boolean {
  if (one.kind === "condition") return other.kind === "condition" && one.when === other.when;
  if (one.kind === "list")
    return (
      other.kind === "list" && one.digest === other.digest && one.hashed === other.hashed && samePath(one.of, other.of)
    );
  return other.kind === "lot" && showRange(one.range) === showRange(other.range) && samePath(one.by, other.by);
}

function samePath(one: readonly string[], other: readonly string[]): boolean {
  return printPath(one) === printPath(other);
}

export function renamedCohortWords(old: CohortDefinition, now: CohortDefinition): string[] {
  const words = [`renamed from ${old.name}`];
  if (old.kind !== "lot" || now.kind !== "lot" || old.salt === now.salt) return words;
  return [
    ...words,
    `its lot is now drawn under “${now.salt}”, so other people are inside: write “salt: ${old.salt}” to keep them`,
  ];
}

/** What became of the declaration of an attribute. */
export function attributeWords(before: AttributeDefinition, after: AttributeDefinition): string[] {
  const words = [
    ...memberWords("about", before.about, after.about),
    ...memberWords("type", before.type, after.type),
    ...memberWords("missing-as", before.missingAs, after.missingAs),
  ];
  if (before.ignoreCase !== after.ignoreCase)
    words.push(after.ignoreCase ? "upper and lower case are alike now" : "upper and lower case are told apart now");
  if (before.private !== after.private) words.push(after.private ? "private now" : "private no longer");
  return words;
}

/** What became of an environment; what lets more in is said in so many words. */
export function environmentWords(before: EnvironmentDefinition, after: EnvironmentDefinition): string[] {
  const [old, now] = [before.source, after.source];
  const words = memberWords("about", old.about, now.about);
  if ((old["local-overrides"] ?? false) !== (now["local-overrides"] ?? false))
    words.push(
      now["local-overrides"]
        ? "lets overrides.local.yaml count: whoever can write that file can turn any flag here"
        : "lets overrides.local.yaml count no longer",
    );
  if ((old.protected ?? false) !== (now.protected ?? false))
    words.push(now.protected ? "protected: no overrides.local.yaml may count here" : "protected no longer");
  words.push(...memberWords("passes", old.passes, now.passes));
  return words.length > 0 ? words : ["its definition"];
}

function listWords(before: number, after: number, isLoss: boolean): string {
  if (isLoss) return `more than half of its ids gone, ${before} → ${after}: was the file cut off?`;
  return before === after ? `other ids, ${after} as before` : `${before} → ${after} ids`;
}

/** What became of a window. */
export function windowWords(before: WindowDefinition, after: WindowDefinition): string[] {
  const words = memberWords("about", before.about, after.about);
  const old = before.window.parts;
  const now = after.window.parts;
  words.push(...memberWords("zone", old.zone, now.zone));
  if (old.from !== now.from) words.push(`from ${shown(old.from, old.zone)} → ${shown(now.from, now.zone)}`);
  if (old.until !== now.until) words.push(`${ended(old.until, old.zone)} → ${ended(now.until, now.zone)}`);
  words.push(...memberWords("hours", before.hours, after.hours));
  if (canonicalJson([...old.except].sort()) !== canonicalJson([...now.except].sort())) {
    words.push(...dateWords(old.except, now.except));
  }
  return words.length > 0 ? words : ["its definition"];
}

function ended(epoch: number | undefined, zone: string | undefined): string {
  return epoch === undefined ? "without an end" : endWords(epoch, zone, showInstant);
}

function shown(epoch: number | undefined, zone: string | undefined): string {
  return epoch === undefined ? "no bound" : showInstant(epoch, zone);
}

function dateWords(before: readonly string[], after: readonly string[]): string[] {
  const added = after.filter((date) => !before.includes(date));
  const gone = before.filter((date) => !after.includes(date));
  return [
    ...(added.length > 0 ? [`also not on ${added.join(", ")}`] : []),
    ...(gone.length > 0 ? [`on ${gone.join(", ")} again`] : []),
  ];
}
