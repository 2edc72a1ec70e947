import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex, utf8ToBytes } from "@noble/hashes/utils.js";
import { printPath } from "../language/index.ts";
import { canonicalJson, canonicalJsonWith, showRange } from "../values/index.ts";
import type { NodeKind } from "./node.ts";
import type { AttributeDefinition, CohortDefinition, Definitions, FlagDefinition, WindowDefinition } from "./types.ts";

/** Hex digits of a revision: 128 bits, so that nobody can make two sets that share one. */
export const revisionDigits = 32;

/** A revision as people are shown it. */
export function shortRevision(revision: string): string {
  return revision.slice(0, 12);
}

/** The first 32 hex digits of the SHA-256 of the set's canonical JSON. */
export function revisionOf(definitions: Sections): string {
  const hash = sha256.create();
  for (const piece of canonicalPieces(definitions)) hash.update(utf8ToBytes(piece));
  return bytesToHex(hash.digest()).slice(0, revisionDigits);
}

/** SHA-256 of a list's sorted set of ids, as hex; it stands for the list in the canonical JSON. */
export function digestOfIds(ids: Iterable<string>): string {
  const hash = sha256.create();
  for (const piece of piecesOfIds(ids)) hash.update(utf8ToBytes(piece));
  return bytesToHex(hash.digest());
}

/** The text whose SHA-256 is the digest of a list, in pieces: the ids as JSON, each once, in order, one a line. */
export function* piecesOfIds(ids: Iterable<string>): Generator<string> {
  const sorted = [...new Set(ids)].sort();
  for (let i = 0; i < sorted.length; i += idsAtOnce)
    yield `${sorted
      .slice(i, i + idsAtOnce)
      .map((id) => JSON.stringify(id))
      .join("\n")}\n`;
}

const idsAtOnce = 1_000;

type Sections = Omit<Definitions, "revision" | "conditions">;

/**
 * The canonical JSON of a set, in pieces: keys in order, defaults written out where they hold, lists of ids as the
 * digest of their sorted set. Layout, comments, file names and the order of the files do not show in it.
 */
export function* canonicalPieces(set: Sections, memory = new CanonicalMemory()): Generator<string> {
  yield '{"attributes":';
  yield* section(memory, set.attributes, canonicalAttribute);
  yield ',"cohorts":';
  yield* section(memory, set.cohorts, canonicalCohort);
  yield ',"environments":';
  yield* section(memory, set.environments, (e) => canonicalJson(e.source));
  yield ',"flags":';
  yield* set.flags.size > 0 ? inBlocks(memory, set.flags) : section(memory, set.flags, canonicalFlag);
  yield ',"iudex":1,"suspended":';
  yield* section(memory, set.suspensions, ({ since, who, note, in: environments }) =>
    canonicalJson({ since, who, note, in: environments && [...environments].sort() }),
  );
  yield ',"windows":';
  yield* section(memory, set.windows, canonicalWindow);
  yield "}";
}

/** Names that are sorted without a pause. */
const namesAtOnce = 500;

/** Pieces are handed on in texts of about this size; smaller ones would cost more on the way than they are worth. */
const pieceSize = 16_384;

/** What the canonical JSON of one reading hands on to the next: mostly the same names, and the very same flags. */
export class CanonicalMemory {
  names: readonly string[] = [];
  sorted: readonly string[] = [];
  /** Of the sorted names of flags. */
  blocks: Block[] = [];
}

function* sortedNames(
  memory: CanonicalMemory,
  names: readonly string[],
): Generator<string, readonly string[], undefined> {
  if (names.length <= namesAtOnce) return names.toSorted();
  if (names.length === memory.names.length && names.every((name, i) => name === memory.names[i])) return memory.sorted;
  const inOrder = yield* sorted(names);
  memory.names = names;
  memory.sorted = inOrder;
  memory.blocks = [];
  return inOrder;
}

/** Sorts by merging, with pauses: ten thousand names at once would be felt by a service. */
function* sorted(names: readonly string[]): Generator<string, readonly string[], undefined> {
  if (names.length <= namesAtOnce) return names.toSorted();
  const middle = names.length >> 1;
  const [left, right] = [yield* sorted(names.slice(0, middle)), yield* sorted(names.slice(middle))];
  const merged: string[] = [];
  let l = 0;
  let r = 0;
  while (l < left.length || r < right.length) {
    const takesLeft = r === right.length || (l < left.length && left[l]! <= right[r]!);
    merged.push(takesLeft ? left[l++]! : right[r++]!);
    if (merged.length % namesAtOnce === 0) yield "";
  }
  return merged;
}

function* section<T>(
  memory: CanonicalMemory,
  members: ReadonlyMap<string, T>,
  canonical: (member: T) => string,
): Generator<string> {
  let piece = "{";
  let comma = "";
  for (const name of yield* sortedNames(memory, [...members.keys()])) {
    piece += `${comma}${JSON.stringify(name)}:${canonical(members.get(name)!)}`;
    comma = ",";
    if (piece.length < pieceSize) continue;
    yield piece;
    piece = "";
  }
  yield `${piece}}`;
}

/** Flags in one block: few, since writing one out is not paused. */
const blockSize = 16;

interface Block {
  readonly flags: readonly FlagDefinition[];
  readonly text: string;
}

/** Blocks whose flags are the very same ones are not written out again. */
function* inBlocks(memory: CanonicalMemory, flags: ReadonlyMap<string, FlagDefinition>): Generator<string> {
  const names = yield* sortedNames(memory, [...flags.keys()]);
  const { blocks } = memory;
  for (let start = 0; start < names.length; start += blockSize) {
    const index = start / blockSize;
    const members = names.slice(start, start + blockSize).map((name) => flags.get(name)!);
    let block = blocks[index];
    if (!block || !areSame(block.flags, members)) {
      const text = members.map((flag) => `${JSON.stringify(flag.name)}:${canonicalFlag(flag)}`).join();
      block = { flags: members, text: `${start === 0 ? "{" : ","}${text}` };
      blocks[index] = block;
    }
    yield block.text;
  }
  yield "}";
}

function areSame(one: readonly FlagDefinition[], other: readonly FlagDefinition[]): boolean {
  return one.length === other.length && one.every((flag, i) => flag === other[i]);
}

function canonicalCohort(cohort: CohortDefinition): string {
  const { about } = cohort;
  switch (cohort.kind) {
    case "condition":
      return canonicalJson({ about, when: cohort.when });
    case "list":
      return canonicalJson({ about, of: printPath(cohort.of), hashed: cohort.hashed, ids: cohort.digest });
    case "lot":
      return canonicalJson({ about, by: printPath(cohort.by), salt: cohort.salt, share: showRange(cohort.range) });
  }
}

function canonicalWindow({ about, hours, window }: WindowDefinition): string {
  const { from, until, zone, except } = window.parts;
  return canonicalJson({ about, from, until, zone, hours, except: [...except].sort() });
}

/** What a definition says, as text: equal for definitions that mean the same. */
export function canonicalNode(set: Sections, kind: NodeKind, name: string): string | undefined {
  switch (kind) {
    case "flag":
      return withMember(set.flags, name, canonicalFlag);
    case "cohort":
      return withMember(set.cohorts, name, canonicalCohort);
    case "window":
      return withMember(set.windows, name, canonicalWindow);
    case "attribute":
      return withMember(set.attributes, name, canonicalAttribute);
  }
}

function withMember<T>(
  members: ReadonlyMap<string, T>,
  name: string,
  canonical: (member: T) => string,
): string | undefined {
  const member = members.get(name);
  return member && canonical(member);
}

function canonicalAttribute(a: AttributeDefinition): string {
  return canonicalJson({
    type: a.type,
    "missing-as": a.missingAs,
    "ignore-case": a.ignoreCase,
    private: a.private,
    about: a.about,
  });
}

/** Variants keep their order: an override by plain value names the first one that is equal. */
export function canonicalFlag({ source, defaults, variants }: FlagDefinition): string {
  const by = source.by ?? defaults.by;
  return canonicalJsonWith(source, { by, zone: defaults.zone, variants: variants && [...variants] });
}
