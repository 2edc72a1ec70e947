import type { TimeLiteral, VersionLiteral } from "../values/index.ts";

/** Offsets into the condition's text, in UTF-16 units; the end is not included. */
export interface Spanned {
  readonly start: number;
  readonly end: number;
}

export type Scalar = string | number | boolean;

/** What stands behind an operator. */
export type Literal =
  | ({ readonly kind: "none" } & Spanned)
  | ({ readonly kind: "text"; readonly value: string } & Spanned)
  | ({ readonly kind: "number"; readonly value: number; readonly source: string } & Spanned)
  | ({ readonly kind: "yes-no"; readonly value: boolean } & Spanned)
  | ({ readonly kind: "version"; readonly value: VersionLiteral } & Spanned)
  | ({ readonly kind: "time"; readonly value: TimeLiteral } & Spanned)
  | ({ readonly kind: "list"; readonly items: readonly ScalarLiteral[] } & Spanned)
  | ({ readonly kind: "regex"; readonly pattern: string; readonly ignoreCase: boolean } & Spanned);

export type ScalarLiteral = Extract<Literal, { kind: "text" | "number" | "yes-no" }>;
export type TextLiteral = Extract<Literal, { kind: "text" }>;

/** The texts that a literal names. */
export function textsOf(literal: Literal): readonly TextLiteral[] {
  if (literal.kind === "text") return [literal];
  if (literal.kind !== "list") return [];
  return literal.items.filter((item) => item.kind === "text");
}

export function scalarOf(literal: Literal): Scalar {
  if (literal.kind === "text" || literal.kind === "number" || literal.kind === "yes-no") return literal.value;
  throw new TypeError(`a ${literal.kind} is not a scalar`);
}

export function itemsOf(literal: Literal): readonly Scalar[] {
  return literal.kind === "list" ? literal.items.map((item) => item.value) : [scalarOf(literal)];
}

/** The literal with its texts in lower case, each by itself; a regular expression takes either case. */
export function inLowerCase(literal: Literal): Literal {
  switch (literal.kind) {
    case "text":
      return { ...literal, value: literal.value.toLowerCase() };
    case "list":
      return { ...literal, items: literal.items.map((item) => inLowerCase(item) as ScalarLiteral) };
    case "regex":
      return { ...literal, ignoreCase: true };
    default:
      return literal;
  }
}
