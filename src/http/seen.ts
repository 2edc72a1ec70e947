import type { NameOf } from "../catalogue/index.ts";
import type { PinnedFlags } from "../runtime/index.ts";
import { type Answer, plainAnswer, takenAnswer } from "./page-values.ts";

/** Bytes of a report; a page reports each flag once. */
export const longestReport = 65_536;

const mostNames = 1_000;
const wanted = 'Send POST with { "seen": ["name", …] }: flags that the page has asked for.\n';

/**
 * Takes what a page says that it has asked for: `{ "seen": ["seat-map"] }`. It can claim nothing but names, of flags that
 * it may see; what they give is judged here.
 *
 * @param body as it was read, text or parsed; undefined where it was too long
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
  if (body === undefined || names.length > mostNames)
    return plainAnswer(413, `That is too much: ${mostNames} names in ${longestReport} bytes at most.\n`);
  pinned.seen(only.filter((name) => names.includes(name)));
  return takenAnswer;
}

function namesIn(body: unknown): readonly unknown[] | undefined {
  try {
    const { seen } = (typeof body === "string" ? JSON.parse(body) : body) as { readonly seen?: unknown };
    return Array.isArray(seen) ? seen : undefined;
  } catch {
    return undefined;
  }
}
