import { type FlagDefinition, flagIn, settingsIn, subjectOf } from "../../model/index.ts";
import { canonicalJson } from "../../values/index.ts";
import { memberWords } from "./member-words.ts";
import { type Proofs, relationWords } from "./proofs.ts";
import { type RuleComparing, ruleListWords, ruleWords } from "./rule-words.ts";

const described = ["safe", "otherwise", "by", "salt", "lifespan", "review-by", "owner", "about"] as const;

/** What became of a flag, a short sentence each. */
export function flagWords(before: FlagDefinition, after: FlagDefinition, proofs: Proofs): string[] {
  const old = before.source;
  const now = after.source;
  const words: string[] = [];
  for (const key of described) words.push(...memberWords(key, old[key], now[key]));
  words.push(...providedWords(old.provided, now.provided, proofs));
  words.push(...variantWords(before, after));
  const comparing = { before, after, proofs, anew: isDrawnAnew(before, after) };
  words.push(...ruleListWords(old.rules ?? [], now.rules ?? [], comparing));
  words.push(...environmentWords(comparing));
  if (canonicalJson(old.schema) !== canonicalJson(now.schema)) words.push("its schema");
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

/** A flag as it was and as it is. */
interface Comparing extends RuleComparing {
  readonly before: FlagDefinition;
  readonly after: FlagDefinition;
}

function isDrawnAnew(before: FlagDefinition, after: FlagDefinition): boolean {
  const drawn = (flag: FlagDefinition) => canonicalJson([flag.source.salt ?? flag.name, subjectOf(flag)]);
  return drawn(before) !== drawn(after);
}

function environmentWords(comparing: Comparing): string[] {
  const { before, after } = comparing;
  const names = [
    ...new Set([...Object.keys(before.source.environments ?? {}), ...Object.keys(after.source.environments ?? {})]),
  ].sort();
  return names.flatMap((name) => settingWords(comparing, name).map((words) => `in ${name}: ${words}`));
}

function settingWords(comparing: Comparing, name: string): string[] {
  const { before, after, proofs } = comparing;
  const old = settingsIn(before, name);
  const now = settingsIn(after, name);
  if (canonicalJson(old) === canonicalJson(now)) return [];
  if (!now) return ["no settings of its own any more"];
  const words = [
    ...providedWords(old?.provided, now.provided, proofs),
    ...memberWords("otherwise", old?.otherwise, now.otherwise),
    ...ownRuleWords(comparing, name),
    ...adjustWords(comparing, name),
  ];
  return words.length > 0 ? words : ["settings of its own"];
}

/** Rules of its own replace the flag's, so that is what they are compared with where there were none. */
function ownRuleWords(comparing: Comparing, name: string): string[] {
  const { before, after } = comparing;
  const [old, now] = [settingsIn(before, name)?.rules, settingsIn(after, name)?.rules];
  if (!now) return old ? ["the flag's own rules again"] : [];
  return ruleListWords(old ?? before.source.rules ?? [], now, comparing);
}

/** What an environment adjusts: each rule as it stood there, beside how it stands there now. */
function adjustWords(comparing: Comparing, environment: string): string[] {
  const { before, after } = comparing;
  const [old, now] = [settingsIn(before, environment)?.adjust ?? {}, settingsIn(after, environment)?.adjust ?? {}];
  const names = [...new Set([...Object.keys(old), ...Object.keys(now)])];
  return names
    .filter((name) => canonicalJson(old[name]) !== canonicalJson(now[name]))
    .flatMap((name) => {
      const was = flagIn(before, environment).rules.find((rule) => rule.name === name);
      const is = flagIn(after, environment).rules.find((rule) => rule.name === name);
      const words = was && is ? ruleWords(was.source, is.source, comparing) : [];
      return `“${name}” ${words.length > 0 ? words.join(", ") : "adjusted to what it is"}`;
    });
}
