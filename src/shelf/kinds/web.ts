import type { EditionFile } from "../edition.ts";
import { EditionFault, reasonOf, ShelfFault } from "../faults.ts";
import { mustBeInterval } from "../interval.ts";
import { cut, longestList, tooLong } from "../list-text.ts";
import type { ListName, Looked, Place } from "../place.ts";
import { shelved } from "./folder-lists.ts";

// Any web server or object store, and any cache in front of it. The files lie there as in a folder.

const defaultEvery = 10_000;

/** No answer keeps a follower away for longer than this, in milliseconds. */
const longestWait = 600_000;

/** A server that has too much is left alone for longer each time, up to this or the time between looks; milliseconds. */
const leastBackOff = 8_000;

/** How a shelf on a web server is followed. */
export interface WebShelfOptions {
  /** Milliseconds between two looks; ten seconds by default. A `Cache-Control` that says more is obeyed. */
  readonly every?: number | undefined;
  /** Sent with every request, such as an `Authorization`; to the shelf's own origin only. */
  readonly headers?: Readonly<Record<string, string>> | undefined;
  /** The name of the definition set; that of the first edition seen if left out. */
  readonly set?: string | undefined;
  /** Allows plain http to other machines, where anybody on the way can read and hold back what is fetched. */
  readonly plainHttp?: boolean | undefined;
}

export function webPlace(address: string | URL, options: WebShelfOptions = {}): Place {
  const { every = defaultEvery, set } = options;
  mustBeInterval(every);
  const base = baseOf(address, options.plainHttp ?? false);
  const web = new Web(base, options.headers ?? {}, Math.max(every, leastBackOff));
  return {
    called: base.href,
    set,
    every,
    isCached: true,
    // The stops first.
    newest: (marks, signal) => ({
      stops: web.newest("stops", marks.stops, signal),
      edition: web.newest("edition", marks.edition, signal),
    }),
    list: (name, number, signal) => web.list(name, number, signal),
    bytes: (file, signal) => web.bytes(file, signal),
  };
}

/** @throws {TypeError} for an address that is none, or that would send everything in the open */
function baseOf(address: string | URL, plainHttp: boolean): URL {
  const base = new URL(address);
  if (!base.pathname.endsWith("/")) base.pathname += "/";
  if (base.username !== "" || base.password !== "")
    throw new TypeError(
      "The address of a shelf holds no password; give it as a header: headers: { Authorization: … }.",
    );
  if (base.protocol === "https:" || (base.protocol === "http:" && (plainHttp || isLoopback(base.hostname))))
    return base;
  if (base.protocol !== "http:")
    throw new TypeError(`“${base.protocol}” is not the address of a web server; https: is expected.`);
  throw new TypeError(
    `“${base.origin}” would be asked in the open: write https:, or plainHttp: true where the way is safe otherwise.`,
  );
}

function isLoopback(host: string): boolean {
  return host === "localhost" || host === "[::1]" || /^127(?:\.\d{1,3}){3}$/.test(host);
}

/** More than a proxy and a store need. */
const maxRedirects = 5;

class Web {
  readonly #base: URL;
  readonly #headers: Readonly<Record<string, string>>;
  readonly #longestBackOff: number;
  #refusals = 0;

  constructor(base: URL, headers: Readonly<Record<string, string>>, longestBackOff: number) {
    this.#base = base;
    this.#headers = headers;
    this.#longestBackOff = longestBackOff;
  }

  /** The mark is the digest of the list, with its tag behind it where that one can be trusted. */
  async newest(name: ListName, mark: string | undefined, signal: AbortSignal): Promise<Looked> {
    const [known, tag = ""] = mark?.split(/ (.*)/s) ?? [];
    const response = await this.#get(`${name}.json`, signal, tag === "" ? {} : { "If-None-Match": tag });
    const wait = freshFor(response.headers);
    if (response.status === 304) return { kind: "same", wait };
    if (response.status === 404 || response.status === 410) return { kind: "empty", wait };
    const text = await readText(response, name);
    const digest = await digestOf(text);
    const now = `${digest} ${isYoung(response.headers) ? "" : (response.headers.get("ETag") ?? "")}`;
    return digest === known ? { kind: "same", mark: now, wait } : { kind: "list", text, mark: now, wait };
  }

  async list(name: ListName, number: number, signal: AbortSignal): Promise<string | undefined> {
    const response = await this.#get(`${shelved[name]}/${number}.json`, signal);
    return response.status === 404 ? undefined : readText(response, name);
  }

  async *bytes({ sha256 }: EditionFile, signal: AbortSignal): AsyncGenerator<Uint8Array> {
    const response = await this.#get(`files/${sha256}`, signal);
    if (response.status === 404) throw new ShelfFault(`${this.#base.href}files/${sha256} is not there.`);
    try {
      if (response.body) yield* response.body as unknown as AsyncIterable<Uint8Array>;
    } catch (error) {
      throw new ShelfFault(`${response.url} broke off: ${reasonOf(error)}.`);
    }
  }

  async #get(path: string, signal: AbortSignal, headers: Record<string, string> = {}): Promise<Response> {
    let url = new URL(path, this.#base);
    for (let redirects = 0; ; redirects++) {
      const response = await this.#ask(url, signal, headers);
      const to = response.status >= 300 && response.status < 400 ? response.headers.get("Location") : null;
      if (to === null) return this.#sound(response, url);
      await response.body?.cancel();
      url = new URL(to, url);
      if (url.origin !== this.#base.origin)
        throw new ShelfFault(`${this.#base.href}${path} leads to ${url.origin}, and other origins are not followed.`);
      if (redirects === maxRedirects) throw new ShelfFault(`${this.#base.href}${path} is redirected over and over.`);
    }
  }

  async #ask(url: URL, signal: AbortSignal, headers: Record<string, string>): Promise<Response> {
    try {
      return await fetch(url, { signal, redirect: "manual", headers: { ...this.#headers, ...headers } });
    } catch (error) {
      throw new ShelfFault(`${url.origin} cannot be reached: ${reasonOf(error)}.`, { cause: error });
    }
  }

  /** An answer that can be used, be it that nothing is there. */
  async #sound(response: Response, url: URL): Promise<Response> {
    const { status } = response;
    if (status === 200 || status === 304 || status === 404 || status === 410) {
      this.#refusals = 0;
      return response;
    }
    await response.body?.cancel();
    // Whoever says that it is too much is left alone, for longer each time.
    const isTooMuch = status === 429 || status === 503;
    const backOff = isTooMuch ? Math.min(this.#longestBackOff, 500 * 2 ** ++this.#refusals) : undefined;
    const wait = retryAfter(response.headers) ?? backOff;
    throw new ShelfFault(`${url.href} answers ${status}.`, { wait });
  }
}

async function readText(response: Response, name: ListName): Promise<string> {
  const pieces: Uint8Array[] = [];
  let length = 0;
  try {
    for await (const piece of (response.body ?? []) as AsyncIterable<Uint8Array>) {
      length += piece.length;
      if (length > longestList) throw new EditionFault(tooLong);
      pieces.push(piece);
    }
  } catch (error) {
    if (error instanceof EditionFault) throw error;
    throw new ShelfFault(`${response.url} broke off: ${reasonOf(error)}.`);
  }
  const text = Buffer.concat(pieces).toString("utf8");
  // A page that says so with status 200, of a proxy or a log-in, is not a list.
  if (/^\s*\{/.test(text)) return text;
  const type = response.headers.get("Content-Type") ?? "no type";
  const words = cut(
    text
      .replace(/<[^>]*>/g, " ")
      .replace(/\s+/g, " ")
      .trim(),
  ).slice(0, 80);
  throw new EditionFault(
    `${response.url} answered ${response.status} (${cut(type)}) and not the list of ${name}: “${words}”`,
  );
}

/**
 * Whether a file changed so recently that it may change again under the same tag: many servers make tags of the time in
 * seconds and the size (RFC 9110, 8.8.1).
 */
function isYoung(headers: Headers): boolean {
  const [date, modified] = [headers.get("Date"), headers.get("Last-Modified")].map((text) => Date.parse(text ?? ""));
  return date! - modified! < coarse;
}

const coarse = 2_000;

async function digestOf(text: string): Promise<string> {
  const digest = await crypto.subtle.digest("SHA-256", new TextEncoder().encode(text));
  return Buffer.from(digest).toString("base64url");
}

/**
 * How long a cached answer still holds (RFC 9111): `max-age` less `Age`, in milliseconds. A random tenth is added, so that
 * followers behind one cache do not all return when the answer expires.
 */
function freshFor(headers: Headers): number | undefined {
  const control = headers.get("Cache-Control") ?? "";
  if (/\bno-(?:cache|store)\b/i.test(control)) return undefined;
  const seconds = Number(/\bmax-age\s*=\s*"?(\d{1,9})/i.exec(control)?.[1] ?? 0) - Number(headers.get("Age") ?? 0);
  return seconds > 0 ? Math.min(seconds * 1_000 * (1 + 0.1 * Math.random()), longestWait) : undefined;
}

/** `Retry-After` (RFC 9110, 10.2.3), in milliseconds: seconds or a date. */
function retryAfter(headers: Headers): number | undefined {
  const text = headers.get("Retry-After");
  if (text === null) return undefined;
  // A date is a length against the server's own clock, which may be another than ours.
  const now = Date.parse(headers.get("Date") ?? "");
  const wait = /^\d+$/.test(text) ? Number(text) * 1_000 : Date.parse(text) - (Number.isNaN(now) ? Date.now() : now);
  return wait >= 0 ? Math.min(wait, longestWait) : undefined;
}
