import { join } from "node:path";
import {
  judgeContent,
  type Loaded,
  LoadedFile,
  type LoadedList,
  packIds,
  parseText,
  readText,
  resultOf,
  suspendedFile,
} from "../../folder/index.ts";
import { listRequests } from "../../reading/index.ts";
import { ToolError } from "../tool-error.ts";

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
export class Workplace {
  /** As it stands with the changes so far. */
  readonly loaded: Loaded;
  /** The new texts so far, by file. */
  readonly texts: ReadonlyMap<string, string>;

  private constructor(loaded: Loaded, texts: ReadonlyMap<string, string>) {
    this.loaded = loaded;
    this.texts = texts;
  }

  /** A folder as it was read, with no change yet. */
  static of(loaded: Loaded): Workplace {
    return new Workplace(loaded, new Map());
  }

  /** The text of a definition file, or of a list; undefined where there is none. */
  async textOf(file: string): Promise<string | undefined> {
    const known = this.texts.get(file) ?? this.loaded.content.files.get(file)?.text;
    if (known !== undefined) return known;
    const list = [...this.loaded.content.lists.values()].find(({ request }) => request.file === file);
    if (list?.path === undefined) return undefined;
    const text = await readText(list.path);
    if (typeof text === "string") return text;
    throw new ToolError(`“${file}” cannot be read: ${text.message}`);
  }

  /** With these files changed as well. */
  async with(changes: readonly FileChange[]): Promise<Workplace> {
    const texts = new Map([...this.texts, ...changes.map(({ file, text }) => [file, text] as const)]);
    const { content } = this.loaded;
    const files = new Map(content.files);
    let { scan } = content;
    for (const { file, text } of changes.filter((each) => !isList(each.file))) {
      const path = join(scan.root ?? "", file);
      const found = files.get(file)?.found ?? { file, path, stamp: "new", size: text.length, changed: 0 };
      files.set(file, LoadedFile.of(found, text, parseText(file, text)));
      if (file === suspendedFile) scan = { ...scan, suspended: found, suspendedIsGone: false };
      else if (!scan.definitions.some((each) => each.file === file))
        scan = { ...scan, definitions: [...scan.definitions, found].sort((a, b) => (a.file < b.file ? -1 : 1)) };
    }
    const lists = new Map(content.lists);
    const documents = scan.definitions.map(({ file }) => files.get(file)!.document);
    for (const request of listRequests(documents, content.tools.memory)) {
      const key = JSON.stringify([request.file, request.column ?? null]);
      const text = texts.get(request.file);
      const isChanged = changes.some(({ file }) => file === request.file);
      if (lists.has(key) && !isChanged) continue;
      lists.set(key, text === undefined ? absent(request) : { ...listOf(text, request), path: lists.get(key)?.path });
    }
    return new Workplace(await judgeContent({ ...content, scan, files, lists }), texts);
  }
}

export function isList(file: string): boolean {
  return /\.(?:csv|txt)$/.test(file);
}

type Request = LoadedList["request"];

function listOf(text: string, request: Request): LoadedList {
  return { request, result: resultOf(packIds(text, request)), stamp: "new", path: undefined };
}

/** A list that is asked for, was not among those read, and has no text here. */
function absent(request: Request): LoadedList {
  const fault = {
    code: "list-missing" as const,
    message: `There is no list file “${request.file}”.`,
    found: request.file,
  };
  return { request, result: { fault }, stamp: undefined, path: undefined };
}
