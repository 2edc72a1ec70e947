import { atKey, type Place, type Problems } from "../problems/index.ts";
import { isObject, own } from "../values/index.ts";
import type { DefaultsSource, DefinitionFile } from "./format/files.ts";

/** A parsed file: its name relative to the folder, and its data. */
export interface Document {
  readonly file: string;
  readonly data: unknown;
  /**
   * The source of scalars whose spelling matters, by JSON Pointer: unquoted words such as `off`, and numbers whose
   * source is not their plain decimal text.
   */
  readonly spellings?: ReadonlyMap<string, string> | undefined;
  /** A promise that the data will never change; it is then not copied, and read once in the memory of a reading. */
  readonly unchanging?: boolean;
}

/** A file whose shape has been read. */
export interface SourceFile {
  readonly document: Document;
  readonly source: DefinitionFile;
}

/** The sections of a file that hold members by name. */
export type SectionKey = "environments" | "attributes" | "cohorts" | "windows" | "flags";

export type MemberOf<K extends SectionKey> = NonNullable<DefinitionFile[K]>[string];

/** What the members of one section of a file have in common. */
interface Section {
  readonly key: SectionKey;
  readonly document: Document;
  readonly defaults: DefaultsSource;
}

/** One member of a file's section. Sets have many, so they hold only what differs. */
export class Entry<T> {
  readonly name: string;
  readonly source: T;
  readonly section: Section;

  constructor(name: string, source: T, section: Section) {
    this.name = name;
    this.source = source;
    this.section = section;
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

  /** Whether the file says anything under a key, be it usable or not. */
  says(key: string): boolean {
    const { data } = this.document;
    const members = isObject(data) ? own(data, this.section.key) : undefined;
    const member = isObject(members) ? own(members, this.name) : undefined;
    return isObject(member) && Object.hasOwn(member, key);
  }
}

const noDefaults: DefaultsSource = {};

/** The members of one section of a file. */
export function entriesOf<K extends SectionKey>(
  { document, source }: SourceFile,
  key: K,
): readonly Entry<MemberOf<K>>[] {
  // The type checker does not see that a section's members are those of its key.
  const members = source[key] as Readonly<Record<string, MemberOf<K>>> | undefined;
  if (members === undefined) return [];
  const section: Section = { key, document, defaults: source.defaults ?? noDefaults };
  return Object.keys(members).map((name) => new Entry<MemberOf<K>>(name, members[name]!, section));
}

/** The members of one section over all files, in order; a name that stands twice is reported with both places. */
export function* collectEntries<K extends SectionKey>(
  files: readonly SourceFile[],
  key: K,
  problems: Problems,
): Generator<undefined, readonly Entry<MemberOf<K>>[], undefined> {
  const seen = new Map<string, Entry<MemberOf<K>>>();
  for (const file of files) {
    yield;
    for (const entry of entriesOf(file, key)) {
      const earlier = seen.get(entry.name);
      if (earlier) reportTwice(key, entry.name, earlier.place, entry.place, problems);
      else seen.set(entry.name, entry);
    }
  }
  return [...seen.values()];
}

export function reportTwice(key: SectionKey, name: string, earlier: Place, later: Place, problems: Problems): void {
  const what = key.slice(0, -1);
  problems.report(
    "defined-twice",
    { ...later, part: "key" },
    {
      message: `The ${what} “${name}” is defined twice: in ${earlier.file} and in ${later.file}.`,
      found: name,
      expected: `one definition of each ${what} in the whole folder`,
      related: [{ place: { ...earlier, part: "key" }, message: "the first definition" }],
    },
  );
}

/** `environments` stand in one file only, so that they can be read in one look. */
export function* collectEnvironments(
  files: readonly SourceFile[],
  problems: Problems,
): Generator<undefined, readonly Entry<MemberOf<"environments">>[], undefined> {
  const [first, ...others] = files.filter(({ source }) => source.environments !== undefined);
  for (const { document } of others) {
    problems.report("defined-twice", atKey({ file: document.file, path: [] }, "environments"), {
      message: `“environments” stands in ${first!.document.file} and in ${document.file}.`,
      expected: "one “environments” in the whole folder",
      related: [{ place: atKey({ file: first!.document.file, path: [] }, "environments"), message: "the first one" }],
    });
  }
  return yield* collectEntries(first ? [first] : [], "environments", problems);
}
