import { pauseEvery } from "../../model/read-flags.ts";
import { canonicalFlag, canonicalPieces } from "../../model/revision.ts";
import type { Definitions, Suspension } from "../../model/types.ts";
import { canonicalJson } from "../../values/data.ts";
import { flagWords } from "./flag-words.ts";
import { cohortWords, windowWords } from "./part-words.ts";
import { Proofs } from "./proofs.ts";
import { findRenames, renameWords } from "./renames.ts";

/** What a change means for one flag, cohort, window or other part, in words. */
export interface PartChange {
  readonly part: "flag" | "cohort" | "window" | "attribute" | "environment" | "suspension";
  readonly name: string;
  readonly kind: "added" | "removed" | "changed" | "renamed";
  /** The earlier name of a flag that was renamed. */
  readonly from?: string;
  /** One short sentence each; at least one. */
  readonly words: readonly string[];
}

/** Compares two definition sets by meaning. Layout, comments and the division into files play no part. */
export function compareSets(before: Definitions, after: Definitions): PartChange[] {
  const steps = compareInSteps(before, after);
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/** The same, pausing often, so that a service can go on answering while large sets are compared. */
export function* compareInSteps(
  before: Definitions,
  after: Definitions,
): Generator<undefined, PartChange[], undefined> {
  const proofs = new Proofs(before, after);
  const flags = yield* compareParts("flag", before.flags, after.flags, canonicalFlag, (old, now) =>
    flagWords(old, now, proofs),
  );
  return [
    ...withRenames(flags, before, after, proofs),
    ...(yield* compareSuspensions(before, after)),
    ...(yield* compareSection("cohort", before, after, (name) =>
      cohortWords(before.cohorts.get(name)!, after.cohorts.get(name)!, proofs),
    )),
    ...(yield* compareSection("window", before, after, (name) =>
      windowWords(before.windows.get(name)!, after.windows.get(name)!),
    )),
    ...(yield* compareSection("attribute", before, after, itsDefinition)),
    ...(yield* compareSection("environment", before, after, itsDefinition)),
  ];
}

type Comparing = Generator<undefined, PartChange[], undefined>;

function itsDefinition(): string[] {
  return ["its definition"];
}

function* compareParts<T>(
  part: PartChange["part"],
  before: ReadonlyMap<string, T>,
  after: ReadonlyMap<string, T>,
  canonical: (member: T) => string,
  words: (before: T, after: T, name: string) => string[],
): Comparing {
  const changes: PartChange[] = [];
  let passed = 0;
  for (const [name, now] of after) {
    const old = before.get(name);
    if (old === now) {
      if (++passed % pauseEvery === 0) yield;
      continue;
    }
    yield;
    if (old === undefined) changes.push({ part, name, kind: "added", words: ["new"] });
    else if (canonical(old) !== canonical(now)) {
      changes.push({ part, name, kind: "changed", words: words(old, now, name) });
    }
  }
  for (const name of before.keys()) {
    if (!after.has(name)) changes.push({ part, name, kind: "removed", words: ["removed"] });
    if (++passed % pauseEvery === 0) yield;
  }
  return changes.sort((a, b) => (a.name < b.name ? -1 : 1));
}

/** A flag that went and one that came, alike in what they give, are one flag with another name. */
function withRenames(
  changes: readonly PartChange[],
  before: Definitions,
  after: Definitions,
  proofs: Proofs,
): PartChange[] {
  const flagsOf = (kind: PartChange["kind"], set: Definitions) =>
    changes.filter((change) => change.kind === kind).map(({ name }) => set.flags.get(name)!);
  const renames = findRenames(flagsOf("removed", before), flagsOf("added", after));
  if (renames.size === 0) return [...changes];
  const gone = new Set([...renames.values()].map(({ name }) => name));
  return changes.flatMap((change): PartChange[] => {
    const old = change.kind === "added" ? renames.get(change.name) : undefined;
    if (change.kind === "removed" && gone.has(change.name)) return [];
    if (!old) return [change];
    const words = renameWords(old, after.flags.get(change.name)!, proofs);
    return [{ part: "flag", name: change.name, kind: "renamed", from: old.name, words }];
  });
}

type Section = "cohorts" | "windows" | "attributes" | "environments";

function* compareSection(
  part: "cohort" | "window" | "attribute" | "environment",
  before: Definitions,
  after: Definitions,
  words: (name: string) => string[],
): Comparing {
  const section: Section = `${part}s`;
  const texts = (set: Definitions) =>
    new Map([...set[section].keys()].map((name) => [name, canonicalMember(set, section, name)]));
  return yield* compareParts(
    part,
    texts(before),
    texts(after),
    (text) => text,
    (_old, _now, name) => words(name),
  );
}

function canonicalMember(set: Definitions, section: Section, name: string): string {
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

function* compareSuspensions(before: Definitions, after: Definitions): Comparing {
  const words = (s: Suspension) => `suspended${s.in ? ` in ${s.in.join(", ")}` : ""}${s.note ? `: ${s.note}` : ""}`;
  const canonical = (s: Suspension) => canonicalJson([s.in, s.since, s.who, s.note]);
  const changes = yield* compareParts("suspension", before.suspensions, after.suspensions, canonical, (_, now) => [
    words(now),
  ]);
  return changes.map((change) => {
    if (change.kind === "added") return { ...change, words: [words(after.suspensions.get(change.name)!)] };
    return change.kind === "removed" ? { ...change, words: ["reinstated"] } : change;
  });
}
