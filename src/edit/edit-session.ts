import {
  decodeText,
  type FileName,
  fileName,
  isListFile,
  type Loaded,
  over,
  readSet,
  reasonOf,
  ToolError,
} from "../files/index.ts";

/** The new text of one file. */
export interface FileChange {
  /** Relative to the definition folder: a definition file, or a list of ids. */
  readonly file: string;
  readonly text: string;
}

/**
 * A definition folder that is being changed: as it was read, with the texts that changes so far have put in the place of
 * files. Nothing is written.
 */
export class EditSession {
  /** As it is with the changes so far. */
  readonly loaded: Loaded;
  /** The new texts so far, by file. */
  readonly texts: ReadonlyMap<string, string>;

  private constructor(loaded: Loaded, texts: ReadonlyMap<string, string>) {
    this.loaded = loaded;
    this.texts = texts;
  }

  /** A folder as it was read, with no change yet. */
  static of(loaded: Loaded): EditSession {
    return new EditSession(loaded, new Map());
  }

  /** The text of a definition file, or of a list; undefined where there is none. */
  async textOf(file: string): Promise<string | undefined> {
    const name = nameOf(file);
    const known = this.texts.get(name) ?? this.loaded.content.files.get(name)?.text;
    if (known !== undefined) return known;
    const entry = this.loaded.content.source.entries.get(name);
    if (!entry) return undefined;
    try {
      const text = decodeText(await entry.bytes());
      if (text !== undefined) return text;
    } catch (error) {
      throw new ToolError(`“${file}” cannot be read: ${reasonOf(error)}.`);
    }
    throw new ToolError(`“${file}” cannot be read: it is not UTF-8 text.`);
  }

  /** With these files changed as well. */
  async with(changes: readonly FileChange[]): Promise<EditSession> {
    const fresh = changes.map(({ file, text }) => [nameOf(file), text] as const);
    const { content } = this.loaded;
    const bytes = new Map(fresh.map(([name, text]) => [name, new TextEncoder().encode(text)]));
    const loaded = await readSet(over(content.source, bytes), { before: content });
    return new EditSession(loaded, new Map([...this.texts, ...fresh]));
  }
}

/** @throws {ToolError} for what cannot be a file of the folder */
export function nameOf(file: string): FileName {
  const name = fileName(file);
  if (typeof name === "string") return name;
  throw new ToolError(name.message, name.help ?? name.expected);
}

export { isListFile as isList };
