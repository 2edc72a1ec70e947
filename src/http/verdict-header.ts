import type { Verdict } from "../judge/index.ts";

export const verdictHeaderName = "iudex-verdicts";

/** Headers are not for long texts. */
const longestValue = 60;
const longestHeader = 4_096;

/**
 * The flags that were asked and what they gave, as a list of structured fields (RFC 9651):
 * `"zone-fares";value=?1;cause=rule;rule=1`. Values that a header cannot carry are left out.
 */
export function verdictHeader(verdicts: readonly Verdict[]): string {
  let header = "";
  for (const verdict of verdicts) {
    const item = itemOf(verdict);
    if (header.length + item.length > longestHeader) break;
    header += `${header === "" ? "" : ", "}${item}`;
  }
  return header;
}

function itemOf({ flag, value, variant, cause, rule }: Verdict): string {
  const given = variant === undefined ? bare(value) : bare(variant);
  const parts = [bare(flag), given && `value=${given}`, `cause=${cause}`, rule === undefined ? "" : `rule=${rule}`];
  return parts.filter((part) => part !== undefined && part !== "").join(";");
}

function bare(value: unknown): string | undefined {
  switch (typeof value) {
    case "boolean":
      return value ? "?1" : "?0";
    case "number":
      return isDecimal(value) ? String(value) : undefined;
    case "string":
      return isPlainText(value) ? `"${value.replace(/["\\]/g, "\\$&")}"` : undefined;
    default:
      return undefined;
  }
}

/** Structured fields know up to 15 digits, at most three of them after the point. */
function isDecimal(value: number): boolean {
  return Math.abs(value) < 1e12 && Number(value.toFixed(3)) === value;
}

function isPlainText(text: string): boolean {
  return text.length <= longestValue && /^[\x20-\x7e]*$/.test(text);
}
