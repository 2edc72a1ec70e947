import { parseTime } from "../../core/condition/time.ts";
import { explain, formatExplanation } from "../../core/index.ts";
import { nearest } from "../../core/names.ts";
import { printable } from "../../core/printable.ts";
import { givenContext } from "../context.ts";
import { type FolderOptions, openFolder, setFor } from "../folder.ts";
import { type ExitCode, explanationPaint, json, type Output, UsageError } from "../output.ts";

export interface WhyOptions extends FolderOptions {
  readonly as?: readonly string[];
  readonly at?: string;
  readonly json?: boolean;
}

/** Which answer, and why. */
export async function why(flag: string, options: WhyOptions, output: Output): Promise<ExitCode> {
  const opened = await openFolder(options, output);
  if (!opened) return 1;
  const { definitions } = opened;
  const set = setFor(definitions, options.env);
  const { context, unreadable } = await givenContext(options.as ?? [], definitions);
  const explanation = explain(set, flag, context, { at: instantOf(options.at) });
  if (!explanation) {
    const near = nearest(flag, definitions.flags.keys());
    throw new UsageError(
      `There is no flag “${flag}”.`,
      near ? `did you mean ${near}?` : "iudex check names the files that were read",
    );
  }
  if (options.json) {
    output.out(json({ ...explanation, unreadable }));
    return 0;
  }
  output.out(`${formatExplanation(explanation, { paint: explanationPaint(output.colour) })}\n`);
  for (const pair of unreadable)
    output.err(`${printable(pair)} is not of the attribute's type, so it counts as missing.\n`);
  return 0;
}

export function instantOf(text: string | undefined): number {
  if (text === undefined) return Date.now();
  const epoch = parseTime(text);
  if (Number.isNaN(epoch))
    throw new UsageError(`“${text}” is no instant.`, "write --at 2026-12-05T12:00Z, or with an offset");
  return epoch;
}
