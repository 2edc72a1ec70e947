import {
  type CohortDefinition,
  canonicalFlag,
  canonicalNode,
  type Definitions,
  type NodeKind,
  type Stop,
  type Suspension,
  writtenStop,
} from "../../model/index.ts";
import { canonicalJson, namesChanged } from "../../values/index.ts";
import { flagWords } from "./flag-words.ts";
import {
  attributeWords,
  cohortWords,
  environmentWords,
  isSameCohort,
  lostMost,
  renamedCohortWords,
  windowWords,
} from "./part-words.ts";
import { Proofs } from "./proofs.ts";
import { findRenames, renameWords } from "./renames.ts";

/** What a change means for one flag, cohort, window or other part, in words. */
export interface PartChange {
  readonly part: "flag" | "cohort" | "window" | "attribute" | "environment" | "suspension";
  readonly name: string;
  readonly kind: "added" | "removed" | "changed" | "renamed";
  /** The earlier name of a flag or cohort that was renamed. */
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

/** How many parts that did not change go between pauses. */
const pauseEvery = 128;

/** Compares as `compareSets` does and pauses often, so that a service can go on answering meanwhile. */
export function* compareInSteps(
  before: Definitions,
  after: Definitions,
): Generator<undefined, PartChange[], undefined> {
  const proofs = new Proofs(before, after);
  const flags = yield* compareParts("flag", before.flags, after.flags, canonicalFlag, (old, now) =>
    flagWords(old, now, proofs),
  );
  const cohorts = yield* compareSection("cohort", before, after, (name) =>
    cohortWords(before.cohorts.get(name)!, after.cohorts.get(name)!, proofs),
  );
  const changes = [
    ...withRenames(flags, before, after, proofs),
    ...(yield* compareSuspensions(before, after)),
    ...withRenamedCohorts(cohorts, before, after),
    ...(yield* compareSection("window", before, after, (name) =>
      windowWords(before.windows.get(name)!, after.windows.get(name)!),
    )),
    ...(yield* compareSection("attribute", before, after, (name) =>
      attributeWords(before.attributes.get(name)!, after.attributes.get(name)!),
    )),
    ...(yield* compareSection("environment", before, after, (name) =>
      environmentWords(before.environments.get(name)!, after.environments.get(name)!),
    )),
  ];
  const isLoss = ({ part, name, kind }: PartChange) =>
    part === "cohort" && kind === "changed" && lostMost(before.cohorts.get(name)!, after.cohorts.get(name)!);
  return [...changes.filter(isLoss), ...changes.filter((change) => !isLoss(change))];
}

type Comparing = Generator<undefined, PartChange[], undefined>;

function* compareParts<T>(
  part: PartChange["part"],
  before: ReadonlyMap<string, T>,
  after: ReadonlyMap<string, T>,
  canonical: (member: T) => string,
  words: (before: T, after: T, name: string) => string[],
): Comparing {
  const changes: PartChange[] = [];
  let passed = 0;
  const names = namesChanged(before, after);
  for (const name of names ?? after.keys()) {
    const now = after.get(name)!;
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
  const added = changes.filter(({ kind }) => kind === "added").length;
  // Of tens of thousands mostly none has gone: the numbers tell.
  for (const name of !names && before.size + added > after.size ? before.keys() : []) {
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

/** A cohort that went and one that came with the same definition are one cohort with another name. */
function withRenamedCohorts(changes: readonly PartChange[], before: Definitions, after: Definitions): PartChange[] {
  const gone = changes.filter(({ kind }) => kind === "removed").map(({ name }) => before.cohorts.get(name)!);
  const renamed = new Map<string, CohortDefinition>();
  for (const { name, kind } of changes) {
    const now = kind === "added" ? after.cohorts.get(name)! : undefined;
    const old = now && gone.find((each) => ![...renamed.values()].includes(each) && isSameCohort(each, now));
    if (old) renamed.set(name, old);
  }
  const left = new Set([...renamed.values()].map(({ name }) => name));
  return changes.flatMap((change): PartChange[] => {
    const old = change.kind === "added" ? renamed.get(change.name) : undefined;
    if (change.kind === "removed" && left.has(change.name)) return [];
    if (!old) return [change];
    const words = renamedCohortWords(old, after.cohorts.get(change.name)!);
    return [{ part: "cohort", name: change.name, kind: "renamed", from: old.name, words }];
  });
}

type SectionName = "cohorts" | "windows" | "attributes" | "environments";

function* compareSection(
  part: "cohort" | "window" | "attribute" | "environment",
  before: Definitions,
  after: Definitions,
  words: (name: string) => string[],
): Comparing {
  const section: SectionName = `${part}s`;
  const texts = (set: Definitions) =>
    new Map([...set[section].keys()].map((name) => [name, canonicalMember(set, part, name)]));
  return yield* compareParts(
    part,
    texts(before),
    texts(after),
    (text) => text,
    (_old, _now, name) => words(name),
  );
}

function canonicalMember(set: Definitions, part: NodeKind | "environment", name: string): string {
  if (part !== "environment") return canonicalNode(set, part, name) ?? "";
  return canonicalJson(set.environments.get(name)?.source);
}

function* compareSuspensions(before: Definitions, after: Definitions): Comparing {
  const words = ({ stops }: Suspension) => `suspended${stops.map(stopWords).join(", and")}`;
  const canonical = ({ stops }: Suspension) => canonicalJson(stops.map(writtenStop));
  const changes = yield* compareParts("suspension", before.suspensions, after.suspensions, canonical, (_, now) => [
    words(now),
  ]);
  return changes.map((change) => {
    if (change.kind === "added") return { ...change, words: [words(after.suspensions.get(change.name)!)] };
    return change.kind === "removed" ? { ...change, words: ["reinstated"] } : change;
  });
}

function stopWords(stop: Stop): string {
  return `${whereStopped(stop)}${stop.note ? `: ${stop.note}` : ""}`;
}

/** Where a stop holds, behind "suspended"; nothing is said where that is everywhere. */
export function whereStopped({ in: only, except }: Stop): string {
  if (only) return ` in ${only.join(", ")}`;
  return except ? ` everywhere but in ${except.join(", ")}` : "";
}
