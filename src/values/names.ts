import { distance } from "fastest-levenshtein";
import { limits } from "./limits.ts";

const namePattern = /^[A-Za-z](?:[A-Za-z0-9._-]*[A-Za-z0-9])?$/;

/** The pattern of a name, for the JSON Schema. */
export const nameSource = namePattern.source;

/** Is this a name of a flag, cohort, window, environment, variant or salt? */
export function isName(text: string): boolean {
  return text.length <= limits.nameCharacters && namePattern.test(text);
}

export const nameRule =
  "a letter first, then letters, digits, “-”, “_” or “.”, with a letter or digit last; at most 100 characters";

/**
 * The word of `known` that the writer most likely meant, or undefined when none is near.
 * Near means an edit distance (Levenshtein) of at most a third of the word, rounded up, and never more than 3;
 * a word that differs only in case or in `-`, `_`, `.` is always near.
 */
export function nearest(word: string, known: Iterable<string>): string | undefined {
  const folded = fold(word);
  let best: string | undefined;
  let bestDistance = Math.min(3, Math.ceil(word.length / 3)) + 1;
  for (const candidate of known) {
    if (fold(candidate) === folded) return candidate;
    if (Math.abs(candidate.length - word.length) >= bestDistance) continue;
    const d = distance(word.toLowerCase(), candidate.toLowerCase());
    if (d < bestDistance) {
      best = candidate;
      bestDistance = d;
    }
  }
  return best;
}

function fold(word: string): string {
  return word.toLowerCase().replace(/[-_.]/g, "");
}

/** What to say where a name is that of nothing: which one was probably meant, if one is near. */
export function didYouMean(name: string, known: Iterable<string>, prefix = ""): string | undefined {
  const near = nearest(name, known);
  return near === undefined ? undefined : `did you mean ${prefix}${near}?`;
}

/** “There is no …”, in the words that everything uses for it. */
export function noSuch(what: string, name: string): string {
  return `There is no ${what} “${name}”.`;
}

/** "a", "a and b", "a, b and c"; `most` bounds a long list ("a, b and 7 more"). */
export function sentenceList(words: readonly string[], joiner = "and", most = 8): string {
  if (words.length > most) return `${words.slice(0, most).join(", ")} ${joiner} ${words.length - most} more`;
  if (words.length < 2) return words.join("");
  return `${words.slice(0, -1).join(", ")} ${joiner} ${words.at(-1)}`;
}
