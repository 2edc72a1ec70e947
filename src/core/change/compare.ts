import { canonicalJson, show } from "../data.ts";
import type { FlagSource, RuleSource } from "../definition/file-shape.ts";
import { canonicalFlag, canonicalPieces } from "../definition/revision.ts";
import type { Definitions, FlagDefinition, Suspension } from "../definition/types.ts";

/** What a change means for one flag, cohort, window or other part, in words. */
export interface PartChange {
  readonly part: "flag" | "cohort" | "window" | "attribute" | "environment" | "suspension";
  readonly name: string;
  readonly kind: "added" | "removed" | "changed";
  /** One short sentence each; at least one. */
  readonly words: readonly string[];
}

/** Compares two definition sets by meaning. Layout, comments and the division into files play no part. */
export function compareSets(before: Definitions, after: Definitions): PartChange[] {
  return [
    ...compareParts("flag", before.flags, after.flags, canonicalFlag, flagWords),
    ...compareSuspensions(before, after),
    ...compareSection("cohort", before, after),
    ...compareSection("window", before, after),
    ...compareSection("attribute", before, after),
    ...compareSection("environment", before, after),
  ];
}

function compareParts<T>(
  part: PartChange["part"],
  before: ReadonlyMap<string, T>,
  after: ReadonlyMap<string, T>,
  canonical: (member: T) => string,
  words: (before: T, after: T) => string[],
): PartChange[] {
  const changes: PartChange[] = [];
  for (const [name, now] of after) {
    const old = before.get(name);
    if (old === undefined) changes.push({ part, name, kind: "added", words: ["new"] });
    else if (old !== now && canonical(old) !== canonical(now)) {
      changes.push({ part, name, kind: "changed", words: words(old, now) });
    }
  }
  for (const name of before.keys()) {
    if (!after.has(name)) changes.push({ part, name, kind: "removed", words: ["removed"] });
  }
  return changes.sort((a, b) => (a.name < b.name ? -1 : 1));
}

function compareSection(
  part: "cohort" | "window" | "attribute" | "environment",
  before: Definitions,
  after: Definitions,
): PartChange[] {
  const section = `${part}s` as "cohorts" | "windows" | "attributes" | "environments";
  const texts = (set: Definitions) =>
    new Map([...set[section].keys()].map((name) => [name, canonicalMember(set, section, name)]));
  return compareParts(
    part,
    texts(before),
    texts(after),
    (text) => text,
    () => ["its definition"],
  );
}

function canonicalMember(
  set: Definitions,
  section: "cohorts" | "windows" | "attributes" | "environments",
  name: string,
): string {
  const alone = new Map([[name, set[section].get(name)]]);
  const empty = new Map<string, never>();
  const sections = {
    attributes: empty,
    cohorts: empty,
    environments: empty,
    flags: empty,
    suspensions: empty,
    windows: empty,
  };
  return [...canonicalPieces({ ...sections, [section]: alone })].join("");
}

function compareSuspensions(before: Definitions, after: Definitions): PartChange[] {
  const words = (s: Suspension) => `suspended${s.in ? ` in ${s.in.join(", ")}` : ""}${s.note ? `: ${s.note}` : ""}`;
  const canonical = (s: Suspension) => canonicalJson([s.in, s.since, s.who, s.note]);
  return compareParts("suspension", before.suspensions, after.suspensions, canonical, (_, now) => [words(now)]).map(
    (change) => {
      if (change.kind === "added") return { ...change, words: [words(after.suspensions.get(change.name)!)] };
      return change.kind === "removed" ? { ...change, words: ["reinstated"] } : change;
    },
  );
}

const described = ["safe", "provided", "otherwise", "by", "salt", "lifespan", "review-by", "owner", "about"] as const;

function flagWords(before: FlagDefinition, after: FlagDefinition): string[] {
  const words: string[] = [];
  for (const key of described) words.push(...memberWords(key, before.source[key], after.source[key]));
  if (canonicalJson(before.source.variants) !== canonicalJson(after.source.variants)) words.push("its variants");
  words.push(...ruleListWords(before.source.rules ?? [], after.source.rules ?? [], ""));
  words.push(...environmentWords(before.source, after.source));
  return words.length > 0 ? words : ["its definition"];
}

function memberWords(key: string, before: unknown, after: unknown): string[] {
  if (canonicalJson(before) === canonicalJson(after)) return [];
  if (before === undefined) return [`${key} ${show(after)} added`];
  if (after === undefined) return [`${key} ${show(before)} taken out`];
  return [`${key} ${show(before)} → ${show(after)}`];
}

function environmentWords(before: FlagSource, after: FlagSource): string[] {
  const names = [
    ...new Set([...Object.keys(before.environments ?? {}), ...Object.keys(after.environments ?? {})]),
  ].sort();
  return names.flatMap((name) => {
    const old = before.environments?.[name];
    const now = after.environments?.[name];
    if (canonicalJson(old) === canonicalJson(now)) return [];
    if (!old) return [`in ${name}: settings of its own`];
    if (!now) return [`in ${name}: no settings of its own any more`];
    return [
      ...memberWords("provided", old.provided, now.provided),
      ...memberWords("otherwise", old.otherwise, now.otherwise),
      ...ruleListWords(old.rules ?? [], now.rules ?? [], ""),
    ].map((words) => `in ${name}: ${words}`);
  });
}

/** Rules are matched by name where they have one, else by place. */
function ruleListWords(before: readonly RuleSource[], after: readonly RuleSource[], prefix: string): string[] {
  const key = (rule: RuleSource, i: number) => rule.name ?? `#${i}`;
  const old = new Map(before.map((rule, i) => [key(rule, i), { rule, i }]));
  const now = new Map(after.map((rule, i) => [key(rule, i), { rule, i }]));
  const words: string[] = [];
  for (const [k, { rule, i }] of now) {
    const was = old.get(k);
    if (!was) words.push(`${prefix}${called(rule, i)} added`);
    else words.push(...ruleWords(was.rule, rule, `${prefix}${called(rule, i)}`));
  }
  for (const [k, { rule, i }] of old) if (!now.has(k)) words.push(`${prefix}${called(rule, i)} taken out`);
  const kept = [...old.keys()].filter((k) => now.has(k));
  const order = [...now.keys()].filter((k) => old.has(k));
  if (kept.join("\n") !== order.join("\n")) words.push(`${prefix}the order of its rules`);
  return words;
}

function called(rule: RuleSource, i: number): string {
  return rule.name === undefined ? `rule ${i + 1}` : `rule “${rule.name}”`;
}

const ruleMembers = ["when", "share", "give", "split", "by", "salt", "note"] as const;

function ruleWords(before: RuleSource, after: RuleSource, name: string): string[] {
  const words = ruleMembers.flatMap((key) => memberWords(key, before[key], after[key]));
  return words.length === 0 ? [] : [`${name}: ${words.join(", ")}`];
}
