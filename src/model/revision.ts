import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex, utf8ToBytes } from "@noble/hashes/utils.js";
import { murmur3 } from "../buckets/index.ts";
import { printPath } from "../language/index.ts";
import { canonicalJson, canonicalJsonWith, showRange } from "../values/index.ts";
import type { NodeKind } from "./node.ts";
import { writtenStop } from "./stops.ts";
import type { AttributeDefinition, CohortDefinition, Definitions, FlagDefinition, WindowDefinition } from "./types.ts";

/** Hex digits of a revision: 128 bits, so that nobody can make two sets that share one. */
export const revisionDigits = 32;

/** A revision as people are shown it. */
export function shortRevision(revision: string): string {
  return revision.slice(0, 12);
}

/** The SHA-256 of a text's UTF-8 bytes, as hex. */
export type Sha256 = (text: string) => string;

const ownSha256: Sha256 = (text) => bytesToHex(sha256(utf8ToBytes(text)));

/** The first 32 hex digits of a SHA-256 over the blocks of the set. */
export function revisionOf(definitions: Sections): string {
  const work = revisionInSteps(definitions, new CanonicalMemory(), ownSha256);
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
  }
}

/** SHA-256 of a list's sorted set of ids, as hex; it stands for the list in the canonical JSON. */
export function digestOfIds(ids: Iterable<string>): string {
  const hash = sha256.create();
  for (const piece of piecesOfIds(ids)) hash.update(utf8ToBytes(piece));
  return bytesToHex(hash.digest());
}

/** The text whose SHA-256 is the digest of a list, in pieces: the ids as JSON, each once, in order, one a line. */
export function* piecesOfIds(ids: Iterable<string>): Generator<string> {
  // Sorted first: equal ones stand together then, and no set of a million need be made.
  const sorted = [...ids].sort().filter((id, i, all) => i === 0 || id !== all[i - 1]);
  for (let i = 0; i < sorted.length; i += idsAtOnce)
    yield `${sorted
      .slice(i, i + idsAtOnce)
      .map((id) => JSON.stringify(id))
      .join("\n")}\n`;
}

const idsAtOnce = 1_000;

type Sections = Omit<Definitions, "revision" | "conditions">;

/** The kinds of entries, in order. */
export type EntryKind = "attribute" | "cohort" | "environment" | "flag" | "suspension" | "window";

/** Entries are divided into so many blocks. */
const blockCount = 4_096;

/** The block of an entry: the first 12 bits of a hash of its kind and name, so that what it says does not move it. */
export function blockOf(kind: EntryKind, name: string): string {
  return digitsOf(indexOf(keyOf(kind, name)));
}

/** Sorts as kind, then name do. */
function keyOf(kind: EntryKind, name: string): string {
  return `${kind}\n${name}`;
}

function indexOf(key: string): number {
  return murmur3(key) >>> 20;
}

function digitsOf(index: number): string {
  return (blockCount + index).toString(16).slice(1);
}

/** Entries that are looked at without a pause. */
const entriesAtOnce = 128;

interface Entry {
  readonly kind: EntryKind;
  readonly name: string;
  readonly key: string;
  readonly block: Block;
  /** By which it is known again: the very object. */
  member: object;
}

interface Block {
  entries: Entry[];
  /** Undefined while it must be worked out. */
  digest: string | undefined;
}

/** What the revision of one reading hands on to the next: a block of which nothing has changed is not hashed again. */
export class CanonicalMemory {
  readonly blocks: (Block | undefined)[] = [];
  readonly #known = new Map<EntryKind, Map<string, Entry>>();

  /** Puts the entries of a kind into their blocks; what is new, changed or gone makes its block one to be hashed. */
  *place(kind: EntryKind, members: ReadonlyMap<string, object>): Generator<undefined, void, undefined> {
    let count = 0;
    for (const [name, member] of members) {
      if (++count % entriesAtOnce === 0) yield;
      this.put(kind, name, member);
    }
    const known = this.#entriesOf(kind);
    if (known.size === members.size) return;
    for (const [name, entry] of known) {
      if (members.has(name)) continue;
      known.delete(name);
      entry.block.entries = entry.block.entries.filter((each) => each !== entry);
      entry.block.digest = undefined;
    }
  }

  protected put(kind: EntryKind, name: string, member: object): void {
    const known = this.#entriesOf(kind);
    const entry = known.get(name);
    if (entry?.member === member) return;
    if (entry) {
      entry.member = member;
      entry.block.digest = undefined;
    } else known.set(name, placedAnew(kind, name, member, this));
  }

  #entriesOf(kind: EntryKind): Map<string, Entry> {
    if (!this.#known.has(kind)) this.#known.set(kind, new Map());
    return this.#known.get(kind)!;
  }
}

/**
 * The revision of a set, with pauses. One changed entry costs one block, however large the set is; layout, comments, file
 * names and the order of the files do not show in it.
 */
export function* revisionInSteps(
  set: Sections,
  memory: CanonicalMemory,
  hash: Sha256,
): Generator<undefined, string, undefined> {
  for (const [kind, members] of sectionsOf(set)) yield* memory.place(kind, members);
  const lines: string[] = [];
  for (let index = 0; index < memory.blocks.length; index++) {
    const block = memory.blocks[index];
    if (!block || block.entries.length === 0) continue;
    if (block.digest === undefined) {
      block.digest = hash(textOf(block, set));
      yield;
    }
    lines.push(`${digitsOf(index)} ${block.digest}\n`);
  }
  return hash(lines.join("")).slice(0, revisionDigits);
}

function sectionsOf(set: Sections): [EntryKind, ReadonlyMap<string, object>][] {
  return [
    ["attribute", set.attributes],
    ["cohort", set.cohorts],
    ["environment", set.environments],
    ["flag", set.flags],
    ["suspension", set.suspensions],
    ["window", set.windows],
  ];
}

function placedAnew(kind: EntryKind, name: string, member: object, { blocks }: CanonicalMemory): Entry {
  const key = keyOf(kind, name);
  const index = indexOf(key);
  blocks[index] ??= { entries: [], digest: undefined };
  const block = blocks[index];
  const entry = { kind, name, key, block, member };
  block.entries.push(entry);
  block.digest = undefined;
  return entry;
}

function textOf({ entries }: Block, set: Sections): string {
  if (entries.length > 1) entries.sort((one, other) => (one.key < other.key ? -1 : 1));
  let text = "";
  for (const { kind, name } of entries) text += entryText(set, kind, name);
  return text;
}

/** An entry as the revision takes it: the version of the format, its kind, its name, and what it says. */
export function entryText(set: Sections, kind: EntryKind, name: string): string {
  return `iudex 1\n${kind}\n${name}\n${canonicalEntry(set, kind, name)}\n`;
}

function canonicalEntry(set: Sections, kind: EntryKind, name: string): string {
  switch (kind) {
    case "environment":
      return canonicalJson(set.environments.get(name)!.source);
    case "suspension":
      return canonicalSuspension(set.suspensions.get(name)!);
    case "flag":
      return canonicalFlag(set.flags.get(name)!, name);
    default:
      return canonicalNode(set, kind, name)!;
  }
}

/** The order of the stops means nothing, nor that of their environments. */
function canonicalSuspension({ stops }: SuspensionOf): string {
  const each = stops.map((stop) =>
    canonicalJson({ ...writtenStop(stop), in: stop.in?.toSorted(), except: stop.except?.toSorted() }),
  );
  return each.length === 1 ? each[0]! : `[${each.sort()}]`;
}

type SuspensionOf = Definitions["suspensions"] extends ReadonlyMap<string, infer S> ? S : never;

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

/**
 * Variants keep their order: an override by plain value names the first one that is equal.
 *
 * @param salt what shares and splits without one come to; left out where two flags are compared that bear other names
 */
export function canonicalFlag({ source, defaults, variants }: FlagDefinition, salt?: string): string {
  const by = source.by ?? defaults.by;
  const written = { by, zone: defaults.zone, variants: variants && [...variants] };
  return canonicalJsonWith(source, salt === undefined ? written : { ...written, salt: source.salt ?? salt });
}
