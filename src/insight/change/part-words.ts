import { showInstant } from "../../calendar/instant.ts";
import { printPath } from "../../language/print.ts";
import type { CohortDefinition, WindowDefinition } from "../../model/types.ts";
import { canonicalJson } from "../../values/data.ts";
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
    if (before.digest !== after.digest) words.push(listWords(before.ids.size, after.ids.size));
  } else {
    words.push(after.kind === "list" ? "a list of ids instead of a condition" : "a condition instead of a list of ids");
  }
  return words.length > 0 ? words : ["its definition"];
}

function listWords(before: number, after: number): string {
  return before === after ? `other ids, ${after} as before` : `${before} → ${after} ids`;
}

/** What became of a window. */
export function windowWords(before: WindowDefinition, after: WindowDefinition): string[] {
  const words = memberWords("about", before.about, after.about);
  const old = before.window.parts;
  const now = after.window.parts;
  words.push(...memberWords("zone", old.zone, now.zone));
  for (const bound of ["from", "until"] as const) {
    if (old[bound] === now[bound]) continue;
    words.push(`${bound} ${shown(old[bound], old.zone)} → ${shown(now[bound], now.zone)}`);
  }
  words.push(...memberWords("hours", before.hours, after.hours));
  if (canonicalJson([...old.except].sort()) !== canonicalJson([...now.except].sort())) {
    words.push(...dateWords(old.except, now.except));
  }
  return words.length > 0 ? words : ["its definition"];
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
