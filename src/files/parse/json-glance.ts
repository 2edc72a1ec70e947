import { limits } from "../../values/index.ts";
import { tooDeep, tooManyNodes } from "./bounds.ts";
import type { FileFault } from "./parsed-file.ts";

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
