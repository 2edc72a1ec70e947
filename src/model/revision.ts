import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex, utf8ToBytes } from "@noble/hashes/utils.js";
import { printPath } from "../language/print.ts";
import { canonicalJson } from "../values/data.ts";
import type { CohortDefinition, Definitions, FlagDefinition, WindowDefinition } from "./types.ts";

/** The first 12 hex digits of the SHA-256 of the set's canonical JSON. */
export function revisionOf(definitions: Omit<Definitions, "revision">): string {
  const hash = sha256.create();
  for (const piece of canonicalPieces(definitions)) hash.update(utf8ToBytes(piece));
  return bytesToHex(hash.digest()).slice(0, 12);
}

/** SHA-256 of a list's sorted set of ids, as hex; it stands for the list in the canonical JSON. */
export function digestOfIds(ids: Iterable<string>): string {
  const hash = sha256.create();
  for (const id of [...new Set(ids)].sort()) hash.update(utf8ToBytes(`${JSON.stringify(id)}\n`));
  return bytesToHex(hash.digest());
}

type Sections = Omit<Definitions, "revision" | "conditions">;

/**
 * The canonical JSON of a set, in pieces: keys in order, defaults written out where they hold, lists of ids as the
 * digest of their sorted set. Layout, comments, file names and the order of the files do not show in it.
 */
export function* canonicalPieces(set: Sections): Generator<string> {
  yield '{"attributes":';
  yield* section(set.attributes, (a) =>
    canonicalJson({ type: a.type, "missing-as": a.missingAs, private: a.private, about: a.about }),
  );
  yield ',"cohorts":';
  yield* section(set.cohorts, canonicalCohort);
  yield ',"environments":';
  yield* section(set.environments, (e) => canonicalJson(e.source));
  yield ',"flags":';
  yield* set.flags.size > namesAtOnce ? inBlocks(set.flags) : section(set.flags, canonicalFlag);
  yield ',"iudex":1,"suspended":';
  yield* section(set.suspensions, ({ since, who, note, in: environments }) =>
    canonicalJson({ since, who, note, in: environments && [...environments].sort() }),
  );
  yield ',"windows":';
  yield* section(set.windows, canonicalWindow);
  yield "}";
}

/** Names that are sorted without a pause. */
const namesAtOnce = 500;

/** Pieces are handed on in texts of about this size; smaller ones would cost more on the way than they are worth. */
const pieceSize = 16_384;

/** The names sorted last: from one revision to the next they are mostly the same. */
let latest: { readonly names: readonly string[]; readonly sorted: readonly string[] } = { names: [], sorted: [] };

function* sortedNames(names: readonly string[]): Generator<string, readonly string[], undefined> {
  const known = latest;
  if (names.length === known.names.length && names.every((name, i) => name === known.names[i])) return known.sorted;
  const inOrder = yield* sorted(names);
  if (names.length > namesAtOnce) latest = { names, sorted: inOrder };
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

function* section<T>(members: ReadonlyMap<string, T>, canonical: (member: T) => string): Generator<string> {
  let piece = "{";
  let comma = "";
  for (const name of yield* sortedNames([...members.keys()])) {
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

/** The blocks of the large set seen last: in a reload nearly all of them are the same flags. */
let latestBlocks: { readonly names: readonly string[]; readonly blocks: Block[] } = { names: [], blocks: [] };

/** The same as `section`, for a large set: blocks whose flags are the very same ones are not written out again. */
function* inBlocks(flags: ReadonlyMap<string, FlagDefinition>): Generator<string> {
  const names = yield* sortedNames([...flags.keys()]);
  if (latestBlocks.names !== names) latestBlocks = { names, blocks: [] };
  const { blocks } = latestBlocks;
  for (let start = 0; start < names.length; start += blockSize) {
    const index = start / blockSize;
    const members = names.slice(start, start + blockSize).map((name) => flags.get(name)!);
    let block = blocks[index];
    if (!block?.flags.every((flag, i) => flag === members[i])) {
      const text = members.map((flag) => `${JSON.stringify(flag.name)}:${canonicalFlag(flag)}`).join();
      block = { flags: members, text: `${start === 0 ? "{" : ","}${text}` };
      blocks[index] = block;
    }
    yield block.text;
  }
  yield "}";
}

function canonicalCohort(cohort: CohortDefinition): string {
  if (cohort.kind === "condition") return canonicalJson({ about: cohort.about, when: cohort.when });
  return canonicalJson({ about: cohort.about, of: printPath(cohort.of), ids: cohort.digest });
}

function canonicalWindow({ about, hours, window }: WindowDefinition): string {
  const { from, until, zone, except } = window.parts;
  return canonicalJson({ about, from, until, zone, hours, except: [...except].sort() });
}

/** Variants keep their order: an override by plain value names the first one that is equal. */
export function canonicalFlag({ source, defaults, variants }: FlagDefinition): string {
  const by = source.by ?? defaults.by;
  return canonicalJson({ ...source, by, zone: defaults.zone, variants: variants && [...variants] });
}
