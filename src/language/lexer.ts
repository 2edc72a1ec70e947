import type { ProblemCode } from "../problems/index.ts";
import { reservedWords } from "./tree.ts";

/** What cannot be read in a condition: a problem without its file. */
export class SyntaxFault extends Error {
  readonly code: ProblemCode;
  readonly span: { readonly start: number; readonly end: number };
  readonly found: string | undefined;
  readonly expected: string | undefined;
  readonly help: string | undefined;

  constructor(
    code: ProblemCode,
    span: { start: number; end: number },
    message: string,
    details: { found?: string | undefined; expected?: string | undefined; help?: string | undefined } = {},
  ) {
    super(message);
    this.code = code;
    this.span = span;
    this.found = details.found;
    this.expected = details.expected;
    this.help = details.help;
  }
}

export type TokenKind =
  | "end"
  | "word" // a segment or reserved word; `text` holds it
  | "reference" // cohort:x, window:x, flag:x; `text` holds the kind, `name` the name
  | "symbol" // ( ) [ ] , . == != < <= > >=
  | "text" // `text` holds the decoded value
  | "number"
  | "version"
  | "time";

const isDigit = (c: number) => c >= 48 && c <= 57;
const isLetter = (c: number) => (c >= 97 && c <= 122) || (c >= 65 && c <= 90);
const isBlank = (c: number) => c === 32 || c === 10 || c === 13 || c === 9;
const isWordStart = (c: number) => isLetter(c) || c === 95;
const isWordPart = (c: number) => isLetter(c) || isDigit(c) || c === 95 || c === 45;
const isNamePart = (c: number) => isLetter(c) || isDigit(c) || c === 95 || c === 45 || c === 46;

const escapes: Record<string, string> = {
  '"': '"',
  "'": "'",
  "\\": "\\",
  "/": "/",
  b: "\b",
  f: "\f",
  n: "\n",
  r: "\r",
  t: "\t",
};

/** Words and signs of other languages, with what to write here. */
const foreignSigns: readonly (readonly [string, string])[] = [
  ["&&", "and"],
  ["||", "or"],
  ["<>", "!="],
  ["=", "=="],
  ["!", "not"],
  ["“", '"'],
  ["”", '"'],
  ["„", '"'],
  ["‘", "'"],
  ["’", "'"],
];

/** By the code of their first character; the second of the longer ones is always “=”. */
const twoCharacterSymbols = new Map(["==", "!=", "<=", ">="].map((symbol) => [symbol.charCodeAt(0), symbol]));
const oneCharacterSymbols = new Map([..."()[],./<>"].map((symbol) => [symbol.charCodeAt(0), symbol]));

const timeShape = /[0-9]{4}-[0-9]{2}-[0-9]{2}(?:T[0-9:.]*(?:Z|[+-][0-9:]*)?)?/y;
const versionShape = /v[0-9]+(?:\.[0-9]+(?:\.[0-9]+(?:-[0-9A-Za-z.-]+)?)?)?/y;
const numberShape = /-?[0-9]+(?:\.[0-9]+)?/y;

/** Reads one token at a time; the parser looks at `kind`, `text` and the span of the current one. */
export class Lexer {
  readonly source: string;
  kind: TokenKind = "end";
  text = "";
  name = "";
  start = 0;
  end = 0;
  /** End of the token before, to tell `a.b` from `a .b`. */
  previousEnd = 0;

  constructor(source: string) {
    this.source = source;
    this.next();
  }

  next(): void {
    this.previousEnd = this.end;
    let i = this.end;
    while (isBlank(this.source.charCodeAt(i))) i++;
    this.start = i;
    if (i >= this.source.length) return this.#take("end", "", i);
    const c = this.source.charCodeAt(i);
    if (isWordStart(c)) return this.#word(i, c);
    if (isDigit(c) || (c === 45 && isDigit(this.source.charCodeAt(i + 1)))) return this.#numberOrTime(i);
    if (c === 34 || c === 39) return this.#text(i, c);
    this.#symbol(i, c);
  }

  /** The regular expression that begins at the current `/`. */
  regex(): { pattern: string; ignoreCase: boolean } {
    const { source, start } = this;
    let i = start + 1;
    let pattern = "";
    for (;;) {
      const c = source[i];
      if (c === undefined || c === "\n" || c === "\r") {
        throw new SyntaxFault("condition-syntax", { start, end: i }, "This regular expression has no closing “/”.", {
          expected: "a closing “/” on the same line",
        });
      }
      if (c === "/") break;
      if (c === "\\" && source[i + 1] !== undefined && source[i + 1] !== "\n" && source[i + 1] !== "\r") {
        pattern += source[i + 1] === "/" ? "/" : c + source[i + 1];
        i += 2;
      } else {
        pattern += c;
        i++;
      }
    }
    i++;
    const ignoreCase = source[i] === "i";
    if (ignoreCase) i++;
    if (isNamePart(source.charCodeAt(i))) {
      throw new SyntaxFault(
        "condition-syntax",
        { start: i, end: i + 1 },
        "The only mark after a regular expression is “i”.",
        {
          found: source[i],
          expected: "“i” (upper and lower case alike), or a blank",
        },
      );
    }
    this.end = i;
    return { pattern, ignoreCase };
  }

  #take(kind: TokenKind, text: string, end: number): void {
    this.kind = kind;
    this.text = text;
    this.end = end;
  }

  #word(start: number, first: number): void {
    if (first === 118 && isDigit(this.source.charCodeAt(start + 1))) return this.#version(start);
    let i = start + 1;
    while (isWordPart(this.source.charCodeAt(i))) i++;
    const word = this.source.slice(start, i);
    if (this.source.charCodeAt(i) === 58 && (word === "cohort" || word === "window" || word === "flag")) {
      return this.#reference(word, i + 1);
    }
    this.#take("word", word, i);
  }

  #reference(kind: string, from: number): void {
    let i = from;
    while (isNamePart(this.source.charCodeAt(i))) i++;
    if (i === from) {
      throw new SyntaxFault(
        "condition-syntax",
        { start: this.start, end: from },
        `“${kind}:” needs a name right after it.`,
        {
          expected: `the name of a ${kind}, without a blank before it`,
        },
      );
    }
    this.#take("reference", kind, i);
    this.name = this.source.slice(from, i);
  }

  #version(start: number): void {
    versionShape.lastIndex = start;
    const end = start + (versionShape.exec(this.source)?.[0].length ?? 2);
    this.#refuseGluedLetter(start, end, "version", "v4, v4.2, v4.2.0 or v4.2.0-beta.1");
    this.#take("version", this.source.slice(start, end), end);
  }

  #numberOrTime(start: number): void {
    if (this.source.charCodeAt(start + 4) === 45) {
      timeShape.lastIndex = start;
      const time = timeShape.exec(this.source)?.[0];
      if (time !== undefined) return this.#take("time", time, start + time.length);
    }
    numberShape.lastIndex = start;
    const digits = numberShape.exec(this.source)?.[0] ?? "";
    const end = start + digits.length;
    this.#refuseGluedLetter(start, end, "number", "digits, with at most one decimal point");
    this.#take("number", digits, end);
  }

  #refuseGluedLetter(start: number, end: number, what: string, expected: string): void {
    if (!isNamePart(this.source.charCodeAt(end))) return;
    let i = end;
    while (isNamePart(this.source.charCodeAt(i))) i++;
    const found = this.source.slice(start, i);
    throw new SyntaxFault("condition-syntax", { start, end: i }, `“${found}” is not a ${what}.`, {
      found,
      expected,
      help:
        what === "version"
          ? `“v” and a digit begin a version; an attribute of that name is written ["${found.split(".")[0]}"]`
          : `an attribute whose name begins with a digit is written ["${found}"]`,
    });
  }

  #text(start: number, quote: number): void {
    const { source } = this;
    let value = "";
    let i = start + 1;
    // What stands between two escapes is taken over in one piece.
    let pieceStart = i;
    for (;;) {
      const c = source.charCodeAt(i);
      if (c === quote) break;
      if (i >= source.length || c === 10 || c === 13) {
        throw new SyntaxFault("condition-syntax", { start, end: i }, "This text has no closing quote.", {
          expected: `${source[start]} at the end of the text, on the same line`,
          help: "write \\n for a line break inside a text",
        });
      }
      if (c === 92) {
        const [decoded, length] = this.#escape(i);
        value += source.slice(pieceStart, i) + decoded;
        i += length;
        pieceStart = i;
      } else {
        i++;
      }
    }
    value += source.slice(pieceStart, i);
    this.#take("text", value, i + 1);
    if (!value.isWellFormed()) {
      throw new SyntaxFault("half-surrogate", { start, end: i + 1 }, "This text holds half of a surrogate pair.", {
        expected: "whole characters, such as \\ud83d\\ude00",
      });
    }
  }

  #escape(i: number): [string, number] {
    const letter = this.source[i + 1] ?? "";
    const simple = Object.hasOwn(escapes, letter) ? escapes[letter] : undefined;
    if (simple !== undefined) return [simple, 2];
    const hex = this.source.slice(i + 2, i + 6);
    if (letter === "u" && /^[0-9A-Fa-f]{4}$/.test(hex)) return [String.fromCharCode(Number.parseInt(hex, 16)), 6];
    throw new SyntaxFault("condition-syntax", { start: i, end: i + 2 }, "A text cannot hold this escape.", {
      found: this.source.slice(i, i + 2),
      expected: `one of \\" \\' \\\\ \\/ \\b \\f \\n \\r \\t \\uXXXX`,
      help: "write \\\\ for a backslash",
    });
  }

  #symbol(start: number, c: number): void {
    const second = this.source.charCodeAt(start + 1);
    const two = second === 61 ? twoCharacterSymbols.get(c) : undefined;
    if (two !== undefined) return this.#take("symbol", two, start + 2);
    const one = oneCharacterSymbols.get(c);
    if (one !== undefined && !(one === "<" && second === 62)) return this.#take("symbol", one, start + 1);
    const foreign = foreignSigns.find(([sign]) => this.source.startsWith(sign, start));
    const found = foreign?.[0] ?? String.fromCodePoint(this.source.codePointAt(start)!);
    throw new SyntaxFault("condition-syntax", { start, end: start + found.length }, `“${found}” has no meaning here.`, {
      found,
      help: foreign ? `write ${foreign[1]}` : this.#helpForName(start),
    });
  }

  #helpForName(start: number): string | undefined {
    // Signs alone are a slip of the pen, not a name.
    const word = /[_-]*[\p{L}\p{N}][\p{L}\p{N}_-]*/uy;
    word.lastIndex = start;
    const found = word.exec(this.source)?.[0];
    return found ? `an attribute of that name is written ["${found}"]` : undefined;
  }
}

/** The reserved word that somebody wrote in capitals, if `word` is one. */
export function reservedInCapitals(word: string): string | undefined {
  const lower = word.toLowerCase();
  return lower !== word && reservedWords.has(lower) ? lower : undefined;
}
