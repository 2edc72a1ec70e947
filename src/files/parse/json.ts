import { type Node, type ParseError, parseTree, printParseErrorCode, visit } from "jsonc-parser";
import type { Path } from "../../problems/index.ts";
import { isSpellingKept } from "../../source/index.ts";
import { alignScalar } from "../places/align.ts";
import { glanceAtJson } from "./json-glance.ts";
import type { FileFault, Locator, ParsedText, TextRange } from "./parsed-file.ts";

const strict = { disallowComments: true, allowTrailingComma: false };

/** Reads strict JSON; unlike `JSON.parse` it refuses keys that stand twice. */
export function parseJson(text: string): ParsedText {
  const spellings = new Map<string, string>();
  const { fault, members, hasPlainNumbers } = glanceAtJson(text);
  if (fault) return { data: undefined, spellings, faults: [fault] };
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch (error) {
    return { data: undefined, spellings, faults: syntaxFaults(text, error) };
  }
  // Nearly every file has nothing that a closer look could find.
  if (hasPlainNumbers && members === membersIn(data)) return { data, spellings, faults: [] };
  const faults = lookCloser(text, spellings);
  return { data: faults.length > 0 ? undefined : data, spellings, faults };
}

/** How many members the objects of data have; fewer than were written where a key stood twice. */
function membersIn(data: unknown): number {
  if (typeof data !== "object" || data === null) return 0;
  const values: unknown[] = Array.isArray(data) ? data : Object.values(data);
  let members = Array.isArray(data) ? 0 : values.length;
  for (const value of values) if (typeof value === "object") members += membersIn(value);
  return members;
}

function syntaxFaults(text: string, error: unknown): FileFault[] {
  const errors: ParseError[] = [];
  parseTree(text, errors, strict);
  if (errors.length === 0) {
    const message = error instanceof Error ? error.message : String(error);
    return [{ code: "json-syntax", range: { start: 0, end: 1 }, message: `This is not valid JSON: ${message}.` }];
  }
  return errors.slice(0, 20).map(({ error: code, offset, length }) => ({
    code: "json-syntax" as const,
    range: { start: offset, end: offset + Math.max(length, 1) },
    message: `This is not valid JSON: ${wordsOf(printParseErrorCode(code))}.`,
    found: text.slice(offset, offset + Math.min(Math.max(length, 1), 40)),
  }));
}

/** "CloseBraceExpected" → "close brace expected" */
function wordsOf(code: string): string {
  return code.replace(/([a-z])([A-Z])/g, "$1 $2").toLowerCase();
}

function lookCloser(text: string, spellings: Map<string, string>): FileFault[] {
  const faults: FileFault[] = [];
  const open: Map<string, TextRange>[] = [];
  visit(
    text,
    {
      onObjectBegin: () => void open.push(new Map()),
      onObjectEnd: () => void open.pop(),
      onObjectProperty: (key, offset, length) => {
        const range = { start: offset, end: offset + length };
        const earlier = open.at(-1)!.get(key);
        if (earlier) faults.push(duplicate(key, range, earlier));
        open.at(-1)!.set(key, range);
      },
      onLiteralValue: (value, offset, length, _line, _column, path) => {
        const source = text.slice(offset, offset + length);
        if (typeof value !== "number") return;
        if (!Number.isFinite(value)) faults.push(notFinite(source, offset));
        if (isSpellingKept(value, source, true)) spellings.set(pointer(path()), source);
      },
    },
    strict,
  );
  return faults;
}

function duplicate(key: string, range: TextRange, earlier: TextRange): FileFault {
  return {
    code: "duplicate-key",
    range,
    message: `The key “${key}” stands twice in one object.`,
    found: key,
    expected: "each key once",
    related: { range: earlier, message: "the first one" },
  };
}

function notFinite(source: string, offset: number): FileFault {
  return {
    code: "number-not-finite",
    range: { start: offset, end: offset + source.length },
    message: "This number is not finite.",
    found: source,
  };
}

function pointer(path: Path): string {
  return path.map((step) => `/${String(step).replace(/~/g, "~0").replace(/\//g, "~1")}`).join("");
}

export function locateJson(text: string): Locator {
  const root = parseTree(text, [], strict);
  const members = new WeakMap<Node, ReadonlyMap<string | number, Node>>();
  /** Each object is gone through once, however many of its members are looked for. */
  const membersOf = (node: Node) => {
    const known = members.get(node) ?? childrenByStep(node);
    members.set(node, known);
    return known;
  };
  return {
    locate: (path, part, span) => {
      if (!root) return { start: 0, end: 0 };
      let node = root;
      let found = 0;
      for (const step of path) {
        const next = membersOf(node).get(step);
        if (!next) break;
        node = next;
        found++;
      }
      return rangeIn(text, node, part === "key" || found < path.length, span);
    },
    after: () => "",
  };
}

function childrenByStep({ type, children = [] }: Node): ReadonlyMap<string | number, Node> {
  if (type === "array") return new Map(children.map((child, i) => [i, child]));
  const members = new Map<string | number, Node>();
  if (type !== "object") return members;
  for (const { children: [key, value] = [] } of children)
    if (key && value && !members.has(key.value as string)) members.set(key.value as string, value);
  return members;
}

/** The range of a value, or of its key where that is asked for and there is one. */
function rangeIn(text: string, node: Node, wantsKey: boolean, span: TextRange | undefined): TextRange {
  const key = wantsKey && node.parent?.type === "property" ? node.parent.children![0]! : undefined;
  const { offset, length } = key ?? node;
  const range = { start: offset, end: offset + length };
  if (span && !key && typeof node.value === "string") return alignScalar(text, range, node.value, span);
  return oneLine(text, range);
}

function oneLine(text: string, { start, end }: TextRange): TextRange {
  const lineEnd = text.indexOf("\n", start);
  return { start, end: lineEnd < 0 ? end : Math.min(end, lineEnd) };
}
