import type { Fault, Path } from "../../problems/index.ts";
import type { Document } from "../../source/index.ts";

/** A place in a text, in UTF-16 offsets. */
export interface TextRange {
  readonly start: number;
  readonly end: number;
}

/** Finds what a path of the data means in the text. Made only when something must be pointed at. */
export interface Locator {
  locate(path: Path, part: "key" | "value", span: TextRange | undefined): TextRange;
  /** The rest of the line behind a value, where a comment may have cut a text short. */
  after(path: Path): string;
}

/** A place in a file's data, to be found in its text. */
export interface Spot {
  readonly path: Path;
  readonly part: "key" | "value";
  readonly span: TextRange | undefined;
}

/** What is wrong with the text itself, before any meaning. */
export interface FileFault extends Omit<Fault, "related"> {
  readonly range: TextRange;
  readonly related?: { readonly range: TextRange; readonly message: string } | undefined;
}

export interface ParsedText {
  /** Undefined when the text cannot be read at all. */
  readonly data: unknown;
  readonly spellings: ReadonlyMap<string, string>;
  readonly faults: readonly FileFault[];
}

export interface SourceFile {
  /** Relative to the definition folder, with forward slashes. */
  readonly file: string;
  readonly text: string;
}

export function isJson(file: string): boolean {
  return file.endsWith(".json");
}

export function documentOf(file: string, parsed: ParsedText): Document {
  return { file, data: parsed.data, spellings: parsed.spellings, unchanging: true };
}
