import type { PartChange } from "../insight/index.ts";

/** A commit's message: the note, or the meaning in a line; then the meaning, part by part. */
export function messageOf(changes: readonly PartChange[], note: string): string {
  const meaning = changes.map(({ part, name, words }) => {
    const called = part === "flag" || part === "suspension" ? name : `${part} ${name}`;
    return `${called}: ${words.join("; ")}`;
  });
  const [first = "Definitions changed"] = meaning;
  const title =
    note === "" ? (meaning.length > 1 ? `${shortened(first)} and ${meaning.length - 1} more` : shortened(first)) : note;
  return meaning.length === 0 ? title : `${title}\n\n${meaning.join("\n")}`;
}

function shortened(text: string): string {
  return text.length <= 72 ? text : `${text.slice(0, 71)}…`;
}
