import type { NameOf } from "../catalogue/index.ts";
import type { PinnedFlags } from "../flags/index.ts";
import { type Answer, plainAnswer, takenAnswer } from "./page-values.ts";

/** Bytes of a report; a page reports each flag once. */
const longestReport = 65_536;

const maxNames = 1_000;
const wanted = 'Send POST with { "seen": ["name", …] }: flags that the page has asked for.\n';

/** A report as text; undefined where it is too long. */
export async function reportIn(pieces: AsyncIterable<Uint8Array> | readonly Uint8Array[]): Promise<string | undefined> {
  const read: Uint8Array[] = [];
  let bytes = 0;
  for await (const piece of pieces) {
    bytes += piece.length;
    if (bytes > longestReport) return undefined;
    read.push(piece);
  }
  return Buffer.concat(read).toString();
}

/**
 * Takes what a page says that it has asked for: `{ "seen": ["seat-map"] }`. It can claim nothing but names, of flags that
 * it may see; what they give is judged here.
 *
 * @param body as it was read: bytes, text or parsed; undefined where it was too long
 */
export function seenAnswer<C>(
  pinned: PinnedFlags<C>,
  only: readonly NameOf<C>[],
  method: string | undefined,
  body: unknown,
): Answer {
  if (method !== "POST") {
    const answer = plainAnswer(405, wanted);
    return { ...answer, headers: { ...answer.headers, allow: "POST" } };
  }
  const names = body === undefined ? [] : namesIn(body);
  if (!names) return plainAnswer(400, wanted);
  if (body === undefined || names.length > maxNames)
    return plainAnswer(413, `That is too much: ${maxNames} names in ${longestReport} bytes at most.\n`);
  const claimed = new Set(names);
  pinned.seen(only.filter((name) => claimed.has(name)));
  return takenAnswer;
}

function namesIn(body: unknown): readonly unknown[] | undefined {
  try {
    const text = body instanceof Uint8Array ? Buffer.from(body).toString() : body;
    const { seen } = (typeof text === "string" ? JSON.parse(text) : text) as { readonly seen?: unknown };
    return Array.isArray(seen) ? seen : undefined;
  } catch {
    return undefined;
  }
}
