import type { TextRange } from "../parse/parsed-file.ts";

/**
 * Where a span of a scalar's value stands in the source: quotes, escapes, folded lines and indentation lie between
 * the two. Both are walked together; a part of the source that has no counterpart in the value is passed over.
 */
export function alignScalar(text: string, range: TextRange, value: string, span: TextRange): TextRange {
  const map = alignment(text.slice(range.start, range.end), value);
  const start = range.start + (map[span.start] ?? map.at(-1)!);
  const last = map[Math.max(span.start, span.end - 1)];
  const end = span.end > span.start && last !== undefined ? range.start + last + 1 : start;
  return { start, end };
}

/** For each unit of the value, and for its end, the offset in the source. */
function alignment(source: string, value: string): number[] {
  const quote = source[0];
  const style = quote === '"' || quote === "'" ? quote : quote === "|" || quote === ">" ? "block" : "plain";
  let s = style === "block" ? source.indexOf("\n") + 1 : style === "plain" ? 0 : 1;
  const map: number[] = [];
  for (let v = 0; v < value.length; v++) {
    const c = value[v]!;
    s = skipLayout(source, s, c, style);
    map.push(s);
    s += unitLength(source, s, style);
  }
  map.push(Math.min(s, source.length));
  return map;
}

/** Line breaks and indentation that folding turned into one blank, or into nothing. */
function skipLayout(source: string, from: number, c: string, style: string): number {
  let s = from;
  if (c === "\n" || c === " ") {
    const folded = /^[ \t]*\r?\n[ \t\r\n]*/.exec(source.slice(s));
    if (folded && c === " ") return s + folded[0].length - 1;
    return s;
  }
  while (s < source.length && /\s/.test(source[s]!) && source[s] !== c) s++;
  if (style === '"' && source[s] === "\\" && /^\\\r?\n/.test(source.slice(s))) {
    s += 2;
    while (/\s/.test(source[s] ?? "")) s++;
  }
  return s;
}

function unitLength(source: string, s: number, style: string): number {
  if (style === "'" && source[s] === "'" && source[s + 1] === "'") return 2;
  if (style !== '"' || source[s] !== "\\") return 1;
  const lengths: Record<string, number> = { x: 4, u: 6, U: 10 };
  return lengths[source[s + 1] ?? ""] ?? 2;
}
