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

const dayLong = 86_400_000;
const units = { m: 60_000, h: 3_600_000, d: dayLong };

/** Milliseconds of a length of time such as `30m`, `2h` or `7d`. @param option which it was given to */
export function lengthOf(text: string, option: string): number {
  const match = /^([1-9][0-9]{0,4})([mhd])$/.exec(text);
  if (!match) throw new UsageError(`“${text}” is not a length of time.`, `write ${option} 30m, 2h or 7d`);
  return Number(match[1]) * units[match[2] as keyof typeof units];
}
