/** An instant as a condition or definition writes it. */
export interface TimeLiteral {
  readonly source: string;
  /** Milliseconds since 1970-01-01T00:00Z. */
  readonly epoch: number;
}

const pattern =
  /^([0-9]{4})-([0-9]{2})-([0-9]{2})T([0-9]{2}):([0-9]{2})(?::([0-9]{2})(?:\.([0-9]+))?)?(?:(Z)|([+-])([0-9]{2}):([0-9]{2}))$/;

const longestTime = 64;

/**
 * Epoch milliseconds of `YYYY-MM-DDTHH:MM[:SS[.fraction]]` with `Z` or an offset; NaN for anything else. The day must
 * exist, hours run to 23, seconds to 59, and a fraction is cut to milliseconds.
 */
export function parseTime(text: string): number {
  if (text.length > longestTime) return Number.NaN;
  const m = pattern.exec(text);
  if (!m) return Number.NaN;
  const [year, month, day, hour, minute] = [m[1], m[2], m[3], m[4], m[5]].map(Number) as [
    number,
    number,
    number,
    number,
    number,
  ];
  const second = Number(m[6] ?? 0);
  const fraction = Number((m[7] ?? "").slice(0, 3).padEnd(3, "0"));
  if (hour > 23 || minute > 59 || second > 59 || !dayExists(year, month, day)) return Number.NaN;
  const offsetHours = Number(m[10] ?? 0);
  const offsetMinutes = Number(m[11] ?? 0);
  if (offsetHours > 23 || offsetMinutes > 59) return Number.NaN;
  const offset = (m[9] === "-" ? -1 : 1) * (offsetHours * 60 + offsetMinutes) * 60_000;
  return utc(year, month, day) + ((hour * 60 + minute) * 60 + second) * 1_000 + fraction - offset;
}

/** Midnight UTC of a date, years 0 to 99 included (which `Date.UTC` would move to the 1900s). */
function utc(year: number, month: number, day: number): number {
  const date = new Date(0);
  date.setUTCFullYear(year, month - 1, day);
  return date.getTime();
}

export function dayExists(year: number, month: number, day: number): boolean {
  return month >= 1 && month <= 12 && day >= 1 && day <= daysInMonth(year, month);
}

function daysInMonth(year: number, month: number): number {
  if (month === 2) return year % 4 === 0 && (year % 100 !== 0 || year % 400 === 0) ? 29 : 28;
  return month === 4 || month === 6 || month === 9 || month === 11 ? 30 : 31;
}

/** Reads an attribute as an instant: a Date, a text of the form above, or a finite number of epoch milliseconds. */
export function readTime(value: unknown): number {
  switch (typeof value) {
    case "number":
      return Number.isFinite(value) ? value : Number.NaN;
    case "string":
      return parseTime(value);
    case "object":
      return readDate(value);
    default:
      return Number.NaN;
  }
}

/** `getTime` is called on the value rather than asking `instanceof`, so that Dates of another realm count too. */
export function readDate(value: unknown): number {
  try {
    return Date.prototype.getTime.call(value);
  } catch {
    return Number.NaN;
  }
}
