import type { TextFault } from "../problems/index.ts";
import { isName, limits, memo, nameRule, sentenceList } from "../values/index.ts";
import { Cursor } from "./cursor.ts";
import { SyntaxFault } from "./lexer.ts";
import type { Literal } from "./literal.ts";
import { LiteralParser, noLiteral } from "./literal-parser.ts";
import { type OperatorName, operators } from "./operators.ts";
import {
  type AttributeTest,
  type Condition,
  type Group,
  type Operand,
  type PathOperand,
  reservedWords,
} from "./tree.ts";

/** A condition, or what keeps its text from being one. */
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
        help: "move ids to a list, and repeated parts to a cohort",
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

/** Operators by their first word or sign, and what the second word may be. */
const written = new Map<string, ReadonlyMap<string, OperatorName>>();
for (const name of Object.keys(operators) as OperatorName[]) {
  if (name === "is-true") continue;
  const [first, second = ""] = name.split(" ") as [string, string?];
  written.set(first, new Map([...(written.get(first) ?? []), [second, name]]));
}

/** Recursive descent, one method a rule of the grammar. */
export class Parser {
  readonly #cursor: Cursor;
  readonly #literals: LiteralParser;
  #brackets = 0;

  constructor(source: string) {
    this.#cursor = new Cursor(source);
    this.#literals = new LiteralParser(this.#cursor);
  }

  condition(): Condition {
    if (this.#cursor.atEnd()) {
      throw new SyntaxFault("condition-empty", { start: 0, end: 0 }, "This condition is empty.", {
        help: "leave the key out if everyone is meant",
      });
    }
    const condition = this.#or();
    if (!this.#cursor.atEnd()) this.#cursor.unexpected("“and”, “or” or the end of the condition");
    return condition;
  }

  wholePath(): PathOperand {
    const path = this.#path();
    if (!this.#cursor.atEnd()) this.#cursor.unexpected("the end of the path");
    return path;
  }

  #or(): Condition {
    const first = this.#and();
    if (!this.#cursor.isWord("or")) return first;
    this.#cursor.next();
    const parts = [first, this.#and()];
    while (this.#cursor.takeWord("or")) parts.push(this.#and());
    return group("or", parts);
  }

  #and(): Condition {
    const first = this.#unary();
    if (!this.#cursor.isWord("and")) return first;
    this.#cursor.next();
    const parts = [first, this.#unary()];
    while (this.#cursor.takeWord("and")) parts.push(this.#unary());
    return group("and", parts);
  }

  #unary(): Condition {
    const { start } = this.#cursor;
    if (this.#cursor.isWord("not")) {
      this.#cursor.next();
      const part = this.#unary();
      return { kind: "not", part, start, end: part.end };
    }
    if (this.#cursor.isSymbol("(")) return this.#bracketed(start);
    return this.#test();
  }

  #bracketed(start: number): Condition {
    if (++this.#brackets > limits.depth) {
      throw new SyntaxFault("condition-too-deep", { start, end: start + 1 }, "Brackets are nested too deeply.", {
        expected: `at most ${limits.depth} levels`,
        help: "name a part of the condition as a cohort",
      });
    }
    this.#cursor.next();
    const inner = this.#or();
    if (!this.#cursor.isSymbol(")")) this.#cursor.unexpected("“and”, “or” or “)”");
    const { end } = this.#cursor;
    this.#cursor.next();
    this.#brackets--;
    return { ...inner, start, end };
  }

  #test(): Condition {
    const cursor = this.#cursor;
    const { start } = cursor;
    if (cursor.kind === "reference" && cursor.text !== "flag") {
      const kind = cursor.text as "cohort" | "window";
      const name = this.#referencedName();
      return { kind, name, start, end: cursor.previousEnd };
    }
    const operand = this.#operand();
    return this.#afterOperand(operand, start);
  }

  #afterOperand(operand: Operand, start: number): AttributeTest {
    const { operator, literal } = this.#operatorAndLiteral(operand);
    const end = literal.kind === "none" ? this.#cursor.previousEnd : literal.end;
    return { kind: "test", operator, operand, literal, start, end };
  }

  #operatorAndLiteral(operand: Operand): { operator: OperatorName; literal: Literal } {
    const cursor = this.#cursor;
    const names = cursor.kind === "symbol" || cursor.kind === "word" ? written.get(cursor.text) : undefined;
    if (names !== undefined) {
      cursor.next();
      const operator = names.get("") ?? this.#secondWord(names);
      return { operator, literal: this.#literals.literal(operators[operator].takes, operator, operand) };
    }
    const standsAlone = operand.kind === "flag" || (operand.kind === "path" && !operand.lower);
    if (standsAlone && this.#endsTest()) return { operator: "is-true", literal: noLiteral(operand) };
    return this.#cursor.unexpected(`an operator: ${operatorList}`);
  }

  /** The operators of two words, such as “is missing”. */
  #secondWord(names: ReadonlyMap<string, OperatorName>): OperatorName {
    const operator = this.#cursor.kind === "word" ? names.get(this.#cursor.text) : undefined;
    if (operator === undefined)
      this.#cursor.unexpected(
        sentenceList(
          [...names.keys()].map((word) => `“${word}”`),
          "or",
        ),
      );
    this.#cursor.next();
    return operator;
  }

  #endsTest(): boolean {
    return (
      this.#cursor.atEnd() || this.#cursor.isSymbol(")") || this.#cursor.isWord("and") || this.#cursor.isWord("or")
    );
  }

  #operand(): Operand {
    const cursor = this.#cursor;
    const { start } = cursor;
    if (cursor.kind === "reference") {
      const name = this.#referencedName();
      return { kind: "flag", name, start, end: cursor.previousEnd };
    }
    if (this.#cursor.isWord("environment")) {
      cursor.next();
      return { kind: "environment", start, end: cursor.previousEnd };
    }
    if (this.#cursor.isWord("lower")) {
      cursor.next();
      if (!this.#cursor.isSymbol("(")) this.#cursor.unexpected("“(” and an attribute, as in lower(email)");
      cursor.next();
      const path = this.#path();
      if (!this.#cursor.isSymbol(")")) this.#cursor.unexpected("“)”");
      cursor.next();
      return { ...path, lower: true, start, end: cursor.previousEnd };
    }
    return this.#path();
  }

  #referencedName(): string {
    const { text, name, start, end } = this.#cursor;
    if (!isName(name)) {
      throw new SyntaxFault("name-invalid", { start, end }, `“${name}” cannot be the name of a ${text}.`, {
        found: name,
        expected: nameRule,
      });
    }
    this.#cursor.next();
    return name;
  }

  #path(): PathOperand {
    const cursor = this.#cursor;
    const { start } = cursor;
    const first = this.#cursor.isSymbol("[") ? this.#bracketSegment() : this.#segment();
    let next = this.#nextSegment();
    // Most paths have one or two parts; lists that grow would take several times their room.
    const path = next === undefined ? [first] : [first, next];
    while (next !== undefined) {
      next = this.#nextSegment();
      if (next !== undefined) path.push(next);
    }
    return { kind: "path", path, lower: false, start, end: cursor.previousEnd };
  }

  /** The part that follows right behind the one before, if there is one. */
  #nextSegment(): string | undefined {
    const cursor = this.#cursor;
    if (cursor.start !== cursor.previousEnd) return undefined;
    if (this.#cursor.isSymbol("[")) return this.#bracketSegment();
    if (!this.#cursor.isSymbol(".")) return undefined;
    const dot = cursor.end;
    cursor.next();
    if (cursor.start !== dot) this.#cursor.unexpected("the next part of the path right after “.”");
    return this.#segment();
  }

  #segment(): string {
    const cursor = this.#cursor;
    if (cursor.kind !== "word") this.#cursor.unexpected("the name of an attribute");
    const word = cursor.text;
    if (reservedWords.has(word)) {
      throw new SyntaxFault("condition-syntax", cursor, `“${word}” stands where an attribute is expected.`, {
        found: word,
        expected: "the name of an attribute, a cohort:name, a window:name or “(”",
        help: `an attribute of that name is written ["${word}"]`,
      });
    }
    cursor.next();
    return word;
  }

  #bracketSegment(): string {
    const cursor = this.#cursor;
    cursor.next();
    if (cursor.kind !== "text") this.#cursor.unexpected('the name of an attribute in quotes, as in claims["a name"]');
    const name = cursor.text;
    cursor.next();
    if (!this.#cursor.isSymbol("]")) this.#cursor.unexpected("“]”");
    cursor.next();
    return name;
  }
}

function group(kind: Group["kind"], parts: readonly Condition[]): Group {
  return { kind, parts, start: parts[0]!.start, end: parts.at(-1)!.end };
}
