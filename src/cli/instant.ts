import { parseTime } from "../values/index.ts";
import { UsageError } from "./output.ts";

/** Epoch milliseconds of `--at`; now if it is left out. */
export function instantOf(text: string | undefined): number {
  if (text === undefined) return Date.now();
  const epoch = parseTime(text);
  if (Number.isNaN(epoch))
    throw new UsageError(`“${text}” is not an instant.`, "write --at 2026-12-05T12:00Z, or with an offset");
  return epoch;
}
