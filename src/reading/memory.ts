import { CanonicalMemory, readZone } from "../model/index.ts";
import { Problems } from "../problems/index.ts";
import { type Document, readFile, readFileInSteps, type SourceFile } from "../source/index.ts";
import type { FileMemory } from "./file-memory.ts";
import { keptForTheEngine } from "./kept.ts";
import { type FlagReading, readFlags } from "./read-flags.ts";

/**
 * What one reading hands on to the next, so that a reload looks only at what has changed: files whose shape was read, the
 * flags in them, and how they were written for the revision. Belongs to one folder; nothing of it is shared.
 */
export class ReadingMemory {
  /** @hidden */
  readonly kept = keptForTheEngine;
  /** @hidden */
  readonly canonical: CanonicalMemory = new CanonicalMemory();
  readonly #files = new WeakMap<Document, FileMemory>();

  /** The file of a document, read at most once if the document never changes. @hidden */
  file(document: Document): FileMemory {
    const known = this.#files.get(document);
    if (known) return known;
    const problems = new Problems();
    return this.keep(document, readFile(document, problems), problems);
  }

  /** Reads the files of documents that never change, with pauses. @hidden */
  *prepare(documents: readonly Document[]): Generator<undefined, void, undefined> {
    for (const document of documents) {
      if (!document.unchanging || this.#files.has(document)) continue;
      const problems = new Problems();
      this.keep(document, yield* readFileInSteps(document, problems), problems);
      yield;
    }
  }

  /** @hidden */
  readFlags(...asked: Parameters<typeof readFlags>): FlagReading {
    return readFlags(...asked);
  }

  /** @hidden */
  protected keep(document: Document, file: SourceFile | undefined, problems: Problems): FileMemory {
    const flags = Object.values(file?.source.flags ?? {});
    readZone(file?.source.defaults?.zone, { file: document.file, path: ["defaults", "zone"] }, problems);
    const memory: FileMemory = {
      file,
      count: flags.length,
      schemas: flags.flatMap(({ schema }) => (schema === undefined ? [] : [schema])),
      problems,
      flags: new Map(),
      unsettled: [],
      soundUnder: undefined,
      referring: [],
    };
    if (document.unchanging) this.#files.set(document, memory);
    return memory;
  }
}
