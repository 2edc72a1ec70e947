import { type FlagDefinition, FlagReader, type SchemaPort } from "../model/index.ts";
import type { Problems } from "../problems/index.ts";
import { entriesOf, type FlagSource, reportTwice } from "../source/index.ts";
import type { FileMemory } from "./file-memory.ts";

/** How many things that need no work go between pauses. */
export const pauseEvery = 128;
/** How many flags go between pauses that must be read. */
const freshAtOnce = 16;

/** Reads flags, with pauses. */
export type FlagReading = Generator<undefined, ReadonlyMap<string, FlagDefinition>, undefined>;

/** The flags of all files; those of a file that has not changed are the very same ones. */
export function* readFlags(
  memories: readonly FileMemory[],
  schemas: SchemaPort | undefined,
  problems: Problems,
): FlagReading {
  const flags = new Map<string, FlagDefinition>();
  let passed = 0;
  for (const memory of memories) {
    if (!isReadWhole(memory)) yield* readFresh(memory, schemas, problems);
    for (const [name, flag] of memory.flags) {
      const earlier = flags.get(name);
      if (earlier) reportTwice("flags", name, earlier.place, flag.place, problems);
      else flags.set(name, flag);
      if (++passed % pauseEvery === 0) yield;
    }
    forgetUnsettled(memory);
  }
  return flags;
}

export function isReadWhole({ flags, count }: FileMemory): boolean {
  return flags.size === count;
}

/** Flags that must be read again the next time are not known then. */
export function forgetUnsettled(memory: FileMemory): void {
  for (const name of memory.unsettled) memory.flags.delete(name);
  memory.unsettled = [];
}

export function* readFresh(
  memory: FileMemory,
  schemas: SchemaPort | undefined,
  problems: Problems,
): Generator<undefined, void, undefined> {
  const { flags } = memory;
  const known = new Map(flags);
  flags.clear();
  let fresh = 0;
  let reader: FlagReader | undefined;
  for (const entry of entriesOf(memory.file!, "flags")) {
    const before = problems.count;
    reader ??= new FlagReader(entry, problems, schemas);
    const flag = known.get(entry.name) ?? reader.read(entry);
    flags.set(entry.name, flag);
    if (problems.count > before || hasSchemaFile(entry.source)) memory.unsettled.push(entry.name);
    if (++fresh % freshAtOnce === 0) yield;
  }
}

/** What is in another file can change without this one. */
function hasSchemaFile({ schema }: FlagSource): boolean {
  return typeof schema === "object" && "file" in schema;
}
