import fc from "fast-check";

/** Trees of conditions, made for the tests alone: printed here, answered by the reference interpreter. */
export type Tree =
  | { readonly kind: "and" | "or"; readonly parts: readonly Tree[] }
  | { readonly kind: "not"; readonly part: Tree }
  | { readonly kind: "reference"; readonly to: "cohort" | "window"; readonly name: string }
  | { readonly kind: "test"; readonly operand: OperandTree; readonly operator: string; readonly literal?: LiteralTree };

export type OperandTree =
  | { readonly kind: "path"; readonly path: readonly string[]; readonly lower: boolean }
  | { readonly kind: "flag"; readonly name: string }
  | { readonly kind: "environment" };

export type LiteralTree =
  | { readonly kind: "scalar"; readonly value: string | number | boolean }
  | { readonly kind: "list"; readonly values: readonly (string | number | boolean)[] }
  | { readonly kind: "version"; readonly text: string }
  | { readonly kind: "time"; readonly text: string }
  | { readonly kind: "regex"; readonly pattern: string; readonly ignoreCase: boolean };

const paths = [
  ["plan"],
  ["trips"],
  ["crew"],
  ["tags"],
  ["app", "version"],
  ["since"],
  ["deep", "er", "one"],
  ["in"],
  ["constructor"],
  ["2fa"],
];
const texts = [
  "",
  "foot",
  "Foot",
  "freight",
  "ferry-freight",
  "4.2",
  "v4.2.0",
  "4.10.0-rc.1",
  "2026-12-01T09:00Z",
  "ø",
  "😀",
  "a\nb",
];
const numbers = [0, 1, -1, 2.5, 100, 1764579600000];
const versions = ["v0", "v4", "v4.2", "v4.2.0-beta.2", "v4.10.0"];
const times = ["2026-12-01T09:00Z", "2026-12-01T10:00+01:00", "2025-02-28T23:59:59.999Z"];

export const textValue = fc.constantFrom(...texts);
export const scalarValue = fc.oneof(textValue, fc.constantFrom(...numbers), fc.boolean());

const anyValue: fc.Arbitrary<unknown> = fc.oneof(
  scalarValue,
  fc.array(scalarValue, { maxLength: 3 }),
  fc.constantFrom(
    null,
    undefined,
    Number.NaN,
    Number.POSITIVE_INFINITY,
    5n,
    new Date("2026-12-01T09:00Z"),
    new Date(Number.NaN),
    {},
    () => 1,
  ),
);

/** A context in which every path is there, missing, or of some odd type. */
export const anyContext: fc.Arbitrary<object> = fc
  .array(fc.option(anyValue, { nil: undefined, freq: 4 }), { minLength: paths.length, maxLength: paths.length })
  .map((values) => {
    const context: Record<string, unknown> = {};
    for (const [i, path] of paths.entries()) if (values[i] !== undefined) put(context, path, values[i]);
    return context;
  });

function put(context: Record<string, unknown>, path: readonly string[], value: unknown): void {
  let here = context;
  for (const key of path.slice(0, -1)) {
    here[key] = {};
    here = here[key] as Record<string, unknown>;
  }
  here[path.at(-1)!] = value;
}

export interface Names {
  readonly cohorts: readonly string[];
  readonly windows: readonly string[];
  /** Yes-no flags without variants. */
  readonly flags: readonly string[];
  readonly environments: readonly string[];
}

const scalarLiteral = scalarValue.map((value): LiteralTree => ({ kind: "scalar", value }));
const versionLiteral = fc.constantFrom(...versions).map((text): LiteralTree => ({ kind: "version", text }));
const timeLiteral = fc.constantFrom(...times).map((text): LiteralTree => ({ kind: "time", text }));
const numberLiteral = fc.constantFrom(...numbers).map((value): LiteralTree => ({ kind: "scalar", value }));
const textLiteral = textValue.map((value): LiteralTree => ({ kind: "scalar", value }));
const listLiteral: fc.Arbitrary<LiteralTree> = fc
  .oneof(
    fc.array(textValue, { minLength: 1, maxLength: 3 }),
    fc.array(fc.constantFrom(...numbers), { minLength: 1, maxLength: 3 }),
    fc.array(fc.boolean(), { minLength: 1, maxLength: 2 }),
  )
  .map((values) => ({ kind: "list" as const, values: values as (string | number | boolean)[] }));
const regexLiteral = fc
  .tuple(fc.constantFrom("^f", "t$", "o{2}", "[a-z]+-[a-z]+", "/", "\\."), fc.boolean())
  .map(([pattern, ignoreCase]): LiteralTree => ({ kind: "regex", pattern, ignoreCase }));

const operators: readonly (readonly [string, fc.Arbitrary<LiteralTree | undefined>])[] = [
  ...["==", "!="].map((o) => [o, fc.oneof(scalarLiteral, versionLiteral, timeLiteral)] as const),
  ...["<", "<=", ">", ">="].map((o) => [o, fc.oneof(numberLiteral, versionLiteral, timeLiteral)] as const),
  ...["in", "not in", "overlaps", "covers"].map((o) => [o, listLiteral] as const),
  ["contains", scalarLiteral],
  ["starts with", textLiteral],
  ["ends with", textLiteral],
  ["matches", regexLiteral],
  ["is missing", fc.constant(undefined)],
  ["is present", fc.constant(undefined)],
];

const pathOperand = fc
  .tuple(fc.constantFrom(...paths), fc.boolean())
  .map(([path, lower]): OperandTree => ({ kind: "path", path, lower: lower && path.length > 0 }));

const attributeTest: fc.Arbitrary<Tree> = fc.oneof(
  pathOperand.map(
    (operand): Tree => ({ kind: "test", operand: { ...operand, lower: false } as OperandTree, operator: "" }),
  ),
  ...operators.map(([operator, literal]) =>
    fc
      .tuple(pathOperand, literal)
      .map(([operand, l]): Tree => ({ kind: "test", operand, operator, ...(l ? { literal: l } : {}) })),
  ),
);

function tests(names: Names): fc.Arbitrary<Tree> {
  const choices: { arbitrary: fc.Arbitrary<Tree>; weight: number }[] = [{ arbitrary: attributeTest, weight: 6 }];
  const reference = (to: "cohort" | "window", known: readonly string[]) =>
    fc.constantFrom(...known).map((name): Tree => ({ kind: "reference", to, name }));
  if (names.cohorts.length) choices.push({ arbitrary: reference("cohort", names.cohorts), weight: 1 });
  if (names.windows.length) choices.push({ arbitrary: reference("window", names.windows), weight: 1 });
  if (names.flags.length) {
    const flag = fc
      .constantFrom(...names.flags)
      .map((name): Tree => ({ kind: "test", operand: { kind: "flag", name }, operator: "" }));
    choices.push({ arbitrary: flag, weight: 1 });
  }
  if (names.environments.length) {
    const environment = fc.constantFrom(...names.environments).map(
      (value): Tree => ({
        kind: "test",
        operand: { kind: "environment" },
        operator: "==",
        literal: { kind: "scalar", value },
      }),
    );
    choices.push({ arbitrary: environment, weight: 1 });
  }
  return fc.oneof(...choices);
}

export function anyTree(names: Names, depth = 3): fc.Arbitrary<Tree> {
  if (depth === 0) return tests(names);
  const inner = anyTree(names, depth - 1);
  const group = fc
    .tuple(fc.constantFrom("and", "or"), fc.array(inner, { minLength: 2, maxLength: 3 }))
    .map(([kind, parts]): Tree => ({ kind: kind as "and", parts }));
  return fc.oneof(
    { arbitrary: tests(names), weight: 3 },
    { arbitrary: group, weight: 2 },
    { arbitrary: inner.map((part): Tree => ({ kind: "not", part })), weight: 1 },
  );
}

/** Writes a tree with brackets around every group, and single quotes now and then. */
export function write(tree: Tree): string {
  switch (tree.kind) {
    case "and":
    case "or":
      return tree.parts
        .map((part) => (part.kind === "test" || part.kind === "reference" ? write(part) : `(${write(part)})`))
        .join(` ${tree.kind} `);
    case "not":
      return tree.part.kind === "and" || tree.part.kind === "or"
        ? `not (${write(tree.part)})`
        : `not ${write(tree.part)}`;
    case "reference":
      return `${tree.to}:${tree.name}`;
    case "test":
      return [writeOperand(tree.operand), tree.operator, tree.literal && writeLiteral(tree.literal)]
        .filter(Boolean)
        .join(" ");
  }
}

function writeOperand(operand: OperandTree): string {
  if (operand.kind === "environment") return "environment";
  if (operand.kind === "flag") return `flag:${operand.name}`;
  const path = operand.path
    .map((segment, i) =>
      /^[a-z]+$/.test(segment) && segment !== "in" ? (i ? `.${segment}` : segment) : `["${segment}"]`,
    )
    .join("");
  return operand.lower ? `lower(${path})` : path;
}

function writeLiteral(literal: LiteralTree): string {
  switch (literal.kind) {
    case "scalar":
      return writeScalar(literal.value);
    case "list":
      return `[${literal.values.map(writeScalar).join(",")}]`;
    case "regex":
      return `/${literal.pattern.replaceAll("/", "\\/")}/${literal.ignoreCase ? "i" : ""}`;
    default:
      return literal.text;
  }
}

function writeScalar(value: string | number | boolean): string {
  return typeof value === "string" ? JSON.stringify(value) : String(value);
}
