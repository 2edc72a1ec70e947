/** Texts that older YAML read as yes-no; in YAML 1.2 they are texts, which hardly anybody means. */
export const yesNoWords = /^(?:y|yes|n|no|on|off)$/i;

/** Must the source of this scalar be kept for the checks? `quoted` tells texts in quotes from plain ones. */
export function isSpellingKept(value: unknown, source: string, quoted: boolean): boolean {
  if (typeof value === "number") return source !== String(value) || !Number.isSafeInteger(value);
  return typeof value === "string" && !quoted && yesNoWords.test(value);
}
