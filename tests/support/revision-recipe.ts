import { createHash } from "node:crypto";
import { murmur } from "./oracle.ts";

/** What a set says, by kind and name. */
export type Entries = Readonly<Record<string, Readonly<Record<string, object>>>>;

export function sha256(text: string): string {
  return createHash("sha256").update(text).digest("hex");
}

/** JSON as RFC 8785 has it, for what has no numbers that are odd. */
function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join()}]`;
  if (typeof value !== "object" || value === null) return JSON.stringify(value);
  const members = Object.entries(value).filter(([, member]) => member !== undefined);
  const sorted = members.sort(([one], [other]) => (one < other ? -1 : 1));
  return `{${sorted.map(([key, member]) => `${JSON.stringify(key)}:${canonical(member)}`).join()}}`;
}

/** The blocks of a set, worked out apart from the library: each with its number and digest, in order. */
export function blocksByRecipe(entries: Entries): (readonly [number: string, digest: string])[] {
  const blocks = new Map<string, string>();
  for (const kind of Object.keys(entries).sort()) {
    for (const name of Object.keys(entries[kind]!).sort()) {
      const number = blockByRecipe(kind, name);
      const text = `iudex 1\n${kind}\n${name}\n${canonical(entries[kind]![name])}\n`;
      blocks.set(number, (blocks.get(number) ?? "") + text);
    }
  }
  return [...blocks].sort(([one], [other]) => (one < other ? -1 : 1)).map(([number, text]) => [number, sha256(text)]);
}

export function blockByRecipe(kind: string, name: string): string {
  const hash = murmur(new TextEncoder().encode(`${kind}\n${name}`), 0);
  return Math.floor(hash / 2 ** 20)
    .toString(16)
    .padStart(3, "0");
}

export function revisionByRecipe(entries: Entries): string {
  const lines = blocksByRecipe(entries).map(([number, digest]) => `${number} ${digest}\n`);
  return sha256(lines.join("")).slice(0, 32);
}
