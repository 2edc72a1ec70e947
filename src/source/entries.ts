import { atKey, type Place, type Problems } from "../problems/problem.ts";
import { isObject, own } from "../values/data.ts";
import type { DefaultsSource } from "./format.ts";

/** A parsed file: its name relative to the folder, and its data. */
export interface Document {
  readonly file: string;
  readonly data: unknown;
  /**
   * The source of scalars whose spelling matters, by JSON Pointer: unquoted words such as `off`, and numbers whose
   * source is not their plain decimal text.
   */
  readonly spellings?: ReadonlyMap<string, string> | undefined;
  /**
   * A promise that the data will never change. What was found out about it is then remembered for as long as the
   * document lives, and it is not copied.
   */
  readonly unchanging?: boolean;
}

/** What the members of one section of a file have in common. */
interface Section {
  readonly key: string;
  readonly document: Document;
  readonly defaults: DefaultsSource;
}

/** One member of a file's section, before its meaning is looked at. Sets have many, so they hold only what differs. */
export class Entry {
  readonly name: string;
  readonly source: unknown;
  readonly section: Section;
  /** What was read of it without a problem; an entry of an unchanging document is not read twice. */
  sound: unknown;

  constructor(name: string, source: unknown, section: Section) {
    this.name = name;
    this.source = source;
    this.section = section;
    this.sound = undefined;
  }

  get place(): Place {
    const { document, key } = this.section;
    return { file: document.file, path: [key, this.name] };
  }

  get document(): Document {
    return this.section.document;
  }

  get defaults(): DefaultsSource {
    return this.section.defaults;
  }
}

const noDefaults: DefaultsSource = {};

/** The members of one section over all files, in order; a name that stands twice is reported with both places. */
export function* collectEntries(
  documents: readonly Document[],
  section: string,
  problems: Problems,
): Generator<undefined, readonly Entry[], undefined> {
  // Within one file the parser has seen to it.
  if (documents.length === 1) return entriesOf(documents[0]!, section);
  const seen = new Map<string, Entry>();
  for (const document of documents) {
    yield;
    for (const entry of entriesOf(document, section)) {
      const earlier = seen.get(entry.name);
      if (earlier) reportTwice(section, earlier, entry, problems);
      else seen.set(entry.name, entry);
    }
  }
  return [...seen.values()];
}

/** Entries by document: one that has not changed is the same object from reading to reading. */
const known = new WeakMap<Document, Map<string, readonly Entry[]>>();

function entriesOf(document: Document, section: string): readonly Entry[] {
  if (!document.unchanging) return readEntries(document, section);
  const sections = known.get(document) ?? new Map<string, readonly Entry[]>();
  known.set(document, sections);
  let entries = sections.get(section);
  if (entries === undefined) {
    entries = readEntries(document, section);
    sections.set(section, entries);
  }
  return entries;
}

function readEntries(document: Document, key: string): readonly Entry[] {
  const members = isObject(document.data) ? own(document.data, key) : undefined;
  if (!isObject(document.data) || !isObject(members)) return [];
  const defaults = own(document.data, "defaults");
  const section: Section = { key, document, defaults: isObject(defaults) ? defaults : noDefaults };
  return Object.keys(members).map((name) => new Entry(name, members[name], section));
}

function reportTwice(section: string, earlier: Entry, later: Entry, problems: Problems): void {
  const what = section.replace(/s$/, "");
  problems.report(
    "defined-twice",
    { ...later.place, part: "key" },
    {
      message: `The ${what} “${later.name}” is defined twice: in ${earlier.place.file} and in ${later.place.file}.`,
      found: later.name,
      expected: `one definition of each ${what} in the whole folder`,
      related: [{ place: { ...earlier.place, part: "key" }, message: "the first definition" }],
    },
  );
}

/** `environments` stand in one file only, so that they can be read in one look. */
export function* collectEnvironments(
  documents: readonly Document[],
  problems: Problems,
): Generator<undefined, readonly Entry[], undefined> {
  const holders = documents.filter((d) => isObject(d.data) && Object.hasOwn(d.data, "environments"));
  for (const second of holders.slice(1)) {
    problems.report("defined-twice", atKey({ file: second.file, path: [] }, "environments"), {
      message: `“environments” stands in ${holders[0]!.file} and in ${second.file}.`,
      expected: "one “environments” in the whole folder",
      related: [{ place: atKey({ file: holders[0]!.file, path: [] }, "environments"), message: "the first one" }],
    });
  }
  return yield* collectEntries(holders.slice(0, 1), "environments", problems);
}
