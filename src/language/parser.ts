import type { TextFault } from "../problems/index.ts";
import {
  intern,
  isName,
  limits,
  memo,
  nameRule,
  parseTime,
  parseVersion,
  patternFault,
  sentenceList,
} from "../values/index.ts";
import { Lexer, reservedInCapitals, SyntaxFault } from "./lexer.ts";
import type { Literal, ScalarLiteral } from "./literal.ts";
import { type OperatorName, operators, type Takes } from "./operators.ts";
import {
  type AttributeTest,
  type Condition,
  type Group,
  type Operand,
  type PathOperand,
  reservedWords,
} from "./tree.ts";

export type ParsedCondition =
  | { readonly condition: Condition; readonly fault?: undefined }
  | { readonly condition?: undefined; readonly fault: TextFault };

export type ParsedPath =
  | { readonly path: readonly string[]; readonly fault?: undefined }
  | { readonly path?: undefined; readonly fault: TextFault };

/**
 * Reads a condition. It never throws: what cannot be read comes back as a fault with its place.
 *
 * @example parseCondition('trips > 100 and not contractor').condition?.kind // "and"
 */
export function parseCondition(source: string): ParsedCondition {
  return attempt(source, (parser) => parser.condition());
}

/** Reads an attribute path on its own, as in `by` and `of`: `account.id`, `claims["quay:groups"]`. */
export const parsePath: (source: string) => ParsedPath = memo(1_000, readPath);

function readPath(source: string): ParsedPath {
  const parsed = attempt(source, (parser) => parser.wholePath());
  return parsed.fault ? { fault: parsed.fault } : { path: parsed.condition.path };
}

function attempt<T>(
  source: string,
  read: (parser: Parser) => T,
): { condition: T; fault?: undefined } | { condition?: undefined; fault: TextFault } {
  try {
    if (source.length > limits.conditionCharacters && [...source].length > limits.conditionCharacters) {
      throw new SyntaxFault("condition-too-long", { start: 0, end: 1 }, "This condition is too long.", {
        found: `${source.length} characters`,
        expected: `at most ${limits.conditionCharacters}`,
        help: "move ids to a cohort with a list file, and repeated parts to a cohort with a condition",
      });
    }
    return { condition: read(new Parser(source)) };
  } catch (error) {
    if (!(error instanceof SyntaxFault)) throw error;
    const { code, span, message, found, expected, help } = error;
    return { fault: { code, span, message, found, expected, help } };
  }
}

const operatorList = Object.keys(operators)
  .filter((name) => name !== "is-true")
  .join(", ");

const leadingZero = /^-?0[0-9]/;

/** Operators by their first word or sign, and what the second word may be. */
const written = new Map<string, ReadonlyMap<string, OperatorName>>();
for (const name of Object.keys(operators) as OperatorName[]) {
  if (name === "is-true") continue;
  const [first, second = ""] = name.split(" ") as [string, string?];
  written.set(first, new Map([...(written.get(first) ?? []), [second, name]]));
}

/** Recursive descent, one method a rule of the grammar. */
class Parser {
  readonly #lexer: Lexer;
  #brackets = 0;

  constructor(source: string) {
    this.#lexer = new Lexer(source);
  }

  condition(): Condition {
    if (this.#atEnd()) {
      throw new SyntaxFault("condition-empty", { start: 0, end: 0 }, "This condition is empty.", {
        help: "leave the key out if everyone is meant",
      });
    }
    const condition = this.#or();
    if (!this.#atEnd()) this.#unexpected("“and”, “or” or the end of the condition");
    return condition;
  }

  wholePath(): PathOperand {
    const path = this.#path();
    if (!this.#atEnd()) this.#unexpected("the end of the path");
    return path;
  }

  #or(): Condition {
    const first = this.#and();
    if (!this.#isWord("or")) return first;
    this.#lexer.next();
    const parts = [first, this.#and()];
    while (this.#takeWord("or")) parts.push(this.#and());
    return group("or", parts);
  }

  #and(): Condition {
    const first = this.#unary();
    if (!this.#isWord("and")) return first;
    this.#lexer.next();
    const parts = [first, this.#unary()];
    while (this.#takeWord("and")) parts.push(this.#unary());
    return group("and", parts);
  }

  #unary(): Condition {
    const { start } = this.#lexer;
    if (this.#isWord("not")) {
      this.#lexer.next();
      const part = this.#unary();
      return { kind: "not", part, start, end: part.end };
    }
    if (this.#isSymbol("(")) return this.#bracketed(start);
    return this.#test();
  }

  #bracketed(start: number): Condition {
    if (++this.#brackets > limits.depth) {
      throw new SyntaxFault("condition-too-deep", { start, end: start + 1 }, "Brackets are nested too deeply.", {
        expected: `at most ${limits.depth} levels`,
        help: "name a part of the condition as a cohort",
      });
    }
    this.#lexer.next();
    const inner = this.#or();
    if (!this.#isSymbol(")")) this.#unexpected("“and”, “or” or “)”");
    const { end } = this.#lexer;
    this.#lexer.next();
    this.#brackets--;
    return { ...inner, start, end };
  }

  #test(): Condition {
    const lexer = this.#lexer;
    const { start } = lexer;
    if (lexer.kind === "reference" && lexer.text !== "flag") {
      const kind = lexer.text as "cohort" | "window";
      const name = this.#referencedName();
      return { kind, name, start, end: lexer.previousEnd };
    }
    const operand = this.#operand();
    return this.#afterOperand(operand, start);
  }

  #afterOperand(operand: Operand, start: number): AttributeTest {
    const { operator, literal } = this.#operatorAndLiteral(operand);
    const end = literal.kind === "none" ? this.#lexer.previousEnd : literal.end;
    return { kind: "test", operator, operand, literal, start, end };
  }

  #operatorAndLiteral(operand: Operand): { operator: OperatorName; literal: Literal } {
    const lexer = this.#lexer;
    const names = lexer.kind === "symbol" || lexer.kind === "word" ? written.get(lexer.text) : undefined;
    if (names !== undefined) {
      lexer.next();
      const operator = names.get("") ?? this.#secondWord(names);
      return { operator, literal: this.#literal(operators[operator].takes, operator, operand) };
    }
    const standsAlone = operand.kind === "flag" || (operand.kind === "path" && !operand.lower);
    if (standsAlone && this.#endsTest()) return { operator: "is-true", literal: noLiteral(operand) };
    return this.#unexpected(`an operator: ${operatorList}`);
  }

  /** The operators of two words, such as “is missing”. */
  #secondWord(names: ReadonlyMap<string, OperatorName>): OperatorName {
    const operator = this.#lexer.kind === "word" ? names.get(this.#lexer.text) : undefined;
    if (operator === undefined)
      this.#unexpected(
        sentenceList(
          [...names.keys()].map((word) => `“${word}”`),
          "or",
        ),
      );
    this.#lexer.next();
    return operator;
  }

  #literal(takes: Takes, operator: OperatorName, operand: Operand): Literal {
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

  #endsTest(): boolean {
    return this.#atEnd() || this.#isSymbol(")") || this.#isWord("and") || this.#isWord("or");
  }

  #operand(): Operand {
    const lexer = this.#lexer;
    const { start } = lexer;
    if (lexer.kind === "reference") {
      const name = this.#referencedName();
      return { kind: "flag", name, start, end: lexer.previousEnd };
    }
    if (this.#isWord("environment")) {
      lexer.next();
      return { kind: "environment", start, end: lexer.previousEnd };
    }
    if (this.#isWord("lower")) {
      lexer.next();
      if (!this.#isSymbol("(")) this.#unexpected("“(” and an attribute, as in lower(email)");
      lexer.next();
      const path = this.#path();
      if (!this.#isSymbol(")")) this.#unexpected("“)”");
      lexer.next();
      return { ...path, lower: true, start, end: lexer.previousEnd };
    }
    return this.#path();
  }

  #referencedName(): string {
    const { text, name, start, end } = this.#lexer;
    if (!isName(name)) {
      throw new SyntaxFault("name-invalid", { start, end }, `“${name}” cannot be the name of a ${text}.`, {
        found: name,
        expected: nameRule,
      });
    }
    this.#lexer.next();
    return name;
  }

  #path(): PathOperand {
    const lexer = this.#lexer;
    const { start } = lexer;
    const first = this.#isSymbol("[") ? this.#bracketSegment() : this.#segment();
    let next = this.#nextSegment();
    // Most paths have one or two parts; lists that grow would take several times their room.
    const path = next === undefined ? [first] : [first, next];
    while (next !== undefined) {
      next = this.#nextSegment();
      if (next !== undefined) path.push(next);
    }
    return { kind: "path", path, lower: false, start, end: lexer.previousEnd };
  }

  /** The part that follows right behind the one before, if there is one. */
  #nextSegment(): string | undefined {
    const lexer = this.#lexer;
    if (lexer.start !== lexer.previousEnd) return undefined;
    if (this.#isSymbol("[")) return this.#bracketSegment();
    if (!this.#isSymbol(".")) return undefined;
    const dot = lexer.end;
    lexer.next();
    if (lexer.start !== dot) this.#unexpected("the next part of the path right after “.”");
    return this.#segment();
  }

  #segment(): string {
    const lexer = this.#lexer;
    if (lexer.kind !== "word") this.#unexpected("the name of an attribute");
    const word = lexer.text;
    if (reservedWords.has(word)) {
      throw new SyntaxFault("condition-syntax", lexer, `“${word}” stands where an attribute is expected.`, {
        found: word,
        expected: "the name of an attribute, a cohort:name, a window:name or “(”",
        help: `an attribute of that name is written ["${word}"]`,
      });
    }
    lexer.next();
    return word;
  }

  #bracketSegment(): string {
    const lexer = this.#lexer;
    lexer.next();
    if (lexer.kind !== "text") this.#unexpected('the name of an attribute in quotes, as in claims["a name"]');
    const name = lexer.text;
    lexer.next();
    if (!this.#isSymbol("]")) this.#unexpected("“]”");
    lexer.next();
    return name;
  }

  #comparand(operator: OperatorName, takes: "comparand" | "ordered"): Literal {
    const { kind, start, end } = this.#lexer;
    if (kind === "version" || kind === "time") return this.#versionOrTime(kind);
    if (takes === "comparand") {
      return this.#scalar("a text, a number, true, false, a version (v4.2) or a time (2026-12-01T09:00Z)");
    }
    if (kind === "number") return this.#number();
    if (kind === "text") {
      throw new SyntaxFault("condition-syntax", { start, end }, `“${operator}” does not order texts.`, {
        found: "a text",
        expected: "a number, a version (v4.2) or a time (2026-12-01T09:00Z)",
        help: parseVersion(this.#lexer.text)
          ? `write v${this.#lexer.text.replace(/^v/, "")} without quotes`
          : undefined,
      });
    }
    return this.#unexpected("a number, a version (v4.2) or a time (2026-12-01T09:00Z)");
  }

  #versionOrTime(kind: "version" | "time"): Literal {
    const { text, start, end } = this.#lexer;
    this.#lexer.next();
    if (kind === "version") {
      const value = parseVersion(text);
      if (value) return { kind, value, start, end };
      throw new SyntaxFault("condition-syntax", { start, end }, `“${text}” is no valid version.`, {
        found: text,
        expected: "a semantic version without leading zeros, such as v4.2.0 or v4.2.0-beta.1",
      });
    }
    const epoch = parseTime(text);
    if (!Number.isNaN(epoch)) return { kind, value: { source: text, epoch }, start, end };
    throw new SyntaxFault("condition-syntax", { start, end }, `“${text}” is no instant.`, {
      found: text,
      expected: "an existing day, a time and “Z” or an offset: 2026-12-01T09:00Z, 2026-12-01T09:00:30.5+01:00",
      help: timeHelp(text),
    });
  }

  #scalar(expected: string): ScalarLiteral {
    const { kind, text, start, end } = this.#lexer;
    if (kind === "text") return this.#textLiteral();
    if (kind === "number") return this.#number();
    if (kind === "word" && (text === "true" || text === "false")) {
      this.#lexer.next();
      return { kind: "yes-no", value: text === "true", start, end };
    }
    const isBare = kind === "word" && !reservedWords.has(text);
    return this.#unexpected(expected, isBare ? `write "${text}" if the text is meant` : undefined);
  }

  #textLiteral(): Extract<ScalarLiteral, { kind: "text" }> {
    const { kind, text, start, end } = this.#lexer;
    if (kind !== "text") this.#unexpected("a text in quotes");
    this.#lexer.next();
    return { kind: "text", value: intern(text), start, end };
  }

  #number(): Extract<ScalarLiteral, { kind: "number" }> {
    const { text, start, end } = this.#lexer;
    const value = Number(text);
    if (leadingZero.test(text) || !Number.isFinite(value)) {
      throw new SyntaxFault("condition-syntax", { start, end }, `“${text.slice(0, 40)}” is no number here.`, {
        found: text.slice(0, 40),
        expected: Number.isFinite(value) ? "no leading zeros" : "a number that a double can hold",
        help: Number.isFinite(value) ? `write ${value}, or "${text}" if a text is meant` : undefined,
      });
    }
    this.#lexer.next();
    return { kind: "number", value, source: text, start, end };
  }

  #list(): Literal {
    const lexer = this.#lexer;
    const { start } = lexer;
    if (!this.#isSymbol("[")) this.#unexpected('a list, as in ["foot", "vehicle"]');
    lexer.next();
    if (this.#isSymbol("]")) {
      throw new SyntaxFault("condition-syntax", { start, end: lexer.end }, "This list is empty.", {
        expected: "at least one value",
      });
    }
    const items = [this.#scalar("a text, a number, true or false")];
    while (this.#isSymbol(",")) {
      lexer.next();
      items.push(this.#scalar("a text, a number, true or false"));
    }
    if (!this.#isSymbol("]")) this.#unexpected("“,” or “]”");
    const { end } = lexer;
    lexer.next();
    refuseMixture(items);
    return { kind: "list", items, start, end };
  }

  #regex(): Literal {
    const lexer = this.#lexer;
    if (!this.#isSymbol("/")) this.#unexpected("a regular expression between slashes, as in /^TH-[0-9]+/");
    const { start } = lexer;
    const { pattern, ignoreCase } = lexer.regex();
    const { end } = lexer;
    const fault = patternFault(pattern, ignoreCase);
    if (fault !== undefined) {
      throw new SyntaxFault("regex-invalid", { start, end }, `This regular expression cannot be read: ${fault}.`, {
        found: lexer.source.slice(start, end),
        expected: "RE2 syntax (no look-around, no back references)",
      });
    }
    lexer.next();
    return { kind: "regex", pattern, ignoreCase, start, end };
  }

  #atEnd(): boolean {
    return this.#lexer.kind === "end";
  }

  #isWord(word: string): boolean {
    return this.#lexer.kind === "word" && this.#lexer.text === word;
  }

  #takeWord(word: string): boolean {
    const stands = this.#isWord(word);
    if (stands) this.#lexer.next();
    return stands;
  }

  #isSymbol(symbol: string): boolean {
    return this.#lexer.kind === "symbol" && this.#lexer.text === symbol;
  }

  #unexpected(expected: string, hint?: string): never {
    const { kind, text, name, start, end } = this.#lexer;
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

function noLiteral({ end }: Operand): Literal {
  return { kind: "none", start: end, end };
}

function group(kind: Group["kind"], parts: readonly Condition[]): Group {
  return { kind, parts, start: parts[0]!.start, end: parts.at(-1)!.end };
}

function quoteFound(found: string, kind: string): string {
  return kind === "end" ? "the end of the text" : kind === "text" ? `the text ${found}` : `“${found}”`;
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
