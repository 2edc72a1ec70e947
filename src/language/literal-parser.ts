import { intern, parseTime, parseVersion, patternFault } from "../values/index.ts";
import type { Cursor } from "./cursor.ts";
import { SyntaxFault } from "./lexer.ts";
import type { Literal, ScalarLiteral } from "./literal.ts";
import type { OperatorName, Takes } from "./operators.ts";
import { type Operand, reservedWords } from "./tree.ts";

const leadingZero = /^-?0[0-9]/;

/** What stands behind an operator. */
export class LiteralParser {
  readonly #cursor: Cursor;

  constructor(cursor: Cursor) {
    this.#cursor = cursor;
  }

  literal(takes: Takes, operator: OperatorName, operand: Operand): Literal {
    switch (takes) {
      case "nothing":
        return noLiteral(operand);
      case "comparand":
      case "ordered":
        return this.#comparand(operator, takes);
      case "list":
        return this.#list();
      case "scalar":
        return this.#scalar("a text, a number, true or false");
      case "text":
        return this.#textLiteral();
      case "regex":
        return this.#regex();
    }
  }

  #comparand(operator: OperatorName, takes: "comparand" | "ordered"): Literal {
    const { kind, start, end } = this.#cursor;
    if (kind === "version" || kind === "time") return this.#versionOrTime(kind);
    if (takes === "comparand") {
      return this.#scalar("a text, a number, true, false, a version (v4.2) or a time (2026-12-01T09:00Z)");
    }
    if (kind === "number") return this.#number();
    if (kind === "text") {
      throw new SyntaxFault("condition-syntax", { start, end }, `“${operator}” does not order texts.`, {
        found: "a text",
        expected: "a number, a version (v4.2) or a time (2026-12-01T09:00Z)",
        help: parseVersion(this.#cursor.text)
          ? `write v${this.#cursor.text.replace(/^v/, "")} without quotes`
          : undefined,
      });
    }
    return this.#cursor.unexpected("a number, a version (v4.2) or a time (2026-12-01T09:00Z)");
  }

  #versionOrTime(kind: "version" | "time"): Literal {
    const { text, start, end } = this.#cursor;
    this.#cursor.next();
    if (kind === "version") {
      const value = parseVersion(text);
      if (value) return { kind, value, start, end };
      throw new SyntaxFault("condition-syntax", { start, end }, `“${text}” is not a valid version.`, {
        found: text,
        expected: "a semantic version such as v4.2.0 or v4.2.0-beta.1",
      });
    }
    const epoch = parseTime(text);
    if (!Number.isNaN(epoch)) return { kind, value: { source: text, epoch }, start, end };
    throw new SyntaxFault("condition-syntax", { start, end }, `“${text}” is not an instant.`, {
      found: text,
      expected: "an existing day, a time and “Z” or an offset: 2026-12-01T09:00Z, 2026-12-01T09:00:30.5+01:00",
      help: timeHelp(text),
    });
  }

  #scalar(expected: string): ScalarLiteral {
    const { kind, text, start, end } = this.#cursor;
    if (kind === "text") return this.#textLiteral();
    if (kind === "number") return this.#number();
    if (kind === "word" && (text === "true" || text === "false")) {
      this.#cursor.next();
      return { kind: "yes-no", value: text === "true", start, end };
    }
    const isBare = kind === "word" && !reservedWords.has(text);
    return this.#cursor.unexpected(expected, isBare ? `write "${text}" if the text is meant` : undefined);
  }

  #textLiteral(): Extract<ScalarLiteral, { kind: "text" }> {
    const { kind, text, start, end } = this.#cursor;
    if (kind !== "text") this.#cursor.unexpected("a text in quotes");
    this.#cursor.next();
    return { kind: "text", value: intern(text), start, end };
  }

  #number(): Extract<ScalarLiteral, { kind: "number" }> {
    const { text, start, end } = this.#cursor;
    const value = Number(text);
    if (leadingZero.test(text) || !Number.isFinite(value)) {
      throw new SyntaxFault("condition-syntax", { start, end }, `“${text.slice(0, 40)}” is not a number here.`, {
        found: text.slice(0, 40),
        expected: Number.isFinite(value) ? "no leading zeros" : "a number that a double can hold",
        help: Number.isFinite(value) ? `write ${value}, or "${text}" if a text is meant` : undefined,
      });
    }
    this.#cursor.next();
    return { kind: "number", value, source: text, start, end };
  }

  #list(): Literal {
    const cursor = this.#cursor;
    const { start } = cursor;
    if (!this.#cursor.isSymbol("[")) this.#cursor.unexpected('a list, as in ["foot", "vehicle"]');
    cursor.next();
    if (this.#cursor.isSymbol("]")) {
      throw new SyntaxFault("condition-syntax", { start, end: cursor.end }, "This list is empty.", {
        expected: "at least one value",
      });
    }
    const items = [this.#scalar("a text, a number, true or false")];
    while (this.#cursor.isSymbol(",")) {
      cursor.next();
      items.push(this.#scalar("a text, a number, true or false"));
    }
    if (!this.#cursor.isSymbol("]")) this.#cursor.unexpected("“,” or “]”");
    const { end } = cursor;
    cursor.next();
    refuseMixture(items);
    return { kind: "list", items, start, end };
  }

  #regex(): Literal {
    const cursor = this.#cursor;
    if (!this.#cursor.isSymbol("/"))
      this.#cursor.unexpected("a regular expression between slashes, as in /^TH-[0-9]+/");
    const { start } = cursor;
    const { pattern, ignoreCase } = cursor.regex();
    const { end } = cursor;
    const fault = patternFault(pattern, ignoreCase);
    if (fault !== undefined) {
      throw new SyntaxFault("regex-invalid", { start, end }, `This regular expression cannot be read: ${fault}.`, {
        found: cursor.source.slice(start, end),
        expected: "RE2 syntax (no look-around, no back references)",
      });
    }
    cursor.next();
    return { kind: "regex", pattern, ignoreCase, start, end };
  }
}

export function noLiteral({ end }: Operand): Literal {
  return { kind: "none", start: end, end };
}

function refuseMixture(items: readonly ScalarLiteral[]): void {
  const odd = items.find((item) => item.kind !== items[0]!.kind);
  if (!odd) return;
  throw new SyntaxFault("mixed-list", odd, "All values of a list have one type.", {
    found: `a ${odd.kind} in a list that begins with a ${items[0]!.kind}`,
    expected: `only ${items[0]!.kind === "yes-no" ? "true and false" : `${items[0]!.kind}s`}`,
  });
}

function timeHelp(text: string): string | undefined {
  if (/^[0-9-]{10}$/.test(text)) return `write ${text}T00:00Z, or the offset that is meant`;
  if (!Number.isNaN(parseTime(`${text}Z`))) return `write ${text}Z for UTC, or an offset such as ${text}+01:00`;
  return undefined;
}
