import type { Document } from "../source/index.ts";
import { FileText } from "./file-text.ts";
import { documentOf, type ParsedText } from "./parsed-file.ts";
import type { FoundFile } from "./scan.ts";

/** How a file was read. */
interface HowRead {
  readonly failed?: boolean;
  readonly young?: boolean;
}

/** A file that has been read and parsed. */
export class LoadedFile {
  readonly found: FoundFile;
  readonly parsed: ParsedText;
  /** One and the same object for as long as the file stays as it is. */
  readonly document: Document;
  /** Reading failed for a reason that may pass: it is tried again at every look. */
  readonly failed: boolean;
  /** It was read so soon after it had changed that it may change again under the same time stamp. */
  readonly young: boolean;
  readonly #text: FileText;

  private constructor(found: FoundFile, text: FileText, parsed: ParsedText, document: Document, how: HowRead) {
    this.found = found;
    this.#text = text;
    this.parsed = parsed;
    this.document = document;
    this.failed = how.failed ?? false;
    this.young = how.young ?? false;
  }

  static of(found: FoundFile, text: string, parsed: ParsedText, how: HowRead = {}): LoadedFile {
    return new LoadedFile(found, new FileText(text), parsed, documentOf(found.file, parsed), how);
  }

  /** The same text, found at another time. */
  foundAgain(found: FoundFile, young: boolean): LoadedFile {
    return new LoadedFile(found, this.#text, this.parsed, this.document, { young });
  }

  get text(): string {
    return this.#text.whole;
  }

  /** Packs the text for as long as nobody looks at it. */
  putAway(): Promise<void> {
    return this.#text.putAway();
  }
}
