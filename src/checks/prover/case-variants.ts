/** Letters of a text that are tried in both cases; the texts mentioned are few, so a few letters make enough. */
const maxLetters = 8;

/**
 * Texts that differ from those mentioned in case only, among them one that is not mentioned, for each text that has one.
 * Undefined where the case of letters outside ASCII would have to be understood: some become two letters, some depend on
 * what stands behind them.
 */
export function caseVariants(mentioned: readonly string[]): string[] | undefined {
  const variants: string[] = [];
  for (const text of new Set(mentioned.map((each) => each.toLowerCase()))) {
    if (!/^[\x00-\x7f]*$/.test(text)) return undefined;
    const found = variantsOf(text, mentioned.length);
    if (found === undefined) return undefined;
    variants.push(...found);
  }
  return variants;
}

/** Undefined where more variants are mentioned than are tried. */
function variantsOf(text: string, mentioned: number): readonly string[] | undefined {
  const letters = [...text].flatMap((c, i) => (/[a-z]/.test(c) ? [i] : [])).slice(0, maxLetters);
  if (letters.length === maxLetters && 2 ** maxLetters <= mentioned) return undefined;
  return Array.from({ length: 2 ** letters.length }, (_, bits) => {
    const characters = [...text];
    for (const [k, i] of letters.entries()) if (bits & (1 << k)) characters[i] = characters[i]!.toUpperCase();
    return characters.join("");
  }).concat(/k/.test(text) ? [text.replace("k", "\u212a")] : []);
}
