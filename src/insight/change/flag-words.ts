import type { FlagDefinition } from "../../model/types.ts";
import type { FlagEnvironmentSource, FlagSource } from "../../source/format.ts";
import { canonicalJson } from "../../values/data.ts";
import { memberWords } from "./member-words.ts";
import { type Proofs, relationWords } from "./proofs.ts";
import { ruleListWords } from "./rule-words.ts";

const described = ["safe", "otherwise", "by", "salt", "lifespan", "review-by", "owner", "about"] as const;

/** What became of a flag, a short sentence each. */
export function flagWords(before: FlagDefinition, after: FlagDefinition, proofs: Proofs): string[] {
  const old = before.source;
  const now = after.source;
  const words: string[] = [];
  for (const key of described) words.push(...memberWords(key, old[key], now[key]));
  words.push(...providedWords(old.provided, now.provided, proofs));
  words.push(...variantWords(before, after));
  words.push(...ruleListWords(old.rules ?? [], now.rules ?? [], proofs));
  words.push(...environmentWords(old, now, proofs));
  if (words.length > 0) return words;
  if (canonicalJson(old["for-instance"]) !== canonicalJson(now["for-instance"])) return ["its examples"];
  return ["its definition"];
}

function providedWords(before: string | undefined, after: string | undefined, proofs: Proofs): string[] {
  return memberWords("provided", before, after).map(
    (words) => `${words}${relationWords(proofs.relation(before, after))}`,
  );
}

function variantWords({ variants: before }: FlagDefinition, { variants: after }: FlagDefinition): string[] {
  if (canonicalJson(before && [...before]) === canonicalJson(after && [...after])) return [];
  const words: string[] = [];
  for (const [name, value] of after ?? []) {
    if (!before?.has(name)) words.push(`variant ${name} added`);
    else words.push(...memberWords(`variant ${name}:`, before.get(name), value));
  }
  for (const name of before?.keys() ?? []) if (!after?.has(name)) words.push(`variant ${name} taken out`);
  return words.length > 0 ? words : ["the order of its variants"];
}

function environmentWords(before: FlagSource, after: FlagSource, proofs: Proofs): string[] {
  const names = [
    ...new Set([...Object.keys(before.environments ?? {}), ...Object.keys(after.environments ?? {})]),
  ].sort();
  return names.flatMap((name) =>
    branchWords(before, before.environments?.[name], after.environments?.[name], proofs).map(
      (words) => `in ${name}: ${words}`,
    ),
  );
}

function branchWords(
  flag: FlagSource,
  old: FlagEnvironmentSource | undefined,
  now: FlagEnvironmentSource | undefined,
  proofs: Proofs,
): string[] {
  if (canonicalJson(old) === canonicalJson(now)) return [];
  if (!now) return ["no settings of its own any more"];
  const words = [
    ...providedWords(old?.provided, now.provided, proofs),
    ...memberWords("otherwise", old?.otherwise, now.otherwise),
    ...branchRuleWords(flag, old, now, proofs),
  ];
  return old ? words : ["settings of its own", ...words];
}

/** Rules of its own replace the flag's, so that is what they are compared with where there were none. */
function branchRuleWords(
  flag: FlagSource,
  old: FlagEnvironmentSource | undefined,
  now: FlagEnvironmentSource,
  proofs: Proofs,
): string[] {
  if (!now.rules) return old?.rules ? ["the flag's own rules again"] : [];
  return ruleListWords(old?.rules ?? flag.rules ?? [], now.rules, proofs);
}
