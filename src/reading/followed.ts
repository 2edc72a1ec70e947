import { CanonicalMemory, type EntryKind, type FlagDefinition, type SchemaPort } from "../model/index.ts";
import type { Problems } from "../problems/index.ts";
import type { Document, FlagSource, SourceFile } from "../source/index.ts";
import { namesChanged, withMembers } from "../values/index.ts";
import type { FileMemory } from "./file-memory.ts";
import { ReadingMemory } from "./memory.ts";
import { type FlagReading, forgetUnsettled, isReadWhole, readFlags, readFresh } from "./read-flags.ts";

/**
 * What the readings of a folder that is followed hand on: a flag that is written as before is the very same one, though
 * its file has changed, and a set says in which flags it can differ from the one before. So a change costs what has
 * changed, however large the set is.
 */
export class FollowedMemory extends ReadingMemory {
  override readonly canonical = new FollowedBlocks();
  readonly #latest = new Map<string, FileMemory>();
  #merged: Merged | undefined;

  override *prepare(documents: readonly Document[]): Generator<undefined, void, undefined> {
    yield* super.prepare(documents);
    if (this.#latest.size <= documents.length) return;
    const here = new Set(documents.map(({ file }) => file));
    for (const file of this.#latest.keys()) if (!here.has(file)) this.#latest.delete(file);
  }

  override *readFlags(
    memories: readonly FileMemory[],
    schemas: SchemaPort | undefined,
    problems: Problems,
  ): FlagReading {
    const flags =
      this.#merged && areAlike(this.#merged.memories, memories)
        ? yield* mergedAgain(this.#merged, memories, (memory) => readFresh(memory, schemas, problems))
        : yield* readFlags(memories, schemas, problems);
    const count = memories.reduce((sum, memory) => sum + memory.count, 0);
    this.#merged = flags.size === count ? { memories, flags } : undefined;
    return flags;
  }

  protected override keep(document: Document, file: SourceFile | undefined, problems: Problems): FileMemory {
    const memory = super.keep(document, file, problems);
    const earlier = this.#latest.get(document.file);
    if (file && earlier) takeOver(memory, earlier);
    if (file && document.unchanging) this.#latest.set(document.file, memory);
    return memory;
  }
}

/** The flags of files, none of which is defined twice. */
interface Merged {
  readonly memories: readonly FileMemory[];
  readonly flags: ReadonlyMap<string, FlagDefinition>;
}

/** Whether these are the same files with flags of the same names, in the same order. */
function areAlike(before: readonly FileMemory[], now: readonly FileMemory[]): boolean {
  const isAlike = (memory: FileMemory, i: number) => memory === before[i] || haveSameNames(memory, before[i]!);
  return before.length === now.length && now.every(isAlike);
}

function haveSameNames({ file, count }: FileMemory, earlier: FileMemory): boolean {
  if (count !== earlier.count || file!.document.file !== earlier.file!.document.file) return false;
  const before = Object.keys(earlier.file!.source.flags ?? {});
  return Object.keys(file!.source.flags ?? {}).every((name, i) => name === before[i]);
}

/** The flags of all files, of which only some are looked at. */
function* mergedAgain(
  { memories: before, flags }: Merged,
  now: readonly FileMemory[],
  fresh: (memory: FileMemory) => Generator<undefined, void, undefined>,
): FlagReading {
  const changed = new Map<string, FlagDefinition>();
  for (const [i, memory] of now.entries()) {
    if (memory === before[i] && isReadWhole(memory)) continue;
    if (!isReadWhole(memory)) yield* fresh(memory);
    for (const [name, flag] of memory.flags) if (flags.get(name) !== flag) changed.set(name, flag);
    forgetUnsettled(memory);
  }
  return changed.size === 0 ? flags : withMembers(flags, changed);
}

/** The flags that a file's earlier state defined in the same words are those of the new one as well. */
function takeOver({ file, flags }: FileMemory, earlier: FileMemory): void {
  const { document, source } = file!;
  const before = earlier.file!.source;
  if (!isWrittenAlike(source.defaults, before.defaults)) return;
  const spelt = new Set([...speltIn(document), ...speltIn(earlier.file!.document)]);
  const written: Readonly<Record<string, FlagSource>> = source.flags ?? {};
  for (const name of Object.keys(written)) {
    const flag = earlier.flags.get(name);
    if (flag && !spelt.has(name) && isWrittenAlike(written[name], flag.source)) flags.set(name, flag);
  }
}

/** The flags in which a spelling matters. */
function speltIn({ spellings }: Document): string[] {
  return [...(spellings?.keys() ?? [])].map((pointer) => pointer.split("/")[2]!);
}

/** Whether data is the same, the order of its keys included. */
function isWrittenAlike(one: unknown, other: unknown): boolean {
  if (Object.is(one, other)) return true;
  if (typeof one !== "object" || typeof other !== "object" || one === null || other === null) return false;
  const [mine, theirs] = [Object.entries(one), Object.entries(other)];
  return (
    Array.isArray(one) === Array.isArray(other) &&
    mine.length === theirs.length &&
    mine.every(([key, value], i) => key === theirs[i]![0] && isWrittenAlike(value, theirs[i]![1]))
  );
}

/** Places only what can have changed. */
class FollowedBlocks extends CanonicalMemory {
  readonly #placed = new Map<EntryKind, ReadonlyMap<string, object>>();

  override *place(kind: EntryKind, members: ReadonlyMap<string, object>): Generator<undefined, void, undefined> {
    const before = this.#placed.get(kind);
    this.#placed.delete(kind);
    const names = before && namesChanged(before, members);
    if (names) for (const name of names) this.put(kind, name, members.get(name)!);
    else yield* super.place(kind, members);
    this.#placed.set(kind, members);
  }
}
