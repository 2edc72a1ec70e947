import { createHash } from "node:crypto";
import type { NameOf } from "../catalogue/index.ts";
import { FlagsError, type PinnedFlags } from "../flags/index.ts";
import type { PinnedRequest } from "./pinner.ts";

/** What a page is told: the revision, and the values of the flags that the program lists. */
export interface PageValues {
  readonly revision: string;
  /** The same for as long as the values are: by it a page that comes back says what it knows. */
  readonly id: string;
  readonly values: Readonly<Record<string, unknown>>;
  /**
   * For whom they are: a digest of what these flags can read of the context. By it tabs of a browser know whether they are
   * the same person's. Left out where that cannot be said, and for who has a pass.
   */
  readonly for?: string | undefined;
}

export function pageValues<C>(pinned: PinnedFlags<C>, only: readonly NameOf<C>[]): PageValues {
  const values = pinned.values({ only });
  const whom = pinned.whom(only);
  return {
    revision: pinned.revision,
    id: idOf(JSON.stringify(values)),
    values,
    ...(whom === undefined ? {} : { for: idOf(whom) }),
  };
}

/** @param text values as JSON, say */
export function idOf(text: string): string {
  return createHash("sha256").update(text).digest("base64url").slice(0, 22);
}

/** How the values of flags are put into the markup of a page. */
export interface PageScriptOptions {
  /** The id of the element; “flags” by default. */
  readonly id?: string | undefined;
  /** The nonce of a content security policy. */
  readonly nonce?: string | undefined;
}

/** An element that holds the values as JSON, in which no value can end the element or begin another. */
export function pageScript(values: PageValues, { id = "flags", nonce }: PageScriptOptions): string {
  const attributes = [`type="application/json"`, `id="${attribute("id", id)}"`];
  if (nonce !== undefined) attributes.push(`nonce="${attribute("nonce", nonce)}"`);
  return `<script ${attributes.join(" ")}>${JSON.stringify(values).replace(/[<>&\u2028\u2029]/g, escaped)}</script>`;
}

function escaped(character: string): string {
  return `\\u${character.charCodeAt(0).toString(16).padStart(4, "0")}`;
}

function attribute(name: string, value: string): string {
  if (/^[\w+/=:.-]+$/.test(value)) return value;
  throw new FlagsError(`The ${name} of a page's script is “${value}”; write letters, digits and -_+/=:. only.`);
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
  const told = pageValues(pinned, only);
  const body = JSON.stringify(told);
  const headers = { "content-type": "application/json; charset=utf-8", "cache-control": "private, no-cache" };
  if (pass) return { status: 200, headers: { ...headers, "cache-control": "no-store" }, body };
  // Weak: what says the same may name another revision.
  const etag = `W/"${told.id}"`;
  const known = (ifNoneMatch ?? "").split(",").some((tag) => tag.trim().replace(/^(?:W\/)?/, "W/") === etag);
  return known
    ? { status: 304, headers: { "cache-control": headers["cache-control"], etag }, body: "" }
    : { status: 200, headers: { ...headers, etag }, body };
}

/** Taken, and nothing to say. */
export const takenAnswer: Answer = { status: 204, headers: { "cache-control": "no-store" }, body: "" };

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
  return plainAnswer(status, body);
}

/** What somebody sent cannot be taken. */
export function plainAnswer(status: number, body: string): Answer {
  return { status, headers: { "content-type": "text/plain; charset=utf-8", "cache-control": "no-store" }, body };
}
