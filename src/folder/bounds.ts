import { CST } from "yaml";
import { limits } from "../values/index.ts";
import type { FileFault } from "./parsed-file.ts";

/** Thrown while a text is being parsed, before a tree of it stands. */
export class OutOfBounds extends Error {
  readonly fault: FileFault;

  constructor(fault: FileFault) {
    super(fault.message);
    this.fault = fault;
  }
}

/**
 * Nesting beyond this is refused before a tree stands. It is counted roughly, and so twice as much is let through: the
 * exact limit is kept on the tree.
 */
const roughDepth = 2 * limits.depth + 2;

/** Hands the lexemes of a YAML text on, as long as they nest no deeper and are no more than they may be. */
export function* boundedLexemes(lexemes: Iterable<string>): Generator<string> {
  let [offset, column, nodes, flow] = [0, 0, 0, 0];
  /** The columns at which block structures that are still open began. */
  const blocks: number[] = [];
  let key = 0;
  const open = (at: number) => {
    while (blocks.length > 0 && blocks.at(-1)! > at) blocks.pop();
    if (blocks.at(-1) !== at) blocks.push(at);
  };
  for (const lexeme of lexemes) {
    const type = CST.tokenType(lexeme);
    switch (type) {
      case "flow-map-start":
      case "flow-seq-start":
        flow++;
        nodes++;
        break;
      case "flow-map-end":
      case "flow-seq-end":
        flow = Math.max(0, flow - 1);
        break;
      case "seq-item-ind":
      case "explicit-key-ind":
        nodes++;
        if (flow === 0) open(column);
        break;
      case "map-value-ind":
        if (flow === 0) open(key);
        break;
      case "scalar":
      case "alias":
      case "anchor":
      case "tag":
        nodes++;
        key = column;
        break;
    }
    if (flow + blocks.length > roughDepth) throw new OutOfBounds(tooDeep(offset));
    if (nodes > limits.nodes) throw new OutOfBounds(tooManyNodes(offset));
    yield lexeme;
    // What the lexer puts in between by itself stands nowhere in the text.
    if (isMark(lexeme)) continue;
    const lineEnd = lexeme.lastIndexOf("\n");
    column = lineEnd < 0 ? column + lexeme.length : lexeme.length - lineEnd - 1;
    offset += lexeme.length;
  }
}

function isMark(lexeme: string): boolean {
  return lexeme === CST.DOCUMENT || lexeme === CST.FLOW_END || lexeme === CST.SCALAR;
}

const quote = 0x22;
const backslash = 0x5c;
const minus = 0x2d;
const zero = 0x30;
const nine = 0x39;

/** What can be told of a JSON text without a tree. */
export interface JsonGlance {
  /** What it has too much of. */
  readonly fault?: FileFault;
  /** How many members its objects are written with, keys that stand twice counted twice. */
  readonly members: number;
  /** Whether each of its numbers is spelt as JavaScript would spell it, and kept exactly. */
  readonly hasPlainNumbers: boolean;
}

/** Goes through a JSON text once. What it tells of a text that is no JSON means nothing. */
export function glanceAtJson(text: string): JsonGlance {
  let [depth, nodes, members, hasPlainNumbers] = [0, 0, 0, true];
  const faulty = (fault: FileFault): JsonGlance => ({ fault, members, hasPlainNumbers });
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code === minus || (code >= zero && code <= nine)) {
      const end = endOfNumber(text, i);
      hasPlainNumbers &&= isPlainNumber(text.slice(i, end));
      i = end - 1;
      continue;
    }
    switch (code) {
      case quote:
        i = endOfText(text, i + 1);
        break;
      case 0x3a: // :
        members++;
        break;
      case 0x5b: // [
      case 0x7b: // {
        nodes++;
        if (++depth > limits.depth) return faulty(tooDeep(i));
        break;
      case 0x5d: // ]
      case 0x7d: // }
        depth--;
        break;
      case 0x2c: // ,
        if (++nodes > limits.nodes) return faulty(tooManyNodes(i));
        break;
    }
  }
  return { members, hasPlainNumbers };
}

/** Behind the digits and signs of a number, in whatever order they stand. */
function endOfNumber(text: string, from: number): number {
  let i = from + 1;
  while (i < text.length && partsOfNumbers.includes(text[i]!)) i++;
  return i;
}

const partsOfNumbers = "0123456789+-.eE";

/** Whole numbers of up to fifteen digits are; the others have to be looked at. */
function isPlainNumber(source: string): boolean {
  return source !== "-0" && /^-?(?:0|[1-9][0-9]{0,14})$/.test(source);
}

/** Where the quote stands that ends a text; its escapes are passed over. */
function endOfText(text: string, from: number): number {
  let i = from;
  while (i < text.length && text.charCodeAt(i) !== quote) i += text.charCodeAt(i) === backslash ? 2 : 1;
  return i;
}

function tooDeep(offset: number): FileFault {
  return {
    code: "too-deep",
    range: { start: offset, end: offset + 1 },
    message: "The file is nested too deeply here.",
    expected: `at most ${limits.depth} levels`,
  };
}

function tooManyNodes(offset: number): FileFault {
  return {
    code: "too-many-nodes",
    range: { start: offset, end: offset + 1 },
    message: "The file holds more values than can be read.",
    expected: `at most ${limits.nodes}`,
    help: "split it, or move ids to a list file",
  };
}
