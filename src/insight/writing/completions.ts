import { type AttributeType, operators, parsePath, printPath } from "../../language/index.ts";
import type { Definitions } from "../../model/index.ts";
import { show } from "../../values/index.ts";

/** Something that can stand at a place of a condition. */
export interface Completion {
  readonly text: string;
  /** What it is, for people. */
  readonly about: string;
}

/** What can stand at a place, in the place of the part of a word that is there. */
export interface Completions {
  readonly from: number;
  readonly to: number;
  readonly options: readonly Completion[];
}

const most = 40;

/**
 * What can be written at a place of a condition: attributes, cohorts, windows and flags where something is asked of,
 * operators that fit the type behind it, listed texts where it is compared.
 *
 * @param offset UTF-16 units from the start of the text
 * @example completionsAt(definitions, "account.plan ", 13).options[0] // { text: "==", about: "is" }
 */
export function completionsAt(definitions: Definitions, text: string, offset: number): Completions {
  const head = text.slice(0, offset);
  const open = openTextIn(head);
  if (open !== undefined) {
    const from = open + 1;
    const operand = operandBefore(head.slice(0, open).replace(/\[[^\]]*$/, ""));
    const end = head[open] === "'" ? "'" : '"';
    const texts = valuesOf(operand, definitions).filter((value) => value.startsWith('"'));
    const options = texts.map((value) => ({
      text: `${value.slice(1, -1)}${text[offset] === end ? "" : end}`,
      about: "",
    }));
    return { from, to: offset, options: fitting(options, head.slice(from)) };
  }
  const word = /[A-Za-z_][\w.:-]*$/.exec(head)?.[0] ?? "";
  const from = offset - word.length;
  return { from, to: offset, options: fitting(optionsAfter(head.slice(0, from).trimEnd(), definitions), word) };
}

function fitting(options: readonly Completion[], word: string): readonly Completion[] {
  const wanted = word.toLowerCase();
  const found = options.filter(({ text }) => text.toLowerCase().startsWith(wanted) && text !== word);
  const inside = options.filter(({ text }) => wanted !== "" && text.toLowerCase().indexOf(wanted) > 0);
  return [...found, ...inside].slice(0, most);
}

/** Where the text begins that is not closed yet. */
function openTextIn(head: string): number | undefined {
  let open: number | undefined;
  for (let i = 0; i < head.length; i++) {
    const c = head[i];
    if (open !== undefined && c === "\\") i++;
    else if (open === undefined && (c === '"' || c === "'")) open = i;
    else if (open !== undefined && c === head[open]) open = undefined;
  }
  return open;
}

const signs = /(==|!=|<=|>=|<|>)$/;
const listWords = /\b(not in|in|overlaps|covers)$/;
const textWords = /\b(contains|starts with|ends with|matches)$/;

function optionsAfter(before: string, definitions: Definitions): readonly Completion[] {
  if (/\[[^\]]*$/.test(before)) return values(operandBefore(before.replace(/\[[^\]]*$/, "")), definitions);
  if (before === "" || (/(\(|\b(and|or|not))$/.test(before) && !/\bis not$/.test(before) && !listWords.test(before)))
    return subjects(definitions);
  if (signs.test(before)) return values(operandBefore(before), definitions);
  if (listWords.test(before)) {
    return values(operandBefore(before), definitions).map(({ text, about }) => ({ text: `[${text}]`, about }));
  }
  if (textWords.test(before)) return values(operandBefore(before), definitions);
  if (/\bis$/.test(before))
    return [
      { text: "missing", about: "nothing is known" },
      { text: "present", about: "something is known" },
    ];
  return isOperandLast(before) ? [...operatorsFor(typeOf(operandBefore(before), definitions)), ...joints] : joints;
}

const joints: readonly Completion[] = [
  { text: "and", about: "both must hold" },
  { text: "or", about: "one must hold" },
];

function subjects({ attributes, cohorts, windows, flags }: Definitions): readonly Completion[] {
  return [
    ...[...attributes.values()].map(({ name, type, about }) => ({ text: name, about: about ?? typeWords(type) })),
    ...[...cohorts.values()].map(({ name, about }) => ({ text: `cohort:${name}`, about: about ?? "a cohort" })),
    ...[...windows.values()].map(({ name, about }) => ({ text: `window:${name}`, about: about ?? "a window" })),
    { text: "not", about: "must not hold" },
    { text: "environment", about: "where it is asked" },
    ...[...flags.values()].map(({ name, source }) => ({ text: `flag:${name}`, about: source.about ?? "a flag" })),
  ];
}

const operandAtEnd = /((?:flag|cohort|window):[\w.-]+|[A-Za-z_][\w-]*(?:\.[A-Za-z_][\w-]*|\["[^"]*"\])*)$/;
const operatorAtEnd = /\s*(==|!=|<=|>=|<|>|\b(?:not in|in|overlaps|covers|contains|starts with|ends with|matches|is))$/;

/** What is asked of, in front of an operator that may stand behind it. */
function operandBefore(before: string): string | undefined {
  return operandAtEnd.exec(before.replace(operatorAtEnd, ""))?.[0];
}

function isOperandLast(before: string): boolean {
  const operand = operandAtEnd.exec(before)?.[0];
  if (operand === undefined || /^(true|false|missing|present|v\d.*)$/.test(operand)) return false;
  return !signs.test(before.slice(0, -operand.length).trimEnd());
}

type OperandType = AttributeType | "reference" | undefined;

function typeOf(operand: string | undefined, { attributes, flags, environments }: Definitions): OperandType {
  if (operand === undefined) return undefined;
  if (operand.startsWith("cohort:") || operand.startsWith("window:")) return "reference";
  if (operand === "environment") return [...environments.keys()];
  if (operand.startsWith("flag:")) {
    const flag = flags.get(operand.slice("flag:".length));
    if (flag?.variants) return [...flag.variants.keys()];
    return flag?.type === "data" ? undefined : flag?.type;
  }
  const { path } = parsePath(operand);
  return path && attributes.get(printPath(path))?.type;
}

function operatorsFor(type: OperandType): readonly Completion[] {
  if (type === "reference" || type === "yes-no") return [];
  return Object.entries(operators)
    .filter(([, { offeredFor }]) => offeredFor(type))
    .map(([name, { says }]) => ({ text: name, about: says[0] }));
}

function values(operand: string | undefined, definitions: Definitions): readonly Completion[] {
  return valuesOf(operand, definitions).map((text) => ({ text, about: "" }));
}

function valuesOf(operand: string | undefined, definitions: Definitions): readonly string[] {
  const type = typeOf(operand, definitions);
  if (Array.isArray(type)) return type.map((text) => JSON.stringify(text));
  return type === "yes-no" ? ["true", "false"] : [];
}

function typeWords(type: AttributeType): string {
  return Array.isArray(type) ? `one of ${type.map((text) => show(text)).join(", ")}` : String(type);
}
