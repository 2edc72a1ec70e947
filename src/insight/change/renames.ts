import { type FlagDefinition, writtenRules } from "../../model/index.ts";
import { canonicalJson } from "../../values/index.ts";
import { flagWords } from "./flag-words.ts";
import type { Proofs } from "./proofs.ts";

/** What makes a flag what it is, whatever it is called. */
const telling = ["safe", "variants", "provided", "rules", "otherwise", "environments", "about"] as const;

/** From this part of its telling members on, a new flag is taken for one that went. */
const alike = 0.75;

/** Pairs flags that went with flags that came, by new name; each at most once, the most alike first. */
export function findRenames(
  removed: readonly FlagDefinition[],
  added: readonly FlagDefinition[],
): Map<string, FlagDefinition> {
  const likely = added
    .flatMap((now) => removed.map((old) => ({ old, now, cacheKey: cacheKey(old, now) })))
    .filter(({ cacheKey }) => cacheKey >= alike)
    .sort((a, b) => b.cacheKey - a.cacheKey);
  const renames = new Map<string, FlagDefinition>();
  const taken = new Set<FlagDefinition>();
  for (const { old, now } of likely) {
    if (taken.has(old) || renames.has(now.name)) continue;
    taken.add(old);
    renames.set(now.name, old);
  }
  return renames;
}

/** The part of what either of them says that both say; flags that say next to nothing are like no other. */
function cacheKey(old: FlagDefinition, now: FlagDefinition): number {
  if (old.type !== now.type) return 0;
  const said = telling.filter((key) => old.source[key] !== undefined || now.source[key] !== undefined);
  if (said.length < 2) return 0;
  const same = said.filter((key) => canonicalJson(old.source[key]) === canonicalJson(now.source[key]));
  return same.length / said.length;
}

export function renameWords(old: FlagDefinition, now: FlagDefinition, proofs: Proofs): string[] {
  const words = [`renamed from ${old.name}`];
  const rest = canonicalJson(old.source) === canonicalJson(now.source) ? [] : flagWords(old, now, proofs);
  if (divides(now) && saltOf(old) !== saltOf(now)) {
    words.push(
      `its shares now hash under “${saltOf(now)}”, so other people are inside: write “salt: ${saltOf(old)}” to keep them`,
    );
  }
  return [...words, ...rest.filter((each) => each !== "its definition")];
}

function saltOf({ name, source }: FlagDefinition): string {
  return source.salt ?? name;
}

/** Does any rule hash under the flag's own salt? */
function divides(flag: FlagDefinition): boolean {
  return [...writtenRules(flag)].some(({ rules }) =>
    rules.some(({ division, source }) => division !== undefined && source.salt === undefined),
  );
}
