import { isAbsolute, relative, sep } from "node:path";
import pc from "picocolors";
import type { Paint } from "../files/index.ts";
import type { ExplanationPaint } from "../insight/index.ts";
import { printable } from "../values/index.ts";

/** Where a command writes and asks; handed in, so that it can be run and read from a program. */
export interface Output {
  out(text: string): void;
  err(text: string): void;
  readonly colour: boolean;
  /** Whether standard error is a terminal, where a line can be written over. */
  readonly liveErr?: boolean;
  /** Asks a yes or no of the person at the terminal; undefined where there is none. */
  readonly confirm?: ((question: string) => Promise<boolean>) | undefined;
  /** Settles when the person ends a command that goes on by itself. */
  readonly interrupted?: () => Promise<void>;
}

/** The answer is good news, bad news, or the question was wrong; 3: good news as far as it can be known. */
export type ExitCode = 0 | 1 | 2 | 3;

/** What is wrong with the way a command was called. */
export class UsageError extends Error {
  readonly help: string | undefined;

  constructor(message: string, help?: string) {
    super(message);
    this.help = help;
  }
}

export function problemPaint(colour: boolean): Paint {
  const c = pc.createColors(colour);
  return { error: c.red, warning: c.yellow, place: c.bold, faint: c.dim, strong: (text) => text };
}

export function explanationPaint(colour: boolean): ExplanationPaint {
  const c = pc.createColors(colour);
  return { yes: c.green, no: c.red, open: c.yellow, strong: c.bold, faint: c.dim };
}

export function json(value: unknown): string {
  return `${JSON.stringify(value, undefined, 2)}\n`;
}

/** `1 flag`, `2 flags`, `1,000 people`. */
export function count(n: number, word: string, plural = `${word}s`): string {
  return `${number(n)} ${n === 1 ? word : plural}`;
}

/** A path for people: relative to the working directory if it lies within. */
export function shownPath(path: string): string {
  const within = relative(process.cwd(), path);
  const isWithin = within !== "" && within !== ".." && !within.startsWith(`..${sep}`) && !isAbsolute(within);
  return printable(isWithin ? within : path);
}

export function number(n: number): string {
  return n.toLocaleString("en-US");
}

export function percent(n: number): string {
  return `${n.toFixed(2)}%`;
}

/** Columns that line up; numbers may be put to the right. */
export function table(rows: readonly (readonly string[])[], right: readonly number[] = [], gap = "  "): string[] {
  const widths: number[] = [];
  for (const row of rows) for (const [i, cell] of row.entries()) widths[i] = Math.max(widths[i] ?? 0, cell.length);
  return rows.map((row) =>
    row
      .map((cell, i) => (right.includes(i) ? cell.padStart(widths[i]!) : cell.padEnd(widths[i]!)))
      .join(gap)
      .trimEnd(),
  );
}
