import { printable } from "../../values/index.ts";
import type { LocatedProblem } from "./located.ts";

/** How problems are shown. */
export interface RenderOptions {
  /** The text of a file, for showing the line; undefined where there is none. */
  readonly text?: (file: string) => string | undefined;
  /** How a file is called; its name in the folder by default. */
  readonly path?: (file: string) => string;
  readonly paint?: Paint;
}

/** Colours, or none. */
export interface Paint {
  /** The word “error”, and the mark below a fault. */
  error(text: string): string;
  /** The word “warning”, and its mark. */
  warning(text: string): string;
  /** File, line and column. */
  place(text: string): string;
  /** What may be skipped. */
  faint(text: string): string;
  /** The message. */
  strong(text: string): string;
}

const same = (text: string) => text;
export const noPaint: Paint = { error: same, warning: same, place: same, faint: same, strong: same };

const widest = 100;

/** Problems as text: the place, what is wrong, the line with a mark, and what to write. */
export function renderProblems(problems: readonly LocatedProblem[], options: RenderOptions = {}): string {
  return problems.map((p) => renderProblem(p, options)).join("\n\n");
}

function renderProblem(problem: LocatedProblem, options: RenderOptions): string {
  const p = printableProblem(problem);
  const { text, path = same, paint = noPaint } = options;
  const severity = p.severity === "error" ? paint.error("error") : paint.warning("warning");
  const content = text?.(p.file);
  // A folder, or a file that could not be read, has no lines.
  const place = content === undefined && p.line === 1 && p.column === 1 ? "" : `:${p.line}:${p.column}`;
  const head = `${paint.place(`${path(p.file)}${place}`)}  ${severity}  ${paint.faint(p.code)}`;
  const lines = [head, ...wrap(p.message, "  ").map(paint.strong)];
  lines.push(...excerpt(content, p, paint));
  if (p.expected) lines.push(...labelled("expected", p.expected, paint));
  if (p.help) lines.push(...labelled("help", p.help, paint));
  for (const r of p.related ?? [])
    lines.push(`  ${paint.faint("see")}       ${path(r.file)}:${r.line}:${r.column}  ${r.message}`);
  return lines.join("\n");
}

function printableProblem(p: LocatedProblem): LocatedProblem {
  return {
    ...p,
    file: printable(p.file),
    message: printable(p.message),
    ...(p.expected === undefined ? {} : { expected: printable(p.expected) }),
    ...(p.help === undefined ? {} : { help: printable(p.help) }),
    ...(p.related
      ? { related: p.related.map((r) => ({ ...r, file: printable(r.file), message: printable(r.message) })) }
      : {}),
  };
}

function labelled(label: string, text: string, paint: Paint): string[] {
  const [first = "", ...rest] = wrap(text, "");
  return [`  ${paint.faint(label.padEnd(9))} ${first}`, ...rest.map((line) => `  ${" ".repeat(10)}${line}`)];
}

function excerpt(text: string | undefined, p: LocatedProblem, paint: Paint): string[] {
  const line = text?.split("\n")[p.line - 1]?.replace(/\r$/, "");
  if (line === undefined || line.trim() === "") return [];
  const number = String(p.line).padStart(5);
  const from = Math.max(0, Math.min(p.column - 1 - 60, line.length - 90));
  const shown = line.slice(from, from + 90);
  const start = p.column - 1 - from;
  const end = p.endLine === p.line ? Math.min(p.endColumn - 1 - from, shown.length) : shown.length;
  const mark = `${" ".repeat(Math.max(start, 0))}${"^".repeat(Math.max(end - start, 1))}`;
  const tint = p.severity === "error" ? paint.error : paint.warning;
  return [
    `${paint.faint(`${number} │`)} ${printable(shown.replace(/\t/g, " "))}`,
    `${paint.faint("      │")} ${tint(mark)}`,
  ];
}

export function wrap(text: string, indent: string, width = widest - 14): string[] {
  const lines: string[] = [];
  let line = "";
  for (const word of text.split(" ")) {
    if (line !== "" && line.length + word.length + 1 > width) {
      lines.push(indent + line);
      line = word;
    } else {
      line = line === "" ? word : `${line} ${word}`;
    }
  }
  lines.push(indent + line);
  return lines;
}
