import pc from "picocolors";
import type { ExplanationPaint } from "../core/index.ts";
import type { Paint } from "../files/render.ts";

/** Where a command writes; handed in, so that it can be run and read from a program. */
export interface Output {
  out(text: string): void;
  err(text: string): void;
  readonly colour: boolean;
}

/** The answer is good news, bad news, or the question was wrong. */
export type ExitCode = 0 | 1 | 2;

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

export function count(n: number, word: string): string {
  return `${n} ${word}${n === 1 ? "" : "s"}`;
}
