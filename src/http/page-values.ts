import { createHash } from "node:crypto";
import type { NameOf, PinnedFlags } from "../runtime/index.ts";
import type { PinnedRequest } from "./pinner.ts";

/** What a page is told: the revision, and the values of the flags that the program lists. */
export interface PageValues {
  readonly revision: string;
  readonly values: Readonly<Record<string, unknown>>;
}

export function pageValues<C>(pinned: PinnedFlags<C>, only: readonly NameOf<C>[]): PageValues {
  return { revision: pinned.revision, values: pinned.values({ only }) };
}

/** An answer that any kind of server can send. */
export interface Answer {
  readonly status: number;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string;
}

/** The values as JSON, for this person only; asked for again, they are sent again only if they have changed. */
export function valuesAnswer<C>(
  { pinned, pass }: Pick<PinnedRequest<C>, "pinned" | "pass">,
  only: readonly NameOf<C>[],
  ifNoneMatch: string | undefined,
): Answer {
  const body = JSON.stringify(pageValues(pinned, only));
  const headers = { "content-type": "application/json; charset=utf-8", "cache-control": "private, no-cache" };
  if (pass) return { status: 200, headers: { ...headers, "cache-control": "no-store" }, body };
  const etag = `"${createHash("sha256").update(body).digest("base64url").slice(0, 22)}"`;
  const known = (ifNoneMatch ?? "").split(",").some((tag) => tag.trim().replace(/^W\//, "") === etag);
  return known
    ? { status: 304, headers: { "cache-control": headers["cache-control"], etag }, body: "" }
    : { status: 200, headers: { ...headers, etag }, body };
}

/** Too many listen already, or the server is about to stop. */
export const fullAnswer: Answer = {
  status: 503,
  headers: { "retry-after": "5", "cache-control": "no-store" },
  body: "Come back later\n",
};

/** Something failed, and nobody else answers. */
export const failedAnswer: Answer = {
  status: 500,
  headers: { "content-type": "text/plain; charset=utf-8", "cache-control": "no-store" },
  body: "Something went wrong\n",
};

/** Nothing here: not kept by anybody, since the address may open at any moment. */
export function closedAnswer(status: number): Answer {
  const body = status === 404 ? "Not found\n" : "Not available\n";
  return { status, headers: { "content-type": "text/plain; charset=utf-8", "cache-control": "no-store" }, body };
}
