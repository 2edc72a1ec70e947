import { Lexer, reservedInCapitals, SyntaxFault } from "./lexer.ts";

/** The token at hand, and what may be asked of it. */
export class Cursor extends Lexer {
  atEnd(): boolean {
    return this.kind === "end";
  }

  isWord(word: string): boolean {
    return this.kind === "word" && this.text === word;
  }

  takeWord(word: string): boolean {
    const stands = this.isWord(word);
    if (stands) this.next();
    return stands;
  }

  isSymbol(symbol: string): boolean {
    return this.kind === "symbol" && this.text === symbol;
  }

  unexpected(expected: string, hint?: string): never {
    const { kind, text, name, start, end } = this;
    const found =
      kind === "end"
        ? "the end"
        : kind === "text"
          ? JSON.stringify(text)
          : kind === "reference"
            ? `${text}:${name}`
            : text;
    const capitals = kind === "word" ? reservedInCapitals(text) : undefined;
    throw new SyntaxFault(
      "condition-syntax",
      { start, end: Math.max(end, start) },
      `Found ${quoteFound(found, kind)} here.`,
      {
        found,
        expected,
        help: hint ?? helpFor(kind, capitals),
      },
    );
  }
}

function helpFor(kind: string, capitals: string | undefined): string | undefined {
  if (capitals) return `write ${capitals}`;
  return kind === "text" ? "an attribute stands before the operator, its value after it" : undefined;
}

function quoteFound(found: string, kind: string): string {
  return kind === "end" ? "the end of the text" : kind === "text" ? `the text ${found}` : `“${found}”`;
}
