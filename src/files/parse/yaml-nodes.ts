import { isScalar, type Node } from "yaml";
import type { TextRange } from "./parsed-file.ts";

export type AnyNode = Node | null | undefined;

export function keyText(node: AnyNode): string | undefined {
  if (!isScalar(node)) return undefined;
  return typeof node.value === "string" ? node.value : (node.source ?? String(node.value));
}

export function rangeOf(node: AnyNode): TextRange {
  const range = node?.range;
  return range ? { start: range[0], end: range[1] } : { start: 0, end: 0 };
}

export function firstLine(range: TextRange, text: string): TextRange {
  const lineEnd = text.indexOf("\n", range.start);
  return { start: range.start, end: lineEnd < 0 ? range.end : Math.min(range.end, lineEnd) };
}

/** The parser also fills in tags that nobody wrote; a written one stands before the node, after a “!”. */
export function isExplicitTag(node: Node, text: string): boolean {
  const { start } = rangeOf(node);
  return text[start] === "!" || /![^\s,[\]{}]*\s+(?:&\S+\s+)?$/.test(text.slice(Math.max(0, start - 200), start));
}

export function escapePointer(key: string): string {
  return key.replace(/~/g, "~0").replace(/\//g, "~1");
}

export function lowerFirst(text: string): string {
  return text.charAt(0).toLowerCase() + text.slice(1).replace(/\.$/, "");
}
