import type { Document } from "../source/index.ts";
import type { FileName } from "./file-name.ts";
import type { Entry } from "./files.ts";
import { FileText } from "./parse/file-text.ts";
import { documentOf, type ParsedText } from "./parse/parsed-file.ts";

/** A file that has been read and parsed. */
export class LoadedFile {
  readonly name: FileName;
  readonly entry: Entry;
  readonly parsed: ParsedText;
  /** One and the same object for as long as the file stays as it is. */
  readonly document: Document;
  /** Reading failed for a reason that may pass: it is tried again at every look. */
  readonly failed: boolean;
  readonly #text: FileText;

  private constructor(
    name: FileName,
    entry: Entry,
    text: FileText,
    parsed: ParsedText,
    document: Document,
    failed: boolean,
  ) {
    this.name = name;
    this.entry = entry;
    this.#text = text;
    this.parsed = parsed;
    this.document = document;
    this.failed = failed;
  }

  static of(name: FileName, entry: Entry, text: string, parsed: ParsedText, failed = false): LoadedFile {
    return new LoadedFile(name, entry, new FileText(text), parsed, documentOf(name, parsed), failed);
  }

  /** The same text, found at another time. */
  foundAgain(entry: Entry): LoadedFile {
    return new LoadedFile(this.name, entry, this.#text, this.parsed, this.document, false);
  }

  get text(): string {
    return this.#text.whole;
  }

  /** Packs the text for as long as nobody looks at it. */
  putAway(): Promise<void> {
    return this.#text.putAway();
  }
}
