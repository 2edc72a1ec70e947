import { CanonicalMemory, type FlagDefinition, readZone } from "../model/index.ts";
import { Problems } from "../problems/index.ts";
import { type Document, readFile, readFileInSteps, type SourceFile } from "../source/index.ts";
import { keptForTheEngine } from "./kept.ts";

/** What was found out about one file, for as long as it stays the same object. */
export interface FileMemory {
  readonly file: SourceFile | undefined;
  /** The schemas of its flags. */
  readonly schemas: readonly unknown[];
  /** Of its shape. */
  readonly problems: Problems;
  /** Its flags, read. */
  readonly flags: Map<string, FlagDefinition>;
  /** Flags that must be read again the next time: something was found, or they depend on another file. */
  unsettled: string[];
  /** The names under which its flags were found sound; undefined while they were not. */
  soundUnder: SoundUnder | undefined;
  /** The flags that refer to a flag, cohort or window. */
  referring: readonly string[];
}

/** What the soundness of a file's flags depends on. */
export interface SoundUnder {
  /** The names that any condition can depend on: attributes, cohorts, windows, environments. */
  readonly names: string;
  /** All flags with their types; undefined where no flag of the file refers to anything. */
  readonly flags: string | undefined;
}

/**
 * What one reading hands on to the next, so that a reload looks only at what has changed: files whose shape was read, the
 * flags in them, and how they were written for the revision. Belongs to one folder; nothing of it is shared.
 */
export class ReadingMemory {
  /** @hidden */
  readonly kept = keptForTheEngine;
  /** @hidden */
  readonly canonical = new CanonicalMemory();
  readonly #files = new WeakMap<Document, FileMemory>();

  /** The file of a document, read at most once if the document never changes. @hidden */
  file(document: Document): FileMemory {
    const known = this.#files.get(document);
    if (known) return known;
    const problems = new Problems();
    return this.#keep(document, readFile(document, problems), problems);
  }

  /** Reads the files of documents that never change, with pauses. @hidden */
  *prepare(documents: readonly Document[]): Generator<undefined, void, undefined> {
    for (const document of documents) {
      if (!document.unchanging || this.#files.has(document)) continue;
      const problems = new Problems();
      this.#keep(document, yield* readFileInSteps(document, problems), problems);
      yield;
    }
  }

  #keep(document: Document, file: SourceFile | undefined, problems: Problems): FileMemory {
    readZone(file?.source.defaults?.zone, { file: document.file, path: ["defaults", "zone"] }, problems);
    const memory: FileMemory = {
      file,
      schemas: Object.values(file?.source.flags ?? {}).flatMap(({ schema }) => (schema === undefined ? [] : [schema])),
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
